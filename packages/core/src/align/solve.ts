import { type Rate, rate } from '../time/index.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, round, sqrt } = Math;

/** The same moment in two recordings, in whole microseconds of each. */
export interface Tie {
  readonly a: number;
  readonly b: number;
}

/** The relation of two recordings' times: b = offset + ratio * a. */
export interface Solution {
  /** Seconds of b at the start of a. */
  readonly offsetSeconds: number;
  /** Seconds of b that pass in one of a, exactly. */
  readonly ratio: Rate;
  readonly driftPpm: number;
  /** Each tie's residual in seconds: its b minus the b that the solution predicts. */
  readonly leftOver: readonly number[];
  /** Ties, by number, that fit none of the others and were not counted. */
  readonly outliers: readonly number[];
  /** Whether the ties are far enough apart to determine a drift. */
  readonly drifts: boolean;
}

/** The relation of a second recording's time to a first one's, in numbers: b = offset + ratio * a, in seconds. */
export interface Relation {
  readonly offset: number;
  readonly ratio: number;
}

export function relationOf({ offsetSeconds, ratio }: Solution): Relation {
  return { offset: offsetSeconds, ratio: ratio.num / ratio.den };
}

/** c from a, by way of b. */
export function byWayOf(ab: Relation, bc: Relation): Relation {
  return { offset: bc.offset + bc.ratio * ab.offset, ratio: bc.ratio * ab.ratio };
}

/** The largest distance of two relations between two moments of a, in seconds of b. */
export function furthestApart(p: Relation, q: Relation, from: number, to: number): number {
  const at = (a: number): number => abs(p.offset - q.offset + (p.ratio - q.ratio) * a);
  return max(at(from), at(to));
}

export type TieFault = 'tie-twice' | 'ties-cross';

/** Moments nearer than this are one: 2 ms, in microseconds. */
const ONE_MOMENT = 2000;
/** Fewest ties among which an outlier can be recognised. */
const FEW = 4;
/** What is left over at a tie before it may be called an outlier, in microseconds. */
const TOLERATED = 2000;
/** Ties less than this apart tell no drift, in microseconds: a millisecond in five seconds is 200 ppm. */
const NO_DRIFT = 5_000_000;
/** Denominators of speeds stay below this where ties are many: an error below 1e-12. */
const LARGEST = 1_000_000n;

/** Why ties cannot be solved; null where they can. */
export function tieFault(ties: readonly Tie[]): TieFault | null {
  const inOrder = [...ties].sort((p, q) => p.a - q.a);
  for (let i = 1; i < inOrder.length; i++) {
    const [p, q] = [inOrder[i - 1] as Tie, inOrder[i] as Tie];
    if (q.a - p.a < ONE_MOMENT || abs(q.b - p.b) < ONE_MOMENT) return 'tie-twice';
    if (q.b < p.b) return 'ties-cross';
  }
  return null;
}

/**
 * Offset and speed from ties: one gives the offset, two both, more the least squares of what is left over, without outliers (found by
 * the line through two of them that has the least median of squares; Rousseeuw, 1984). Null without ties. They must have no fault.
 * @param apart microseconds that ties have to span to tell a drift
 */
export function solveTies(ties: readonly Tie[], apart = NO_DRIFT): Solution | null {
  const [first] = ties;
  if (!first) return null;
  const kept = ties.length < FEW ? ties : inliers(ties);
  const span = max(...kept.map((t) => t.a)) - Math.min(...kept.map((t) => t.a));
  const drifts = kept.length > 1 && span >= apart;
  const speed = drifts ? slope(kept) : rate(1);
  const value = speed.num / speed.den;
  const origin = kept[0] as Tie;
  // Taken from the first tie on: seconds of an hour and microseconds together would lose digits.
  const mean = kept.reduce((sum, t) => sum + (t.b - origin.b - value * (t.a - origin.a)), 0) / kept.length;
  const offset = origin.b - value * origin.a + mean;
  return {
    offsetSeconds: offset / 1e6,
    ratio: speed,
    driftPpm: ((speed.num - speed.den) / speed.den) * 1e6,
    leftOver: ties.map((t) => (t.b - origin.b - value * (t.a - origin.a) - mean) / 1e6),
    outliers: ties.flatMap((t, i) => (kept.includes(t) ? [] : [i])),
    drifts,
  };
}

/** The exact slope of the least-squares line: integers all the way, then the nearest fraction of moderate size. */
function slope(ties: readonly Tie[]): Rate {
  const n = BigInt(ties.length);
  let [a, b, ab, aa] = [0n, 0n, 0n, 0n];
  for (const tie of ties) {
    const [x, y] = [BigInt(round(tie.a)), BigInt(round(tie.b))];
    a += x;
    b += y;
    ab += x * y;
    aa += x * x;
  }
  return nearest(n * ab - a * b, n * aa - a * a);
}

/** Continued fractions until the denominator would pass LARGEST (Khinchin, 1964); small fractions come out as they are. */
function nearest(num: bigint, den: bigint): Rate {
  let [x, y] = [num, den];
  let [p, q, before, below] = [1n, 0n, 0n, 1n];
  while (y !== 0n) {
    const whole = x / y;
    const [nextP, nextQ] = [whole * p + before, whole * q + below];
    if (nextQ > LARGEST) break;
    [before, below, p, q] = [p, q, nextP, nextQ];
    [x, y] = [y, x - whole * y];
  }
  return p > 0n && q > 0n ? rate(Number(p), Number(q)) : rate(1);
}

function inliers(ties: readonly Tie[]): readonly Tie[] {
  let best = { median: Number.POSITIVE_INFINITY, offset: 0, value: 1 };
  for (const p of ties)
    for (const q of ties) {
      if (q.a - p.a < NO_DRIFT) continue;
      const value = (q.b - p.b) / (q.a - p.a);
      const offset = p.b - value * p.a;
      const left = ties.map((t) => abs(t.b - offset - value * t.a)).sort((x, y) => x - y);
      const median = left[left.length >> 1] as number;
      if (median < best.median) best = { median, offset, value };
    }
  if (best.median === Number.POSITIVE_INFINITY) return ties;
  // 1.4826 medians are a standard deviation; a few ties give it too small.
  const reach = max(TOLERATED, 3 * 1.4826 * (1 + 5 / (ties.length - 2)) * best.median);
  const kept = ties.filter((t) => abs(t.b - best.offset - best.value * t.a) <= reach);
  return kept.length >= 2 ? kept : ties;
}

/** Standard deviation of what is left over at the ties that count, in seconds. */
export function spread({ leftOver, outliers }: Solution): number {
  const kept = leftOver.filter((_, i) => !outliers.includes(i));
  return sqrt(kept.reduce((sum, x) => sum + x * x, 0) / max(1, kept.length));
}
