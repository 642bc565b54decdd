import { NumberInput, TextInput } from '@mantine/core';
import { formSchema, NUMBERED_FIRST_MOST } from '@thawline/project';
import { useState } from 'react';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';

/** Eight digits from 0. */
const PLAIN = { name: '########', first: 0 };

/** How numbered pictures are called. */
export function NumberedRow({ ending }: { ending: string }) {
  const { form, change } = useRenderWishes();
  const { name, first } = form.numbered ?? PLAIN;
  const [typed, setTyped] = useState(form.numbered?.name ?? '');
  const isName = (text: string): boolean => formSchema.shape.numbered.safeParse({ name: text, first }).success;
  const bad = typed !== '' && !isName(typed);
  return (
    <div className={classes.formPair}>
      <TextInput
        label="Each picture is called"
        size="xs"
        placeholder={PLAIN.name}
        value={typed}
        error={bad && 'Say where the number goes: shot-####'}
        rightSection={<span className="quiet">.{ending}</span>}
        rightSectionWidth={44}
        onChange={(e) => {
          const text = e.currentTarget.value;
          setTyped(text);
          if (text === '') change({ numbered: first === 0 ? null : { name: PLAIN.name, first } });
          else if (isName(text)) change({ numbered: { name: text, first } });
        }}
      />
      <NumberInput
        label="Counted from"
        size="xs"
        classNames={{ input: 'number' }}
        value={first}
        min={0}
        max={NUMBERED_FIRST_MOST}
        allowDecimal={false}
        onChange={(n) => typeof n === 'number' && change({ numbered: { name, first: n } })}
      />
    </div>
  );
}
