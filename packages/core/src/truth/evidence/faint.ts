import type { Changes } from '../measure/changes.js';
import { median } from '../measure/median.js';
import { UNKNOWN } from '../measure/window.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, log, max, min, sqrt } = Math;

/**
 * Motion under noise. Where fresh noise makes every picture differ as much as the next, how much pictures differ says nothing of what is
 * held: what motion they have in common with their neighbours does (Changes, coarseAlong). It scatters around 0 in held pictures and around
 * one other number in new ones, by a known noise; that number, and how many hold, are found in the pictures around by expectation and
 * maximisation (Dempster, Laird and Rubin, J. Royal Statistical Society B 1977).
 */

/** Noise is most of what changes where blocks change alike all the time (Changes, variation): else how much they change tells more. */
const ALIKE = 0.75;
/**
 * Where blocks change by less than this (natural logarithm of squared 8-bit steps), coders spread one picture's motion over the next ones. The
 * trace of it is that common motion comes and goes by more than this share of itself: motion that is coded whole is steadier.
 */
const WEAK = 0.5;
const UNSTEADY = 0.75;
const BURST = 1;
/** From a median absolute deviation to a standard deviation. */
const TO_DEVIATION = 1.48;
/** Steps on each side that tell what new pictures look like; fewer steps than the least say nothing. */
const REACH = 24;
const LEAST = 16;
const ROUNDS = 12;
/** Less common motion than this is none. */
const STIRS = 0.1;
/** Errors of a step's motion, at the least: what coding leaves, and what it does to smeared ones. */
const LEAST_ERROR = 0.12;
const SMEARED = 0.35;
/** Motion of new pictures differs by this share of itself, and once in so many times by any amount up to so many times itself. */
const UNEVEN = 0.3;
const OTHERWISE = { share: 0.1, times: 4 } as const;
/** Neither kind is thought rarer than this. */
const RAREST = 0.02;
/** Something moves where the mean share in common motion is so many times its error and at least so much. */
const MOVES = { errors: 5, least: 0.25 } as const;

/** Whether noise is most of what changes in step k. */
export function isNoisy({ columns }: Changes, k: number): boolean {
  return columns.coarseNoise[k] !== UNKNOWN && (columns.variation[k] as number) < ALIKE;
}

/** 1 for each step around which changes are so weak and uneven that the coder may have spread one picture's motion over several. */
export function smearedPlaces(changes: Changes): Uint8Array {
  return Uint8Array.from({ length: changes.length }, (_, k) => (isSmeared(changes, k) ? 1 : 0));
}

function isSmeared(changes: Changes, k: number): boolean {
  const { coarseAlong, coarseNoise, level } = changes.columns;
  // Where the noise was coded, so was the motion.
  if (coarseNoise[k] === UNKNOWN || (level[k] as number) > WEAK || isNoisy(changes, k)) return false;
  const [from, to] = around(changes, k);
  // Beside a burst of motion all other motion is a small share.
  if (to - from < LEAST || level.subarray(from, to).some((one) => one > WEAK + BURST)) return false;
  const shares = Array.from(coarseAlong.subarray(from, to));
  const usual = median(shares);
  const off = median(shares.map((x) => abs(x - usual)));
  return TO_DEVIATION * off > UNSTEADY * max(STIRS, usual);
}

function around(changes: Changes, k: number): readonly [from: number, to: number] {
  const [first, end] = changes.within(k);
  return [max(first, k - REACH), min(end, k + REACH + 1)];
}

/** Log odds for held by the motion that step k, smeared or not, shares with those around it; null where too few are around. */
export function faintEvidence(changes: Changes, k: number, smeared: boolean): number | null {
  const { coarseAlong, coarseNoise } = changes.columns;
  const [from, to] = around(changes, k);
  if (to - from < LEAST) return null;
  const x = coarseAlong.subarray(from, to);
  const least = smeared ? SMEARED : LEAST_ERROR;
  const noise = coarseNoise.slice(from, to).map((one) => max(least, one));
  const [own, s] = [coarseAlong[k] as number, noise[k - from] as number];
  return density(own, 0, s) - densityOfNew(own, movedBy(x, noise), s);
}

/** Whether more moves around step k than noise alone would feign. */
export function movesUnderNoise(changes: Changes, k: number): boolean {
  const { coarseAlong, coarseNoise } = changes.columns;
  const [from, to] = around(changes, k);
  let [sum, squares] = [0, 0];
  for (let i = from; i < to; i++) {
    sum += coarseAlong[i] as number;
    squares += (coarseNoise[i] as number) ** 2;
  }
  return to - from >= LEAST && sum > MOVES.least * (to - from) && sum > MOVES.errors * sqrt(squares);
}

/** What new pictures share in common motion. */
function movedBy(x: Float32Array, noise: Float32Array): number {
  const upper = x
    .slice()
    .sort()
    .subarray(x.length >> 1);
  let moved = max(0.3, upper.reduce((sum, one) => sum + one, 0) / upper.length);
  let held = 0.5;
  for (let round = 0; round < ROUNDS; round++) {
    let [all, sum, weights] = [0, 0, 0];
    for (let i = 0; i < x.length; i++) {
      const [own, s] = [x[i] as number, noise[i] as number];
      const odds = log(held / (1 - held)) + density(own, 0, s) - densityOfNew(own, moved, s);
      const isNew = 1 / (1 + exp(odds));
      all += 1 - isNew;
      sum += isNew * own;
      weights += isNew;
    }
    held = max(RAREST, min(1 - RAREST, all / x.length));
    if (weights > 0) moved = max(0.1, sum / weights);
  }
  return moved;
}

/** Logarithm of how likely a new picture shares so much in common motion. */
function densityOfNew(value: number, moved: number, noise: number): number {
  const even = density(value, moved, sqrt(noise * noise + (UNEVEN * moved) ** 2));
  const any = density(value, moved, sqrt(noise * noise + (OTHERWISE.times * moved) ** 2));
  return log((1 - OTHERWISE.share) * exp(even) + OTHERWISE.share * exp(any) + Number.MIN_VALUE);
}

/** Logarithm of a normal density, without its constant. */
const density = (value: number, mean: number, deviation: number): number =>
  -log(deviation) - ((value - mean) / deviation) ** 2 / 2;
