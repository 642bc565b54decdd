import { EASE, type Handles, type Pin } from '@thawline/core/cadence';
import { useState } from 'react';
import { type HandleIndex, movedHandle } from '../model/curveGeometry.js';
import classes from './retime.module.css';

interface Props {
  /** The eased pin and the one it leads to. */
  readonly a: Pin;
  readonly b: Pin;
  /** Places in the drawing, of a frame counted as pins count, and of a picture. */
  readonly x: (frame: number) => number;
  readonly y: (picture: number) => number;
  /** Frame and picture under the pointer, with fractions. */
  readonly placeOf: (event: { clientX: number; clientY: number }) => { frame: number; picture: number };
  /** Whether the stretch may run back on itself. */
  readonly backward: boolean;
  /** Called while a handle is dragged, and once on release. */
  readonly onDraft: (handles: Handles) => void;
  readonly onTake: (handles: Handles) => void;
  /** A handle is moved by keys, by shares of the stretch. */
  readonly onNudge: (by: { readonly index: HandleIndex; readonly x: number; readonly y: number }) => void;
}

/** How far an arrow key takes a handle, in shares of the stretch. */
const STEP = 0.05;

/** The two handles of an eased stretch, each on a thin line from its pin. */
export function EaseHandles({ a, b, x, y, placeOf, backward, onDraft, onTake, onNudge }: Props) {
  const [held, setHeld] = useState<Handles | null>(null);
  const handles = held ?? a.handles ?? EASE;
  /** Pins that show one picture leave no height to take shares of. */
  const rise = b.picture - a.picture || 1;
  const at = (event: { clientX: number; clientY: number }, index: HandleIndex): Handles => {
    const { frame, picture } = placeOf(event);
    const to = { x: (frame - a.frame) / (b.frame - a.frame), y: (picture - a.picture) / rise };
    return movedHandle(handles, index, to, backward);
  };
  return ([0, 1] as const).map((index) => {
    const [hx, hy] = index === 0 ? [handles[0], handles[1]] : [handles[2], handles[3]];
    const [px, py] = [x(a.frame + hx * (b.frame - a.frame)), y(a.picture + hy * rise)];
    const pin = index === 0 ? a : b;
    return (
      <g key={index}>
        <line x1={x(pin.frame)} y1={y(pin.picture)} x2={px} y2={py} className={classes.stem} />
        {/* biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing */}
        <circle
          cx={px}
          cy={py}
          r={5}
          className={classes.handle}
          role="button"
          tabIndex={0}
          aria-label={index === 0 ? 'Handle of the beginning' : 'Handle of the end'}
          data-testid={`handle-${index}`}
          onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
          onPointerMove={(e) => {
            if (!e.currentTarget.hasPointerCapture(e.pointerId) || e.buttons === 0) return;
            const next = at(e, index);
            setHeld(next);
            onDraft(next);
          }}
          onPointerUp={() => {
            if (held) onTake(held);
            setHeld(null);
          }}
          onPointerCancel={() => setHeld(null)}
          onKeyDown={(e) => {
            const by: Record<string, [number, number]> = {
              ArrowLeft: [-STEP, 0],
              ArrowRight: [STEP, 0],
              ArrowUp: [0, STEP],
              ArrowDown: [0, -STEP],
            };
            const move = by[e.key];
            if (!move) return;
            e.preventDefault();
            e.nativeEvent.stopImmediatePropagation();
            onNudge({ index, x: move[0], y: move[1] });
          }}
        />
      </g>
    );
  });
}
