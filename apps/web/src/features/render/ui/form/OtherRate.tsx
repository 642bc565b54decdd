import { Select, Switch } from '@mantine/core';
import { formatRate, parseRate } from '@thawline/core/time';
import type { Timeline } from '@thawline/project';
import { useState } from 'react';
import { RateField } from '../../../../shared/rates/RateField.js';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';

/** Frames of another rate than the timeline's: asked for by name, with its price drawn beneath the form. */
export function OtherRate({ timeline }: { timeline: Timeline }) {
  const { form, change } = useRenderWishes();
  const [typed, setTyped] = useState(form.rate ? formatRate(form.rate) : '');
  const [open, setOpen] = useState(form.rate !== null);
  return (
    <div>
      <Switch
        size="xs"
        label="At another rate than the timeline's"
        checked={open}
        onChange={(e) => {
          const on = e.currentTarget.checked;
          setOpen(on);
          change({ rate: on ? parseRate(typed) : null });
        }}
      />
      {open && (
        <div className={classes.other}>
          <RateField
            label="Rate of the render"
            what="frames"
            typed={typed}
            hint={`the timeline runs at ${formatRate(timeline.rate)}`}
            onType={(text) => {
              setTyped(text);
              change({ rate: parseRate(text) });
            }}
          />
          <Select
            label="Frames between the timeline's"
            size="xs"
            data={[
              { value: 'nearest', label: 'hold or skip: whole frames only' },
              { value: 'blend', label: 'blend two frames' },
              { value: 'motion', label: 'made by motion' },
            ]}
            value={form.way}
            allowDeselect={false}
            onChange={(way) => way && change({ way: way as 'nearest' | 'blend' | 'motion' })}
          />
        </div>
      )}
    </div>
  );
}
