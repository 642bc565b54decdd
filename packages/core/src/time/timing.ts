import { mulDivFloor } from './exact.js';
import {
  frameAtOrBefore,
  ppmBetween,
  type Rate,
  rate,
  rateToNumber,
  STANDARD_RATES,
  sameRate,
  secondsOf,
  snapRate,
  times,
} from './rate.js';

/** When each picture of a source begins. The average of variable timing is misleading, so every timestamp is kept. */
export type Timing =
  | { readonly kind: 'constant'; readonly rate: Rate /** At least 1. */; readonly pictures: number }
  | {
      readonly kind: 'variable';
      /** Start of each picture after the first one's, in ticks; ticks[0] === 0, never falling. */
      readonly ticks: ArrayLike<number>;
      /** End of the last picture, in ticks, not included. */
      readonly end: number;
      /** Ticks a second. */
      readonly timeBase: Rate;
    }
  /** One picture without a rate: it lasts as long as it is asked to. */
  | { readonly kind: 'still' };

export function constantTiming(r: Rate, pictures: number): Timing {
  return { kind: 'constant', rate: r, pictures };
}

/** The most frames a clip may run, a still's too: 46 hours at 60. A clip's step map has a place for each of them. */
export const CLIP_FRAMES = 10_000_000;

/** Pictures there are. */
export function pictureCount(timing: Timing): number {
  switch (timing.kind) {
    case 'constant':
      return timing.pictures;
    case 'variable':
      return timing.ticks.length;
    case 'still':
      return 1;
    default:
      return timing satisfies never;
  }
}

/** Pictures a second over the whole length; null for a still. */
export function averageRate(timing: Timing): Rate | null {
  if (timing.kind === 'still') return null;
  if (timing.kind === 'constant') return timing.rate;
  return rate(timing.ticks.length * timing.timeBase.num, timing.end * timing.timeBase.den);
}

/** First picture's start to last picture's end in seconds, for showing; null for a still. */
export function timingSeconds(timing: Timing): number | null {
  if (timing.kind === 'still') return null;
  return timing.kind === 'constant' ? secondsOf(timing.pictures, timing.rate) : secondsOf(timing.end, timing.timeBase);
}

/** Start of picture k after the first one's, in seconds. Only for showing and for asking a decoder, never for counting. */
export function pictureSeconds(timing: Timing, picture: number): number {
  if (timing.kind === 'still') return 0;
  if (timing.kind === 'constant') return secondsOf(picture, timing.rate);
  return secondsOf(timing.ticks[picture] ?? timing.end, timing.timeBase);
}

/** The same pictures `speed` times as fast (exact): every length is divided by it. */
export function spedUp(timing: Timing, speed: Rate): Timing {
  if (speed.num === speed.den || timing.kind === 'still') return timing;
  if (timing.kind === 'constant') return { ...timing, rate: times(timing.rate, speed) };
  return { ...timing, timeBase: times(timing.timeBase, speed) };
}

/** How far the usual gap may lie from a standard rate's and still be called it: containers that count in milliseconds are off by 2 %. */
const USUAL_PPM = 20_000;

/**
 * The rate that most pictures of variable timing follow: one over the median of their gaps, as the standard rate it is near to. A camera
 * that leaves out pictures in the dark has still taken 30 a second. Null for other timing, and where the median is near no standard rate.
 */
export function usualRate(timing: Timing): Rate | null {
  if (timing.kind !== 'variable' || timing.ticks.length < 3) return null;
  const gaps = Float64Array.from(
    { length: timing.ticks.length - 1 },
    (_, k) => (timing.ticks[k + 1] as number) - (timing.ticks[k] as number),
  ).sort();
  // Of gaps in whole milliseconds the middle half's mean says more than the one in the middle.
  const [from, to] = [gaps.length >> 2, Math.max((gaps.length >> 2) + 1, (gaps.length * 3) >> 2)];
  const middle = gaps.subarray(from, to);
  const gap = middle.reduce((sum, g) => sum + g, 0) / middle.length;
  return gap > 0 ? (snapRate(rateToNumber(timing.timeBase) / gap, USUAL_PPM)?.rate ?? null) : null;
}

/** A picture that making timing even moves, and by how much. */
export interface MovedPicture {
  readonly picture: number;
  /** Later is positive. */
  readonly ms: number;
}

/** What `evenTiming` does to each picture that it moves by a tenth of a millisecond and more, the furthest first. */
export function movedByEven(timing: Timing, to: Rate): MovedPicture[] {
  const even = evenTiming(timing, to);
  if (timing.kind !== 'variable' || even.kind !== 'variable') return [];
  const [was, now] = [rateToNumber(timing.timeBase), rateToNumber(to)];
  return Array.from(timing.ticks, (tick, picture) => ({
    picture,
    ms: ((even.ticks[picture] as number) / now - tick / was) * 1000,
  }))
    .filter(({ ms }) => Math.abs(ms) >= 0.1)
    .sort((a, b) => Math.abs(b.ms) - Math.abs(a.ms));
}

