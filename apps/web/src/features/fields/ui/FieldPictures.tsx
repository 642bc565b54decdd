import { SegmentedControl } from '@mantine/core';
import { address, type FieldView } from '@thawline/contract';
import type { FieldOrder } from '@thawline/core/fields';
import { useEffect, useState } from 'react';
import classes from './fields.module.css';

const NAMES: Record<FieldView, string> = {
  first: 'first field',
  second: 'second field',
  both: 'both, as stored',
  'rebuilt-first': 'rebuilt: first picture',
  'rebuilt-second': 'rebuilt: second picture',
  difference: 'what rebuilding the first changes, \u00d74',
  'unsure-first': 'unsure lines of the first picture, the rest faded',
  'unsure-second': 'unsure lines of the second picture, the rest faded',
};
const SETS = {
  fields: ['first', 'second', 'both', 'rebuilt-first'],
  rebuilt: ['both', 'rebuilt-first', 'rebuilt-second', 'difference'],
  unsure: ['rebuilt-first', 'unsure-first', 'rebuilt-second', 'unsure-second'],
} as const satisfies Record<string, readonly FieldView[]>;
type Way = keyof typeof SETS | 'play';

/** Milliseconds that a picture stands when both are played in turn. */
const TURN_MS = 500;

/** Where a stored frame taken apart is to be had. */
export function fieldAddress(mediaId: string, frame: number, view: FieldView, order: FieldOrder): string {
  return `${address('fieldPicture', { media: mediaId, frame, view })}?order=${order}`;
}

/** One stored frame: its fields alone, both as they are, rebuilt, side by side, in turn, and the difference. */
export function FieldPictures({
  mediaId,
  frame,
  order,
  shape,
}: {
  mediaId: string;
  frame: number;
  order: FieldOrder;
  /** Width over height, as shown. */
  shape: number;
}) {
  const [way, setWay] = useState<Way>('fields');
  const [enlarged, setEnlarged] = useState('1');
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    if (way !== 'play') return;
    const timer = setInterval(() => setTurn((t) => 1 - t), TURN_MS);
    return () => clearInterval(timer);
  }, [way]);
  const views: readonly FieldView[] = way === 'play' ? ['rebuilt-first', 'rebuilt-second'] : SETS[way];
  return (
    <section className={`sheet ${classes.pictures}`}>
      <div className={classes.head}>
        <h2 className="heading">
          Frame <span className="number">{frame}</span>
        </h2>
        <span className={classes.turns}>
          <SegmentedControl
            size="xs"
            value={enlarged}
            onChange={setEnlarged}
            data={[
              { value: '1', label: '\u00d71' },
              { value: '4', label: '\u00d74 lines' },
            ]}
          />
          <SegmentedControl
            size="xs"
            value={way}
            onChange={(v) => setWay(v as Way)}
            data={[
              { value: 'fields', label: 'fields' },
              { value: 'rebuilt', label: 'rebuilt' },
              { value: 'unsure', label: 'how sure' },
              { value: 'play', label: 'play slowly' },
            ]}
          />
        </span>
      </div>
      <div className={classes.row} data-enlarged={enlarged} data-way={way} data-testid="field-pictures">
        {views.map((view, i) => (
          <figure key={view} hidden={way === 'play' && i !== turn}>
            <span style={{ aspectRatio: shape }}>
              <img src={fieldAddress(mediaId, frame, view, order)} alt={`${NAMES[view]} of frame ${frame}`} />
            </span>
            <figcaption>{NAMES[view]}</figcaption>
          </figure>
        ))}
      </div>
    </section>
  );
}
