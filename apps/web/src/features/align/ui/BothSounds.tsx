import { useElementSize } from '@mantine/hooks';
import type { AlignedReply } from '@thawline/contract';
import type { Solution, Tie } from '@thawline/core/align';
import { rateToNumber } from '@thawline/core/time';
import { recordedSeconds, type Source } from '@thawline/project';
import { type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { painterOf } from '../../../shared/diagram/canvas.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { paintWave, raiseOf } from '../../../shared/waveform/paint.js';
import { useWave, type Wave } from '../../../shared/waveform/useWave.js';
import { moment, partner, partnerOfB } from '../model/pairPlaces.js';
import classes from './align.module.css';

interface Props {
  readonly a: Source;
  readonly b: Source;
  readonly ties: readonly Tie[];
  readonly solution: Solution | null;
  readonly found: AlignedReply | null;
  readonly chosen: number | null;
  /** The moment that is looked at, in seconds of a. */
  readonly at: number;
  readonly onAt: (seconds: number) => void;
  readonly onChoose: (index: number) => void;
  /** A tie's end was dragged to these seconds of its recording. */
  readonly onMove: (index: number, side: 'a' | 'b', seconds: number) => void;
}

const HEIGHT = 190;
const [ROW_A, ROW_B] = [52, 142];
const HALF = 34;
/** Height of the chart of what is left over. */
const LEFT = 46;
/** Pixels that the recordings' names may take at the left. */
const NAMED = 190;
/** Strikes nearer than this share a number, in pixels. */
const APART = 22;

/** Both recordings on a's line of time, b where the ties put it; ties as lines between, strikes as ticks. The wheel looks closer. */
export function BothSounds({ a, b, ties, solution, found, chosen, at, onAt, onChoose, onMove }: Props) {
  const { ref, width } = useElementSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  // Both whole, where b lies; one can look closer.
  const whole = {
    from: Math.min(0, partnerOfB(solution, 0)),
    to: Math.max(recordedSeconds(a), partnerOfB(solution, recordedSeconds(b))),
  };
  const [zoom, setZoom] = useState<{ from: number; to: number } | null>(null);
  const { from, to } = zoom ?? whole;
  const scale = width / Math.max(1e-6, to - from);
  const x = (seconds: number): number => (seconds - from) * scale;
  const xB = (seconds: number): number => x(partnerOfB(solution, seconds));
  const startA = a.sound?.startSeconds ?? 0;
  const startB = b.sound?.startSeconds ?? 0;
  const waveA = useWave(a.sound ? a.mediaId : '', from - startA, to - startA, width);
  const waveB = useWave(b.sound ? b.mediaId : '', partner(solution, from) - startB, partner(solution, to) - startB, width);
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, width, HEIGHT);
    if (!painter || width < 2) return;
    const { context, color } = painter;
    const row = (wave: Wave | null, middle: number, start: number, end: number, tone: string): void => {
      if (wave) paintWave(context, wave, { left: 0, width, middle, half: HALF * raiseOf(wave), from: start, to: end }, tone);
    };
    context.save();
    context.beginPath();
    context.rect(0, ROW_A - HALF, width, 2 * HALF);
    context.rect(0, ROW_B - HALF, width, 2 * HALF);
    context.clip();
    row(waveA, ROW_A, from - startA, to - startA, color('--fjord'));
    row(waveB, ROW_B, partner(solution, from) - startB, partner(solution, to) - startB, color('--quiet'));
    context.restore();
  });
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const wheel = (event: WheelEvent): void => {
      event.preventDefault();
      const share = (event.clientX - element.getBoundingClientRect().left) / element.clientWidth;
      const by = event.deltaX !== 0 || event.shiftKey ? 1 : event.deltaY > 0 ? 1.25 : 0.8;
      const span = Math.max(0.05, Math.min(whole.to - whole.from, (to - from) * by));
      const slide = by === 1 ? ((event.deltaX || event.deltaY) / 600) * span : 0;
      const start = Math.max(whole.from, Math.min(whole.to - span, from + share * (to - from - span) + slide));
      setZoom(span >= whole.to - whole.from ? null : { from: start, to: start + span });
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => element.removeEventListener('wheel', wheel);
  });
  const [dragged, setDragged] = useState<{ index: number; side: 'a' | 'b'; x: number } | null>(null);
  const place = (event: PointerEvent): number => event.clientX - (box.current?.getBoundingClientRect().left ?? 0);
  const grab = (index: number, side: 'a' | 'b') => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    onChoose(index);
    setDragged({ index, side, x: place(event) });
  };
  const drop = (): void => {
    if (!dragged) return;
    setDragged(null);
    const { index, side, x: stood } = dragged;
    const tie = ties[index];
    const seconds = from + stood / scale;
    const there = side === 'a' ? seconds : partner(solution, seconds);
    // A press that did not move it chooses it, no more.
    if (tie && Math.abs(x(side === 'a' ? tie.a / 1e6 : partnerOfB(solution, tie.b / 1e6)) - stood) > 2)
      onMove(index, side, there);
  };
  return (
    <div ref={ref} className={classes.line}>
      <span className={classes.name} style={{ top: ROW_A - HALF }} title={a.name}>
        {a.name} <small className="number quiet">{rateLabel(a)}</small>
      </span>
      <span className={classes.name} style={{ top: ROW_B - HALF + 2 }} title={b.name}>
        {b.name} <small className="number quiet">{rateLabel(b)}</small>
      </span>
      <div
        ref={box}
        className={classes.box}
        style={{ height: HEIGHT + LEFT }}
        data-testid="waves"
        data-ready={(waveA !== null && waveB !== null) || undefined}
        onPointerDown={(e) => onAt(from + place(e) / scale)}
        onPointerMove={(e) => dragged && setDragged({ ...dragged, x: place(e) })}
        onPointerUp={drop}
      >
        <canvas ref={canvas} style={{ width, height: HEIGHT }} role="img" aria-label="Both sounds" />
        {/* biome-ignore lint/a11y/useSemanticElements: a drawing whose parts can be pressed */}
        <svg width={width} height={HEIGHT + LEFT} role="group" aria-label={`${ties.length} ties between ${a.name} and ${b.name}`}>
          {ticks(found?.strikesA ?? [], x, width).map((t) => (
            <Strike key={`a${t.number}`} x={t.x} y={ROW_A - HALF} number={t.named ? t.number : null} up />
          ))}
          {ticks(found?.strikesB ?? [], xB, width).map((t) => (
            <Strike key={`b${t.number}`} x={t.x} y={ROW_B + HALF} number={t.named ? t.number : null} />
          ))}
          {!a.sound && <Mute y={ROW_A} from={x(0)} to={x(recordedSeconds(a))} />}
          {!b.sound && <Mute y={ROW_B} from={xB(0)} to={xB(recordedSeconds(b))} />}
          <line className={classes.here} x1={x(at)} x2={x(at)} y1={12} y2={HEIGHT} />
          {ties.map((tie, index) => {
            const [drawnA, drawnB] = [x(tie.a / 1e6), xB(tie.b / 1e6)];
            const xa = dragged?.index === index && dragged.side === 'a' ? dragged.x : drawnA;
            const xb = dragged?.index === index && dragged.side === 'b' ? dragged.x : drawnB;
            if (Math.max(xa, xb) < -5 || Math.min(xa, xb) > width + 5) return null;
            const out = solution?.outliers.includes(index);
            const named = index === chosen || ties.length < 4 || index === 0 || index === ties.length - 1;
            const end = xa > width - 70 || (index === 0 && xa > NAMED);
            return (
              <g key={`${tie.a}`} className={classes.tie} data-chosen={index === chosen || undefined} data-out={out || undefined}>
                <line x1={xa} y1={ROW_A - HALF} x2={xb} y2={ROW_B + HALF} />
                <circle cx={xa} cy={ROW_A - HALF} r={5} onPointerDown={grab(index, 'a')} data-testid={`end-a-${index}`} />
                <circle cx={xb} cy={ROW_B + HALF} r={5} onPointerDown={grab(index, 'b')} data-testid={`end-b-${index}`} />
                {named && (
                  <>
                    <text x={xa + (end ? -8 : 8)} y={ROW_A - HALF + 3} textAnchor={end ? 'end' : 'start'}>
                      {moment(tie.a / 1e6)}
                    </text>
                    <text x={xb + (end ? -8 : 8)} y={ROW_B + HALF + 4} textAnchor={end ? 'end' : 'start'}>
                      {moment(tie.b / 1e6)}
                    </text>
                  </>
                )}
              </g>
            );
          })}
          {solution && ties.length > 1 && <LeftOver ties={ties} solution={solution} x={x} width={width} />}
        </svg>
      </div>
    </div>
  );
}