/**
 * Variable timing made even: each picture begins at the frame of rate `to` that lies nearest to its own moment (halves go
 * up). Where two fall on one frame the later is shown and the other skipped; a frame that none falls on holds the picture before.
 */
export function evenTiming(timing: Timing, to: Rate): Timing {
  if (timing.kind !== 'variable') return timing;
  const doubled = { num: to.num * 2, den: to.den };
  const nearest = (tick: number): number => (frameAtOrBefore(tick, timing.timeBase, doubled) + 1) >> 1;
  const ticks = Int32Array.from({ length: timing.ticks.length }, (_, k) => nearest(timing.ticks[k] as number));
  return { kind: 'variable', ticks, end: Math.max(nearest(timing.end), (ticks[ticks.length - 1] as number) + 1), timeBase: to };
}

/** Ticks of a made timing to a picture's length, so that moments between two are not lost: as many as 32 bits allow, 1024 at most. */
function ticksEach(pictures: number): number {
  return 2 ** Math.max(0, Math.min(10, Math.floor(Math.log2((2 ** 31 - 1) / (pictures + 1)))));
}

/**
 * New pictures only, each lasting 1 / rate: one that holds gets no time of its own, so that it is never shown.
 * @param pictures count, at least 1
 * @param held ascending; picture 0 is always new
 */
export function newOnlyTiming(pictures: number, held: ArrayLike<number>, perSecond: Rate): Timing {
  const each = ticksEach(pictures);
  const ticks = new Int32Array(pictures);
  let passed = 0;
  let next = 0;
  for (let k = 0; k < pictures; k++) {
    while (next < held.length && (held[next] as number) < k) next++;
    const holds = k > 0 && held[next] === k;
    ticks[k] = passed;
    if (!holds) passed += each;
  }
  return { kind: 'variable', ticks, end: passed, timeBase: { num: perSecond.num * each, den: perSecond.den } };
}

/**
 * The same timing, but pictures that hold get no time of their own: each new one lasts until the next new one, and what is between them
 * can be made. Holds after the last new picture stay.
 * @param held ascending; picture 0 is always new
 */
export function rebuiltTiming(timing: Timing, held: ArrayLike<number>): Timing {
  if (timing.kind === 'still') return timing;
  const each = timing.kind === 'constant' ? ticksEach(timing.pictures) : 1;
  const ticks =
    timing.kind === 'constant'
      ? Int32Array.from({ length: timing.pictures }, (_, k) => k * each)
      : Int32Array.from({ length: timing.ticks.length }, (_, k) => timing.ticks[k] as number);
  const holds = new Set(Array.from(held));
  let next = -1;
  for (let k = ticks.length - 1; k > 0; k--) {
    if (!holds.has(k)) next = k;
    else if (next >= 0) ticks[k] = ticks[next] as number;
  }
  if (timing.kind === 'variable') return { ...timing, ticks };
  const timeBase = { num: timing.rate.num * each, den: timing.rate.den };
  return { kind: 'variable', ticks, end: timing.pictures * each, timeBase };
}

/** The picture that is shown after this one: the next, unless that one has no time of its own. The last stays. */
export function pictureAfter(timing: Timing, picture: number): number {
  const last = pictureCount(timing) - 1;
  if (picture >= last) return last;
  return timing.kind === 'variable' ? lastAtOrBefore(timing.ticks, timing.ticks[picture + 1] as number) : picture + 1;
}

/** The picture that is shown when this one's number is passed: itself, or where it has no time of its own, the one before that has. */
export function pictureFor(timing: Timing, picture: number): number {
  if (timing.kind !== 'variable') return picture;
  const { ticks } = timing;
  const tick = ticks[picture] as number;
  return lastAtOrBefore(ticks, tick) === picture ? picture : tick <= (ticks[0] as number) ? 0 : lastAtOrBefore(ticks, tick - 1);
}

/** The picture on screen when frame n of the timeline begins; before the first and after the last it stays at the ends. */
export function pictureAt(timing: Timing, frame: number, timeline: Rate): number {
  if (timing.kind === 'still') return 0;
  if (timing.kind === 'constant') {
    return clamp(frameAtOrBefore(frame, timeline, timing.rate), timing.pictures);
  }
  const tick = frameAtOrBefore(frame, timeline, timing.timeBase);
  return lastAtOrBefore(timing.ticks, tick);
}

/** Whole frames of the timeline that begin before the last picture ends: floor of the length, at least 1. */
export function timingLength(timing: Timing, timeline: Rate): number {
  if (timing.kind === 'still') return CLIP_FRAMES;
  const frames =
    timing.kind === 'constant'
      ? frameAtOrBefore(timing.pictures, timing.rate, timeline)
      : frameAtOrBefore(timing.end, timing.timeBase, timeline);
  return Math.max(1, frames);
}

function clamp(picture: number, pictures: number): number {
  return Math.min(Math.max(picture, 0), pictures - 1);
}

