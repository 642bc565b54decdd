import { useElementSize } from '@mantine/hooks';
import type { Curve, Handles, Mapping, Pin } from '@thawline/core/cadence';
import { nominalRate, rateToNumber } from '@thawline/core/time';
import type { ClipCadence } from '@thawline/project';
import { useMemo, useRef, useState } from 'react';
import { count } from '../../../shared/words.js';
import { positionsOf, quickStretches, slowRuns } from '../model/frames.js';
import { usePan } from '../model/usePan.js';
import { EaseHandles } from './EaseHandles.js';
import classes from './retime.module.css';

interface Props {
  readonly cadence: ClipCadence;
  /** Pins as they stand: the clip's curve, or its two ends. */
  readonly curve: Curve;
  readonly n: number;
  /** Index of the pin that is chosen, -1 for none. */
  readonly chosen: number;
  /** Whether eased stretches may run back on themselves. */
  readonly backward: boolean;
  readonly onChoose: (index: number) => void;
  readonly onFrame: (n: number) => void;
  /** Takes pins, one of which is now on `frame`; or says why not. */
  readonly onPins: (pins: Curve, frame: number) => string | null;
}

/** Room that a pin's label takes. */
const LABEL = 76;
const [LEFT, RIGHT, TOP, BOTTOM] = [52, 16, 16, 26];

