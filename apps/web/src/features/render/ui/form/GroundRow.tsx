import { ColorInput, Select } from '@mantine/core';
import { PAINTS, paintHex, paintOf } from '@thawline/core/picture';
import { useState } from 'react';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';

/** Colours that are named for what is seen where nothing is; another one is picked. */
const GROUNDS = ['black', 'grey', 'white'].map((name) => ({ label: name, value: paintHex(PAINTS[name] ?? [0, 0, 0]) }));
const [TRANSPARENT, OTHER] = ['nothing', 'other'] as const;
/** What a colour of one's own begins with. */
const OTHER_FIRST = '#3a6ea5';

/** What stands where no picture is, and behind what is seen through: a colour, or nothing where the form has alpha. */
export function GroundRow({ bears }: { bears: boolean }) {
  const { form, change } = useRenderWishes();
  const [typed, setTyped] = useState<string>(form.over);
  const named = form.over === TRANSPARENT || GROUNDS.some((g) => g.value === form.over);
  return (
    <div className={classes.formPair}>
      <Select
        label="Where nothing is"
        size="xs"
        data={[
          ...GROUNDS,
          { value: OTHER, label: 'another colour' },
          { value: TRANSPARENT, label: bears ? 'transparent' : 'transparent (not in this form)', disabled: !bears },
        ]}
        value={named ? form.over : OTHER}
        allowDeselect={false}
        onChange={(choice) => {
          const over = choice === OTHER ? OTHER_FIRST : choice;
          if (over) change({ over });
          setTyped(over ?? '');
        }}
      />
      {!named && (
        <ColorInput
          label="Colour there"
          size="xs"
          format="hex"
          value={typed}
          onChange={(text) => {
            setTyped(text);
            const paint = paintOf(text);
            if (paint) change({ over: paintHex(paint) });
          }}
        />
      )}
    </div>
  );
}
