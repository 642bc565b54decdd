import { useElementSize } from '@mantine/hooks';
import type { Curve, Handles, Mapping, Pin } from '@thawline/core/cadence';
import { nominalRate, rateToNumber } from '@thawline/core/time';
import type { ClipCadence } from '@thawline/project';
import { useMemo, useRef, useState } from 'react';
import { type CurvePlace, curveGeometry, type HandleIndex, linePath, MARGIN, movedPin } from '../model/curveGeometry.js';
import { positionsOf, quickStretches, slowRuns } from '../model/frames.js';
import { usePan } from '../model/usePan.js';
import { CurveAxes } from './CurveAxes.js';
import { CurvePins } from './CurvePins.js';
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
  /** Moves a pin by frames and pictures; or says why not. */
  readonly onNudge: (index: number, by: CurvePlace) => string | null;
  /** Moves a handle of the chosen pin, by shares of its stretch; or says why not. */
  readonly onNudgeHandle: (by: { readonly index: HandleIndex; readonly x: number; readonly y: number }) => string | null;
}

/** Source pictures up, frames across. Sand marks what passes under a picture a frame: there, pictures are made, held or mixed. */
export function CurveChart({ cadence, curve, n, chosen, backward, onChoose, onFrame, onPins, onNudge, onNudgeHandle }: Props) {
  const { ref, width, height } = useElementSize();
  const svg = useRef<SVGSVGElement>(null);
  /** Pins while one of them is dragged. */
  const [draft, setDraft] = useState<Curve | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const { mapping, source } = cadence;
  const { length, headTrim, timeline } = mapping;
  const pins = draft ?? curve;
  const shown: Mapping = useMemo(() => (draft ? { ...mapping, curve: draft } : mapping), [mapping, draft]);
  const positions = useMemo(() => positionsOf(shown, 0, length), [shown, length]);
  const pan = usePan(source);
  const quick = useMemo(() => (pan ? quickStretches(shown, pan.shifts) : []), [pan, shown]);
  const slow = useMemo(() => slowRuns(positions), [positions]);
  const drawn = useMemo(() => curveGeometry({ width, height }, pins, positions), [width, height, pins, positions]);
  const { x, y, up, span } = drawn;
  const limits = { first: headTrim, pictures: source.pictures };
  const placeOf = (event: { clientX: number; clientY: number }): CurvePlace => {
    const box = svg.current?.getBoundingClientRect();
    const { frame, picture } = drawn.placeAt(event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0));
    return { frame: frame + headTrim, picture };
  };
  const take = (next: Curve, frame: number): void => {
    setDraft(null);
    setWrong(onPins(next, frame));
  };
  const finish = (index: number, next: Curve): void => {
    setDraft(null);
    const [pin, was] = [next[index] as Pin, curve[index] as Pin];
    if (pin.frame !== was.frame || pin.picture !== was.picture) take(next, pin.frame);
  };
  const nudge = (index: number, by: CurvePlace): void => {
    setDraft(null);
    setWrong(onNudge(index, by));
  };
  /** The chosen stretch, where it is eased. */
  const eased = pins[chosen]?.way === 'eased' ? pins[chosen] : undefined;
  const next = pins[chosen + 1];
  const withHandles = (handles: Handles): Curve => curve.map((p, i) => (i === chosen ? { ...p, handles } : p));
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
            onFrame(Math.round(placeOf(e).frame) - headTrim);
        }}
      >
        <CurveAxes drawn={drawn} length={length} perSecond={rateToNumber(timeline)} />
        {slow.map((run) => (
          <path
            key={run.from}
            d={linePath(drawn, positions, run.from, run.to)}
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
            y1={MARGIN.top + up}
            y2={MARGIN.top + up}
            className={classes.quick}
            data-testid="quick-pan"
          >
            <title>{`A point crosses the frame in ${q.seconds.toFixed(1)} s`}</title>
          </line>
        ))}
        <path d={linePath(drawn, positions, 0, span)} className={classes.line} />
        <line x1={x(n)} x2={x(n)} y1={MARGIN.top - 4} y2={MARGIN.top + up} className={classes.playhead} />
        {eased && next && (
          <EaseHandles
            a={eased}
            b={next}
            x={(frame) => x(frame - headTrim)}
            y={y}
            placeOf={placeOf}
            backward={backward}
            onDraft={(handles) => setDraft(withHandles(handles))}
            onTake={(handles) => take(withHandles(handles), eased.frame)}
            onNudge={(by) => {
              setDraft(null);
              setWrong(onNudgeHandle(by));
            }}
          />
        )}
        <CurvePins
          drawn={drawn}
          pins={pins}
          generation={curve.length}
          headTrim={headTrim}
          chosen={chosen}
          onChoose={onChoose}
          onDrag={(i, event) => setDraft(movedPin(curve, i, placeOf(event), limits))}
          onDrop={(i) => draft && finish(i, draft)}
          onCancel={() => setDraft(null)}
          onNudge={nudge}
        />
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