/** Index of the last entry that is not greater than tick; 0 when all are. Binary search. */
function lastAtOrBefore(ticks: ArrayLike<number>, tick: number): number {
  let low = 0;
  let high = ticks.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((ticks[middle] as number) <= tick) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** What a clip's own timestamps say. */
export interface MeasuredTiming {
  /** A standard rate (or the stored one) that the timestamps agree with, else the exact average. */
  readonly rate: Rate;
  /** What is left between the average of the timestamps and `rate`, in parts per million; 0 for an exact average. */
  readonly ppm: number;
  readonly variable: boolean;
  /** First picture's start to last picture's end, in ticks. */
  readonly lengthTicks: number;
}

/**
 * Timestamps that rounding explains lie within so many ticks of an even grid, first to last: two where a picture has
 * many ticks (muxers round twice), under one where a tick is nearly a picture and one more would be a missing one.
 */
function gridTolerance(ticksPerPicture: number): number {
  return ticksPerPicture > 4 ? 2 : 0.999;
}

/**
 * Measures the rate from every picture's timestamp.
 * @param ticks presentation times in ticks, ascending, at least one
 * @param timeBase ticks a second
 * @param lastTicks length of the last picture when the file states it, else null (the median gap is used)
 * @param stored the rate in the file's header, tried first
 * @returns null for a single picture without a length: a still has no rate
 */
export function measureTiming(
  ticks: ArrayLike<number>,
  timeBase: Rate,
  lastTicks: number | null,
  stored: Rate | null,
): MeasuredTiming | null {
  const count = ticks.length;
  const span = (ticks[count - 1] as number) - (ticks[0] as number);
  if (count < 2 || span <= 0) {
    if (!lastTicks || lastTicks <= 0) return null;
    const only = rate(timeBase.num, timeBase.den * lastTicks);
    const snapped = snapRate(rateToNumber(only));
    const known = stored && Math.abs(ppmBetween(rateToNumber(only), stored)) < 1e6 / lastTicks ? stored : null;
    return {
      rate: known ?? snapped?.rate ?? only,
      ppm: known ? 0 : (snapped?.ppm ?? 0),
      variable: false,
      lengthTicks: lastTicks,
    };
  }
  const average = rate((count - 1) * timeBase.num, span * timeBase.den);
  const averageNumber = rateToNumber(average);
  // One tick of uncertainty at each end: a short clip in a coarse time base cannot tell 24 from 23.976.
  const granularityPpm = (2 / span) * 1e6;
  // Where a picture is hardly longer than a tick, rounding would excuse nearly anything: then only the file's own rate or
  // one of whole ticks will do.
  const coarse = span < 4 * (count - 1);
  const near = STANDARD_RATES.filter((r) => Math.abs(ppmBetween(averageNumber, r)) <= Math.max(100, granularityPpm)).sort(
    (a, b) => Math.abs(ppmBetween(averageNumber, a)) - Math.abs(ppmBetween(averageNumber, b)),
  );
  const candidates = stored ? [stored, ...near.filter((r) => !sameRate(r, stored))] : near;
  for (const candidate of candidates) {
    if (coarse && candidate !== stored && !wholeTicks(timeBase, candidate)) continue;
    if (onGrid(ticks, timeBase, candidate)) {
      return {
        rate: candidate,
        ppm: ppmBetween(averageNumber, candidate),
        variable: false,
        lengthTicks: mulDivFloor(count, timeBase.num * candidate.den, timeBase.den * candidate.num),
      };
    }
  }
  const variable = !onGrid(ticks, timeBase, average) || (coarse && !wholeTicks(timeBase, average));
  const lengthTicks = span + (lastTicks && lastTicks > 0 ? lastTicks : medianGap(ticks));
  const whole = variable ? rate(count * timeBase.num, lengthTicks * timeBase.den) : average;
  const snapped = snapRate(rateToNumber(whole));
  return { rate: snapped?.rate ?? whole, ppm: snapped?.ppm ?? 0, variable, lengthTicks };
}

function wholeTicks(timeBase: Rate, r: Rate): boolean {
  return (timeBase.num * r.den) % (timeBase.den * r.num) === 0;
}

function onGrid(ticks: ArrayLike<number>, timeBase: Rate, r: Rate): boolean {
  const perPicture = (timeBase.num * r.den) / (timeBase.den * r.num);
  const first = ticks[0] as number;
  const tolerance = gridTolerance(perPicture);
  let low = 0;
  let high = 0;
  for (let k = 1; k < ticks.length; k++) {
    const off = (ticks[k] as number) - first - k * perPicture;
    if (off < low) low = off;
    else if (off > high) high = off;
    if (high - low > tolerance) return false;
  }
  return true;
}

function medianGap(ticks: ArrayLike<number>): number {
  const gaps: number[] = [];
  for (let k = 1; k < ticks.length; k++) gaps.push((ticks[k] as number) - (ticks[k - 1] as number));
  gaps.sort((a, b) => a - b);
  return gaps[gaps.length >> 1] ?? 0;
}
