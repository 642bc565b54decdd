import { type Solution, solveTies, spread, type Tie } from '@thawline/core/align';
import { frameAtOrBefore, pictureAt, rateToNumber, type Timing } from '@thawline/core/time';
import { isMoving, ownRate, recordedSeconds, type Source } from '@thawline/project';

/** What the Align view works out of two sources and their ties. */

/** Under this certainty two sounds do not match. */
export const SURE = 0.5;

/** Whether a source is a recording of something that happened. */
export function alignable(source: Source): boolean {
  return !source.lost && (isMoving(source) || source.kind === 'sound');
}

/** Frames by which two recordings have parted after so many seconds of the first one, at `rate` frames a second. */
export function framesApart(solution: Solution, seconds: number, rate: number): number {
  return Math.abs(seconds * (rateToNumber(solution.ratio) - 1) * rate);
}

/** Seconds of b at a moment of a. */
export function partner(solution: Solution | null, a: number): number {
  return solution ? solution.offsetSeconds + rateToNumber(solution.ratio) * a : a;
}

/** Seconds of a at a moment of b. */
export function partnerOfB(solution: Solution | null, b: number): number {
  return solution ? (b - solution.offsetSeconds) / rateToNumber(solution.ratio) : b;
}

const MICROS = { num: 1_000_000, den: 1 } as const;

/** The picture of a source on screen at a moment of it; null for sound alone. */
export function pictureOf(source: Source, timing: Timing | undefined, seconds: number): number | null {
  if (source.kind === 'sound') return null;
  const micros = Math.max(0, Math.round(seconds * 1e6));
  const rate = ownRate(source);
  // A millionth on: a moment that was read off a picture's start is that picture's.
  if (timing?.kind === 'variable') return pictureAt(timing, micros + 1, MICROS);
  return rate ? Math.min(source.pictures - 1, frameAtOrBefore(micros + 1, MICROS, rate)) : 0;
}

/** Seconds of one picture of a source; a hundredth of a second for sound alone. */
export function pictureLength(source: Source): number {
  const rate = source.kind === 'sound' ? null : ownRate(source);
  return rate ? 1 / rateToNumber(rate) : 0.01;
}

/** A tie moved in one of the recordings, kept inside it. */
export function moved(tie: Tie, side: 'a' | 'b', seconds: number, source: Source): Tie {
  const to = Math.round(Math.max(0, Math.min(recordedSeconds(source), tie[side] / 1e6 + seconds)) * 1e6);
  return { ...tie, [side]: to };
}

/** The ties with one in another's place, or without it, in order. */
export function withTie(ties: readonly Tie[], index: number, tie: Tie | null): Tie[] {
  const others = ties.filter((_, i) => i !== index);
  return [...others, ...(tie ? [tie] : [])].map(({ a, b }) => ({ a, b })).sort((p, q) => p.a - q.a);
}

export interface Solved {
  readonly solution: Solution | null;
  /** Standard deviation of what is left over, in ms. */
  readonly leftMs: number;
}

export function solved(ties: readonly Tie[]): Solved {
  const solution = solveTies(ties);
  return { solution, leftMs: solution ? spread(solution) * 1000 : 0 };
}

/** "12.480" seconds, with minutes where there are any: what a tie is called. */
export function moment(seconds: number): string {
  const minutes = Math.floor(seconds / 60);
  const rest = (seconds - 60 * minutes).toFixed(3);
  return minutes > 0 ? `${minutes}:${rest.padStart(6, '0')}` : rest;
}

/** The tie after (1) or before (-1) the chosen one, round about; from none the first or the last. Null without ties. */
export function stepTie(ties: number, chosen: number | null, by: 1 | -1): number | null {
  if (ties === 0) return null;
  const from = chosen ?? (by > 0 ? -1 : ties);
  return (from + by + ties) % ties;
}
