import { Button, Checkbox, NumberInput, SegmentedControl } from '@mantine/core';
import { EASE, type Handles, type Pin } from '@thawline/core/cadence';
import { useState } from 'react';
import { count } from '../../../shared/words.js';
import type { CurveEdit } from '../model/useCurveEdit.js';
import classes from './retime.module.css';

interface Props {
  readonly edit: CurveEdit;
  readonly headTrim: number;
  /** The playhead's frame, counted from the clip's first. */
  readonly n: number;
}

/** The chosen pin's frame, picture and way to the next one, to type and to press. */
export function PinEditor({ edit, headTrim, n }: Props) {
  const { curve, chosen, pin, set } = edit;
  if (!pin)
    return (
      <div className={classes.pin} data-testid="pin">
        <span className="quiet">Pins are dragged, moved by the arrow keys, or typed. The playhead is at frame {count(n)}.</span>
      </div>
    );
  const last = chosen === curve.length - 1;
  return (
    <div className={classes.pin} data-testid="pin">
      <PinField label="Frame" value={pin.frame - headTrim} onTake={(v) => set({ frame: v + headTrim })} />
      <PinField label="Picture" value={pin.picture} onTake={(v) => set({ picture: v })} />
      <SegmentedControl
        size="xs"
        aria-label="On to the next pin"
        disabled={last}
        value={pin.way}
        onChange={(way) => set({ way: way as Pin['way'], handles: way === 'eased' ? (pin.handles ?? EASE) : undefined })}
        data={[
          { value: 'even', label: 'even' },
          { value: 'eased', label: 'eased' },
          { value: 'held', label: 'held' },
        ]}
      />
      {pin.way === 'eased' && !last && (
        <Checkbox
          size="xs"
          mt={6}
          label="may run back"
          checked={edit.backward}
          onChange={(e) => {
            const { checked } = e.currentTarget;
            edit.allowBackward(checked);
            // Without it handles come back to their stretch.
            if (!checked && pin.handles)
              set({ handles: pin.handles.map((v) => Math.max(0, Math.min(1, v))) as unknown as Handles });
          }}
        />
      )}
      <Button size="compact-sm" variant="default" disabled={curve.length < 3} onClick={edit.remove}>
        Remove
      </Button>
    </div>
  );
}

/** A whole number that is taken with Enter or when it is left; says beneath it why it was not. */
function PinField({ label, value, onTake }: { label: string; value: number; onTake: (value: number) => string | null }) {
  const [typed, setTyped] = useState<number | string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const take = (): void => {
    const said =
      typed === null || typed === value ? null : Number.isInteger(typed) ? onTake(typed as number) : 'A whole number is wanted.';
    setWrong(said);
    if (said === null) setTyped(null);
  };
  return (
    <NumberInput
      size="xs"
      w={104}
      aria-label={label}
      leftSection={<small className="quiet">{label.toLowerCase()}</small>}
      leftSectionWidth={52}
      classNames={{ input: 'number' }}
      hideControls
      allowDecimal={false}
      value={typed ?? value}
      error={wrong}
      onChange={(v) => {
        setTyped(v);
        setWrong(null);
      }}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take();
        if (e.key === 'Escape') {
          setTyped(null);
          setWrong(null);
        }
      }}
    />
  );
}
