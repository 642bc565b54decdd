import type { Curve } from '@thawline/core/cadence';
import { type CurveGeometry, nudgeOf, pinLabel } from '../model/curveGeometry.js';
import classes from './retime.module.css';

interface Props {
  readonly drawn: CurveGeometry;
  readonly pins: Curve;
  /** Pins of other lengths are other pins. */
  readonly generation: number;
  readonly headTrim: number;
  readonly chosen: number;
  readonly onChoose: (index: number) => void;
  /** A pin is dragged to a point of the page. */
  readonly onDrag: (index: number, event: React.PointerEvent) => void;
  readonly onDrop: (index: number) => void;
  readonly onCancel: () => void;
  /** A pin is moved by keys. */
  readonly onNudge: (index: number, by: { readonly frame: number; readonly picture: number }) => void;
}

/** The pins of a time curve, to drag and to move by arrow keys, with their places where there is room. */
export function CurvePins({ drawn, pins, generation, headTrim, chosen, onChoose, onDrag, onDrop, onCancel, onNudge }: Props) {
  const frames = pins.map((pin) => pin.frame - headTrim);
  return pins.map((pin, i) => {
    const frame = frames[i] as number;
    if (frame < 0 || frame > drawn.span) return null;
    const label = pinLabel(drawn, pins, frames, { index: i, chosen });
    return (
      <g key={`${i}-${generation}`} transform={`translate(${drawn.x(frame)} ${drawn.y(pin.picture)})`}>
        {/* biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing */}
        <circle
          r={7}
          className={classes.dot}
          data-chosen={i === chosen || undefined}
          data-testid={`pin-${i}`}
          role="button"
          tabIndex={0}
          aria-label={`Pin: frame ${frame} shows picture ${pin.picture}`}
          onFocus={() => onChoose(i)}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            onChoose(i);
          }}
          onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && e.buttons > 0 && onDrag(i, e)}
          onPointerUp={() => onDrop(i)}
          onPointerCancel={onCancel}
          onKeyDown={(e) => {
            const by = nudgeOf(e.key, e.shiftKey);
            if (!by) return;
            onNudge(i, by);
            e.preventDefault();
            e.nativeEvent.stopImmediatePropagation();
          }}
        />
        {label && (
          <text
            x={label.side === 'left' ? -11 : 11}
            y={label.below ? 21 : -12}
            textAnchor={label.side === 'left' ? 'end' : 'start'}
            className={classes.pinLabel}
          >
            {frame} &rarr; {pin.picture}
          </text>
        )}
      </g>
    );
  });
}
