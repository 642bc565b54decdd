import { Select } from '@mantine/core';
import { FIELD_ORDERS, LOW_PASSES, type LowPass } from '@thawline/core/fields';
import { filmRate, formFields, type RenderForm, type Timeline } from '@thawline/project';
import { TWO_FIELDS } from '../../../../shared/rates/rates.js';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';

/** What frames can hold; empty: as the timeline's do. */
function fieldChoices(timeline: Timeline): { value: string; label: string }[] {
  const film = filmRate(timeline);
  return [
    ...(timeline.fields
      ? [
          { value: '', label: 'as the timeline' },
          { value: 'whole', label: 'whole pictures, of first fields' },
        ]
      : [{ value: '', label: 'whole pictures' }]),
    ...TWO_FIELDS,
    ...(film ? FIELD_ORDERS.map((order) => ({ value: `film ${order}`, label: `film by 2:3, ${order} first` })) : []),
  ];
}

/** The choice that a form has. */
function chosenFields({ fields }: RenderForm, timeline: Timeline): string {
  if (fields === null || (fields === 'whole' && !timeline.fields)) return '';
  if (fields === 'whole') return fields;
  return fields.pulldown ? `film ${fields.order}` : fields.order;
}

/** What a choice asks of the form. */
function askedFields(choice: string, lowPass: LowPass): RenderForm['fields'] {
  const [order = '', film] = choice.split(' ').reverse();
  if (order === 'top' || order === 'bottom') return { order, lowPass, pulldown: film !== undefined };
  return choice === 'whole' ? choice : null;
}

/** What each strength leaves of detail that changes from line to line. */
const LOW_PASS_WORDS: Record<LowPass, string> = {
  off: 'off: fine lines may flicker',
  light: 'light: half of the finest detail stays',
  strong: 'strong: none of the finest detail stays',
};

/** Whether frames hold two fields, and what is done against fine lines that flicker in them. */
export function FieldsRow({ timeline }: { timeline: Timeline }) {
  const { form, change } = useRenderWishes();
  const fields = formFields(form, timeline);
  return (
    <div className={classes.formLine}>
      <Select
        label="Frames hold"
        size="xs"
        comboboxProps={{ width: 'max-content', position: 'bottom-start' }}
        data={fieldChoices(timeline)}
        value={chosenFields(form, timeline)}
        allowDeselect={false}
        onChange={(choice) => {
          const wanted = askedFields(choice ?? '', fields?.lowPass ?? 'off');
          // Film by 2:3 has a rate of its own.
          change({ fields: wanted, ...(wanted && wanted !== 'whole' && wanted.pulldown ? { rate: null } : {}) });
        }}
      />
      {fields && (
        <Select
          label="Low-pass, line to line"
          size="xs"
          data={LOW_PASSES.map((value) => ({ value, label: LOW_PASS_WORDS[value] }))}
          value={fields.lowPass}
          allowDeselect={false}
          onChange={(lowPass) => lowPass && change({ fields: { ...fields, lowPass: lowPass as LowPass } })}
        />
      )}
    </div>
  );
}
