import { PATTERNS, type Pattern, type PatternRun } from '../verdict/patterns.js';

/**
 * Asks pictures that a run calls new which of its others they resemble.
 *
 * The evidence of a picture is weighed against an even chance (patterns.ts). Where a small part moves and the encoder is
 * coarse, whole clips of held pictures give hardly more than none, and a pattern that holds the clearest of them alone can be
 * cheapest. But that some hold is settled then, and how new pictures look in this clip is known; so a pattern that holds
 * these and more is preferred where what it holds besides looks new by half at most.
 */

/** A fuller pattern has to hold at least this many additional pictures: fewer are chance. */
const LEAST_MORE = 12;
/** The additional pictures may look half as new, on average, as those it leaves new. (In trial clips where one in four holds, they differ by a quarter.) */
const HALF_AS_NEW = 0.5;

/** The fuller pattern that the run's own contrast speaks for, at its phase; the run itself where there is none. */
export function fuller(run: PatternRun, evidence: Float64Array): PatternRun {
  if (run.pattern.name === 'still' || run.pattern.newShare === 1) return run;
  let best = run;
  let least = Number.POSITIVE_INFINITY;
  for (const pattern of PATTERNS) {
    if (pattern.name === 'still' || pattern.newShare >= run.pattern.newShare) continue;
    for (let phase = 0; phase < pattern.cycle.length; phase++) {
      const other = { ...run, pattern, phase };
      if (!holdsAll(run, other)) continue;
      const more = mean(run, evidence, (k) => !holds(run, k) && holds(other, k));
      if (more < HALF_AS_NEW * meanOfNew(other, evidence)) continue;
      const own = unlikeness(other, evidence);
      if (own >= least) continue;
      best = other;
      least = own;
    }
  }
  return best;
}

/** Whether `pattern` holds nothing, at some phase, that the run does not hold: then evidence alone prefers it where little is clear. */
export function isWithin(pattern: Pattern, run: PatternRun): boolean {
  return pattern.cycle.some((_, phase) => holdsAll({ ...run, pattern, phase }, run));
}

const holds = ({ pattern, phase, from }: PatternRun, k: number): boolean =>
  pattern.cycle[(phase + k - from) % pattern.cycle.length] as boolean;

/** Whether `other` holds all that `one` holds, and at least LEAST_MORE others. */
function holdsAll(one: PatternRun, other: PatternRun): boolean {
  let more = 0;
  for (let k = one.from; k < one.to; k++) {
    if (holds(one, k) && !holds(other, k)) return false;
    if (!holds(one, k) && holds(other, k)) more++;
  }
  return more >= LEAST_MORE;
}

/** Mean evidence of the pictures that a run calls new. */
export function meanOfNew(run: PatternRun, evidence: Float64Array): number {
  return mean(run, evidence, (k) => !holds(run, k));
}

function mean({ from, to }: PatternRun, evidence: Float64Array, of: (k: number) => boolean): number {
  let [sum, count] = [0, 0];
  for (let k = from; k < to; k++) {
    if (!of(k)) continue;
    sum += evidence[k] as number;
    count++;
  }
  return sum / Math.max(1, count);
}

/** Sum of squares of the evidence around the means of what the run holds and of what it calls new. */
function unlikeness(run: PatternRun, evidence: Float64Array): number {
  const sums = [0, 0];
  const counts = [0, 0];
  let squares = 0;
  for (let k = run.from; k < run.to; k++) {
    const kind = holds(run, k) ? 1 : 0;
    const e = evidence[k] as number;
    sums[kind] = (sums[kind] as number) + e;
    counts[kind] = (counts[kind] as number) + 1;
    squares += e * e;
  }
  for (const kind of [0, 1]) squares -= (sums[kind] as number) ** 2 / Math.max(1, counts[kind] as number);
  return squares;
}
