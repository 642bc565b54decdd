import type { FieldRun } from '@thawline/core/fields';
import { useMemo } from 'react';
import { weaveOf } from '../model/fields.js';
import classes from './fields.module.css';

/** Stored frames that are drawn on each side of the one that is looked at. */
const BESIDE = 4;
const [WIDE, TALL] = [840, 158];
const BOX = { width: 66, half: 15 } as const;
/** Where a half's thread ends beside the middle of its frame; pictures of one field stand apart from each other by twice as much. */
const BESIDE_MIDDLE = 20;

/** Pictures as read above, stored frames in two halves below, and a thread from each half to its picture. */
export function FieldsWeave({
  runs,
  frame,
  frames,
  onFrame,
}: {
  runs: readonly FieldRun[];
  frame: number;
  frames: number;
  onFrame: (frame: number) => void;
}) {
  const from = Math.max(0, Math.min(frame - BESIDE, frames - 2 * BESIDE - 1));
  const to = Math.min(frames, from + 2 * BESIDE + 1);
  const pictures = useMemo(() => weaveOf(runs, from, to), [runs, from, to]);
  const owner = new Map(pictures.flatMap((p) => p.halves.map((h) => [`${h.frame} ${h.first}`, p] as const)));
  const column = WIDE / (to - from);
  const middle = (n: number): number => (n - from + 0.5) * column;
  const [top, low] = [30, 98];
  const threadEnd = (h: { readonly frame: number; readonly first: boolean }): number =>
    middle(h.frame) + (h.first ? -BESIDE_MIDDLE : BESIDE_MIDDLE);
  const placeOf = (p: (typeof pictures)[number]): number => {
    const at = p.halves.map(threadEnd);
    return at.reduce((sum, x) => sum + x, 0) / Math.max(1, at.length);
  };
  return (
    <svg viewBox={`0 0 ${WIDE} ${TALL}`} className={classes.weave} role="img" aria-label={weaveWords(pictures, from, to)}>
      {pictures.flatMap((p) =>
        p.halves.map((h) => (
          <path
            key={`${p.k} ${h.frame} ${h.first}`}
            className={classes.thread}
            data-first={h.first}
            d={`M${placeOf(p)} ${top} C${placeOf(p)} ${top + 34} ${threadEnd(h)} ${low - 34} ${threadEnd(h)} ${low}`}
          />
        )),
      )}
      {pictures
        .filter((p) => p.halves.length > 0)
        .map((p) => (
          <g key={p.k} className={classes.picture} data-film={p.isFilm}>
            <rect x={placeOf(p) - 18} y={top - 22} width={36} height={20} rx={3} />
            <text x={placeOf(p)} y={top - 8}>
              {p.label}
            </text>
          </g>
        ))}
      {Array.from({ length: to - from }, (_, i) => from + i).map((n) => {
        const [first, second] = [owner.get(`${n} true`), owner.get(`${n} false`)];
        const mixed = first && second && first.k !== second.k;
        return (
          <g key={n} className={classes.frame} data-mixed={Boolean(mixed)} data-chosen={n === frame}>
            {[first, second].map((p, i) => (
              <g key={i === 0 ? 'first' : 'second'}>
                <rect
                  x={middle(n) - BOX.width / 2}
                  y={low + i * (BOX.half + 1)}
                  width={BOX.width}
                  height={BOX.half}
                  rx={3}
                  data-unused={!p}
                />
                <text x={middle(n)} y={low + i * (BOX.half + 1) + 11}>
                  {p ? `${p.label} ${i === 0 ? 'first' : 'second'}` : 'left out'}
                </text>
              </g>
            ))}
            <text className={classes.number} x={middle(n)} y={low + 2 * BOX.half + 16}>
              {n}
            </text>
            {/* biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys walk through frames as well */}
            <rect
              className={classes.hit}
              x={middle(n) - column / 2}
              y={low - 4}
              width={column}
              height={TALL - low}
              onClick={() => onFrame(n)}
            />
          </g>
        );
      })}
    </svg>
  );
}

function weaveWords(pictures: readonly { label: string; halves: readonly unknown[] }[], from: number, to: number): string {
  const each = pictures.map((p) => `${p.label} from ${p.halves.length} ${p.halves.length === 1 ? 'field' : 'fields'}`);
  return `Weave of fields, stored frames ${from} to ${to - 1}: ${each.join(', ')}`;
}
