import { TextInput } from '@mantine/core';
import { type Clock, clockTimecode, placeWords, readPlace } from '@thawline/core/time';
import { useEffect, useState } from 'react';
import classes from './timelines.module.css';

interface Props {
  readonly label: string;
  readonly clock: Clock;
  readonly value: number;
  /** Resolves to whether it was taken. */
  readonly onFrame: (frame: number) => Promise<boolean> | boolean;
  readonly hidden?: boolean;
  readonly inputRef?: React.Ref<HTMLInputElement>;
  readonly disabled?: boolean;
}

/** A place by timecode, frame, seconds or a move; says while it is typed what was understood. */
export function PlaceField({ label, clock, value, onFrame, hidden = false, inputRef, disabled = false }: Props) {
  const shown = clockTimecode(value, clock);
  const [text, setText] = useState(shown);
  const [editing, setEditing] = useState(false);
  useEffect(() => setText(shown), [shown]);
  const place = readPlace(text, clock, value);
  const frame = place.ok && place.frame >= 0 ? place.frame : null;
  const take = async (): Promise<void> => {
    setEditing(false);
    if (frame === null || frame === value || !(await onFrame(frame))) setText(shown);
  };
  const words = place.ok && place.frame < 0 ? 'before the first frame' : placeWords(place, clock, value);
  return (
    <div className={classes.place}>
      <TextInput
        {...(hidden ? { 'aria-label': label } : { label })}
        ref={inputRef}
        size="xs"
        w={106}
        className="number"
        value={text}
        disabled={disabled}
        error={editing && text !== shown && frame === null}
        onFocus={(e) => {
          setEditing(true);
          e.currentTarget.select();
        }}
        onChange={(e) => {
          setEditing(true);
          setText(e.currentTarget.value);
        }}
        onBlur={() => void take()}
        onKeyDown={(e) => {
          if (e.key === 'Enter') void take();
          if (e.key === 'Escape') setText(shown);
        }}
      />
      {editing && text !== shown && (
        <div className={classes.understood} data-wrong={frame === null || undefined} role="status">
          {words}
        </div>
      )}
    </div>
  );
}