/** What is left over at each tie: above the line b is late. */
function LeftOver({
  ties,
  solution,
  x,
  width,
}: {
  ties: readonly Tie[];
  solution: Solution;
  x: (s: number) => number;
  width: number;
}) {
  const counted = solution.leftOver.map((s, i) => (solution.outliers.includes(i) ? 0 : Math.abs(s) * 1000));
  const most = Math.max(0.1, ...counted);
  const middle = HEIGHT + LEFT / 2 + 2;
  const half = LEFT / 2 - 6;
  return (
    <g className={classes.left} data-testid="left-over">
      <line x1={0} x2={width} y1={middle} y2={middle} />
      <text x={2} y={HEIGHT + 10}>
        left over, to {most < 1 ? most.toFixed(2) : most.toFixed(1)} ms (speed {rateToNumber(solution.ratio).toFixed(7)})
      </text>
      {ties.map((tie, i) => {
        const out = solution.outliers.includes(i);
        const ms = (solution.leftOver[i] as number) * 1000;
        const y = middle - Math.max(-1, Math.min(1, ms / most)) * half;
        return <circle key={tie.a} cx={x(tie.a / 1e6)} cy={y} r={3} data-out={out || undefined} />;
      })}
    </g>
  );
}

/** The stretch of a recording without sound. */
function Mute({ y, from, to }: { y: number; from: number; to: number }) {
  return (
    <g className={classes.mute}>
      <rect x={from} y={y - 9} width={Math.max(1, to - from)} height={18} rx={3} />
      <text x={(from + to) / 2} y={y + 4} textAnchor="middle">
        no sound
      </text>
    </g>
  );
}

function Strike({ x, y, number, up = false }: { x: number; y: number; number: number | null; up?: boolean }) {
  return (
    <g className={classes.strike}>
      <line x1={x} x2={x} y1={y} y2={y + (up ? -6 : 6)} />
      {number !== null && (
        <text x={x} y={y + (up ? -9 : 16)} textAnchor="middle">
          {number}
        </text>
      )}
    </g>
  );
}

/** Strikes in sight, in order numbered from 1; a number where there is room for it. */
function ticks(
  strikes: readonly { seconds: number; strength: number }[],
  x: (seconds: number) => number,
  width: number,
): { x: number; number: number; named: boolean }[] {
  let last = Number.NEGATIVE_INFINITY;
  return strikes.flatMap(({ seconds }, i) => {
    const at = x(seconds);
    if (at < 0 || at > width) return [];
    const named = at - last >= APART;
    if (named) last = at;
    return [{ x: at, number: i + 1, named }];
  });
}