/** Source pictures up, frames across. Sand marks what passes under a picture a frame: there, pictures are made, held or mixed. */
export function CurveChart({ cadence, curve, n, chosen, backward, onChoose, onFrame, onPins }: Props) {
  const { ref, width, height } = useElementSize();
  const svg = useRef<SVGSVGElement>(null);
  /** Pins while one of them is dragged. */
  const [draft, setDraft] = useState<Curve | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const { mapping, source } = cadence;
  const pins = draft ?? curve;
  const shown: Mapping = useMemo(() => (draft ? { ...mapping, curve: draft } : mapping), [mapping, draft]);
  const { length, headTrim, timeline } = mapping;
  const positions = useMemo(() => positionsOf(shown, 0, length), [shown, length]);
  const pan = usePan(source);
  const quick = useMemo(() => (pan ? quickStretches(shown, pan.shifts) : []), [pan, shown]);
  const slow = useMemo(() => slowRuns(positions), [positions]);
  const top =
    Math.max(
      1,
      ...pins.map((p) => p.picture),
      positions.reduce((most, p) => Math.max(most, p), 0),
    ) * 1.06;
  const [across, up] = [Math.max(1, width - LEFT - RIGHT), Math.max(1, height - TOP - BOTTOM)];
  const span = Math.max(1, length - 1);
  const x = (frame: number): number => LEFT + (frame / span) * across;
  const y = (picture: number): number => TOP + up - (picture / top) * up;
  const path = (from: number, to: number): string => {
    const step = Math.max(1, Math.floor((to - from) / across));
    const points: string[] = [];
    for (let k = from; k < to; k += step) points.push(`${x(k).toFixed(1)} ${y(positions[k] as number).toFixed(1)}`);
    points.push(`${x(to).toFixed(1)} ${y(positions[Math.min(to, positions.length - 1)] as number).toFixed(1)}`);
    return `M${points.join('L')}`;
  };
  const exactPlaceOf = (event: { clientX: number; clientY: number }): { frame: number; picture: number } => {
    const box = svg.current?.getBoundingClientRect();
    const [px, py] = [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
    return { frame: ((px - LEFT) / across) * span + headTrim, picture: ((TOP + up - py) / up) * top };
  };
  const placeOf = (event: { clientX: number; clientY: number }): { frame: number; picture: number } => {
    const { frame, picture } = exactPlaceOf(event);
    return { frame: Math.round(frame), picture: Math.max(0, Math.min(source.pictures - 1, Math.round(picture))) };
  };
  /** A pin stays between its neighbours. */
  const moved = (index: number, to: { frame: number; picture: number }): Curve => {
    const before = curve[index - 1];
    const after = curve[index + 1];
    const frame = Math.max(before ? before.frame + 1 : headTrim, Math.min(after ? after.frame - 1 : 100_000_000, to.frame));
    return curve.map((p, i) => (i === index ? { ...p, frame, picture: to.picture } : p));
  };
  const finish = (index: number, next: Curve): void => {
    setDraft(null);
    const pin = next[index] as Pin;
    const was = curve[index] as Pin;
    if (pin.frame !== was.frame || pin.picture !== was.picture) setWrong(onPins(next, pin.frame));
  };
  const nudge = (index: number, key: string, far: boolean): boolean => {
    const by = far ? 10 : 1;
    const pin = curve[index] as Pin;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, by],
      ArrowDown: [0, -by],
    };
    const move = moves[key];
    if (!move) return false;
    const picture = Math.max(0, Math.min(source.pictures - 1, pin.picture + move[1]));
    finish(index, moved(index, { frame: pin.frame + move[0], picture }));
    return true;
  };
  /** The chosen stretch, where it is eased. */
  const eased = pins[chosen]?.way === 'eased' ? pins[chosen] : undefined;
  const next = pins[chosen + 1];
  const withHandles = (handles: Handles): Curve => curve.map((p, i) => (i === chosen ? { ...p, handles } : p));
  /** The chosen pin's place is always written, another one's where there is room. */
  const labelled = (index: number): boolean => {
    if (index === chosen || chosen < 0) return index === chosen || roomy(index);
    return roomy(index) && Math.abs(x((pins[index] as Pin).frame) - x((pins[chosen] as Pin).frame)) > LABEL;
  };
  const roomy = (index: number): boolean => {
    const next = pins[index + 1];
    return !next || x(next.frame) - x((pins[index] as Pin).frame) > LABEL;
  };
  /** Where the line that comes from the left leaves room: beneath at the left, above at the right, and never out of the drawing. */
  const labelBelow = (frame: number, pin: Pin): boolean =>
    frame > span * 0.8 ? y(pin.picture) < TOP + 18 : y(pin.picture) < TOP + up - 26;
  const seconds = rateToNumber(timeline);
  const cleanest = Math.min(span, top);
  return (
    <div ref={ref} className={classes.chart}>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing whose parts can be pressed */}
      <svg
        ref={svg}
        width="100%"
        height="100%"
        role="group"
        aria-label={`Time curve of ${source.name}`}
        data-testid="curve"
        onPointerDown={(e) => {
          if (e.target === e.currentTarget || (e.target as Element).hasAttribute('data-ground'))
            onFrame(placeOf(e).frame - headTrim);
        }}
      >
        {ticks(length / seconds, Math.max(2, Math.floor(across / 70))).map((s) => (
          <g key={`x${s}`}>
            <line x1={x(s * seconds)} x2={x(s * seconds)} y1={TOP} y2={TOP + up} className={classes.grid} />
            <text x={x(s * seconds)} y={TOP + up + 16} className={classes.tick} textAnchor="middle">
              {Number(s.toFixed(2))} s
            </text>
          </g>
        ))}
        {ticks(top, Math.max(2, Math.floor(up / 34))).map((p) => (
          <g key={`y${p}`}>
            <line x1={LEFT} x2={LEFT + across} y1={y(p)} y2={y(p)} className={classes.grid} />
            <text x={LEFT - 8} y={y(p) + 4} className={classes.tick} textAnchor="end">
              {count(p)}
            </text>
          </g>
        ))}
        <rect data-ground x={LEFT} y={TOP} width={across} height={up} fill="transparent" />
        <path d={`M${x(0)} ${y(0)}L${x(cleanest)} ${y(cleanest)}`} className={classes.cleanest} />
        <text
          x={x(cleanest) + (cleanest < span * 0.7 ? 6 : -6)}
          y={y(cleanest) + (cleanest < span * 0.7 ? 4 : 16)}
          textAnchor={cleanest < span * 0.7 ? 'start' : 'end'}
          className={classes.tick}
          data-soft
        >
          every picture once
        </text>
        {slow.map((run) => (
          <path
            key={run.from}
            d={path(run.from, run.to)}
            className={classes.slow}
            data-testid="slow-run"
            data-from={run.from}
            data-to={run.to}
          />
        ))}
        {quick.map((q) => (
          <line
            key={q.from}
            x1={x(q.from)}
            x2={x(Math.min(span, q.to))}
            y1={TOP + up}
            y2={TOP + up}
            className={classes.quick}
            data-testid="quick-pan"
          >
            <title>{`A point crosses the frame in ${q.seconds.toFixed(1)} s`}</title>
          </line>
        ))}
        <path d={path(0, span)} className={classes.line} />
        <line x1={x(n)} x2={x(n)} y1={TOP - 4} y2={TOP + up} className={classes.playhead} />
        {eased && next && (
          <EaseHandles
            a={eased}
            b={next}
            x={(frame) => x(frame - headTrim)}
            y={y}
            placeOf={exactPlaceOf}
            backward={backward}
            onDraft={(handles) => setDraft(withHandles(handles))}
            onTake={(handles) => {
              setDraft(null);
              setWrong(onPins(withHandles(handles), eased.frame));
            }}
          />
        )}
        {pins.map((pin, i) => {
          const frame = pin.frame - headTrim;
          if (frame < 0 || frame > span) return null;
          return (
            <g key={`${i}-${curve.length}`} transform={`translate(${x(frame)} ${y(pin.picture)})`}>
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
                onPointerMove={(e) =>
                  e.currentTarget.hasPointerCapture(e.pointerId) && e.buttons > 0 && setDraft(moved(i, placeOf(e)))
                }
                onPointerUp={() => draft && finish(i, draft)}
                onPointerCancel={() => setDraft(null)}
                onKeyDown={(e) => {
                  if (!nudge(i, e.key, e.shiftKey)) return;
                  e.preventDefault();
                  e.nativeEvent.stopImmediatePropagation();
                }}
              />
              {labelled(i) && (
                <text
                  x={frame > span * 0.8 ? -11 : 11}
                  y={labelBelow(frame, pin) ? 21 : -12}
                  textAnchor={frame > span * 0.8 ? 'end' : 'start'}
                  className={classes.pinLabel}
                >
                  {frame} &rarr; {pin.picture}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      {wrong && (
        <div className={classes.wrong} role="alert">
          {wrong}
        </div>
      )}
      <small className={classes.axis} aria-hidden>
        pictures up, seconds across, at {nominalRate(timeline)} a second
      </small>
    </div>
  );
}

/** Round numbers from 0 to a highest, about so many. */
function ticks(most: number, about: number): number[] {
  const rough = most / Math.max(1, about);
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-9)));
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough) ?? rough;
  return Array.from({ length: Math.floor(most / step + 1e-9) + 1 }, (_, i) => i * step);
}
