import type { Changes } from '../measure/changes.js';
import { AROUND } from '../measure/window.js';
import { faintEvidence, isNoisy, movesUnderNoise } from './faint.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** One picture alone may not convince by more than this (natural logarithm of the odds). */
const MOST = 6;
/** Coherence with more noise than this (Changes.coherenceNoise, coarseNoise) is ignored. */
const STILL_NOISE = 0.04;
const STILL_COARSE = 0.28;
const NEAR = 6;
/** Steps of one shot: the first, and the one after the last. */
type Shot = readonly [first: number, end: number];
/** Motion that goes on is measured surely with no more noise than this, and from this share of the motion around on; and what it says. */
const SURE = { noise: 0.03, share: 0.75 } as const;
const MOVED = -1.5;
/** A window of fewer steps than this says less of each. */
const FULL = 14;
/** What a broken step says: new, hardly against a pattern that has it held. */
const BROKEN = -1.5;

/** Features that separate held from new pictures, about -6 to 8 each; in the order of WEIGHTS. */
export const CLUES = [
  'always',
  'calm',
  'calmest',
  'coherence',
  'coarse',
  'both',
  'steady',
  'calm where much moves',
  'gap',
  'gap where much moves',
  'calm and onward',
  'gap and onward',
  'drop',
  'drop and onward',
  'turns',
] as const;

/**
 * A logistic regression's weights: log odds for held are the weighted sum of the clues. Fitted by `npm run bench --
 * check-fit` on the rig's trial clips (seeds below 100) with both classes weighing the same, so that a sum is evidence and
 * holds no belief about how many pictures of a clip are held.
 */
export const WEIGHTS: readonly number[] = [
  -1.658, -0.235, -0.491, -3.247, -1.233, -0.546, -11.459, 0.057, 1.063, -0.066, -0.044, 0.538, 0.546, 0, 1.143,
];

/** The clues of change k, into `out` (CLUES.length). @param usual from usualLevel */
export function cluesOf(
  changes: Changes,
  k: number,
  usual: number,
  out: Float64Array,
  work = new Float32Array(2 * AROUND + 1),
): void {
  const { columns } = changes;
  const calm = clamp(columns.calm[k] as number, -6, 0);
  const trust = 1 / (1 + ((columns.coherenceNoise[k] as number) / 0.2) ** 2);
  const coarseTrust = 1 / (1 + ((columns.coarseNoise[k] as number) / 0.2) ** 2);
  const coherence = trust * (clamp(columns.coherence[k] as number, 0, 1) - 0.5);
  out[0] = 1;
  out[1] = calm;
  out[2] = clamp(columns.calmest[k] as number, -4, 0);
  out[3] = coherence;
  out[4] = coarseTrust * (clamp(columns.coarseCoherence[k] as number, 0, 1) - 0.5);
  out[5] = calm * coherence;
  out[6] = 1 - (columns.variation[k] as number);
  out[7] = calm * usual;
  const shot = changes.within(k);
  const gap = gapOf(columns.level, k, shot, work);
  out[8] = gap;
  out[9] = gap * usual;
  out[10] = calm * (columns.onward[k] as number);
  out[11] = max(0, gap) * (columns.onward[k] as number);
  const drop = dropOf(columns.level, k, shot);
  out[12] = drop;
  out[13] = max(0, drop) * (columns.onward[k] as number);
  // Motion that stops and continues: a poor encoder lets a held picture creep, but not along with its neighbours.
  out[14] = trust * clamp(coherenceBeside(columns.coherence, k, shot) - (columns.coherence[k] as number), -1.5, 1.5);
}

/**
 * How much each picture looks held rather than new: log odds, positive for held, within ±6. Nothing is compared with a
 * fixed change: the yardstick is what pictures around it do, and the noise measured in the picture itself.
 * @param smeared from smearedPlaces
 * @returns one number a change; index 0 is picture 1
 */
export function heldEvidence(changes: Changes, smeared: Uint8Array): Float64Array {
  const evidence = new Float64Array(changes.length);
  const usual = usualLevel(changes);
  const clues = new Float64Array(CLUES.length);
  for (let k = 0; k < changes.length; k++) {
    cluesOf(changes, k, usual[k] as number, clues);
    let sum = 0;
    for (let i = 0; i < clues.length; i++) sum += (clues[i] as number) * (WEIGHTS[i] as number);
    if (smeared[k] || isNoisy(changes, k)) sum = faintEvidence(changes, k, smeared[k] === 1) ?? sum;
    // What was measured so well outweighs how much changes: lamps that go on now and then make all else look calm.
    if (movesOn(changes, k)) sum = min(sum, MOVED);
    // Where motion turns back a calm picture is no wonder.
    const onward = changes.at('onward', k);
    if (sum > 0) sum *= clamp(2 * (1 + onward), 0, 1);
    // A cut, or what lies beside a fault: new, and no more is known.
    if (changes.at('broken', k)) {
      evidence[k] = BROKEN;
      continue;
    }
    const [first, end] = changes.within(k);
    // At a shot's ends one side is missing: enough to follow a pattern, not to claim a freeze.
    const atAnEnd = k < first + 2 || k > end - 3;
    const seen = min(end, k + AROUND + 1) - max(first, k - AROUND);
    evidence[k] = clamp(sum, -MOST, atAnEnd ? 2.5 : MOST) * min(1, seen / FULL);
  }
  return evidence;
}

/** Whether motion goes on in change k as around it, beyond what noise could feign. */
function movesOn({ columns: { coherence, coherenceNoise } }: Changes, k: number): boolean {
  return (coherenceNoise[k] as number) < SURE.noise && (coherence[k] as number) > SURE.share;
}

/** Level that pictures around reach, within -3 and 4: the upper sixth of the window. */
export function usualLevel(changes: Changes): Float64Array {
  const { level } = changes.columns;
  return Float64Array.from({ length: changes.length }, (_, k) => {
    const [first, end] = changes.within(k);
    const around = level.slice(max(first, k - AROUND), min(end, k + AROUND + 1)).sort();
    return clamp(around[Math.floor((around.length - 1) * 0.85)] as number, -3, 4);
  });
}

/**
 * 1 for each change around which nothing moves: no telling held from new there. That is where what moves in common over the
 * window is no larger than what noise and coding alone would give, on both scales, for most of the steps near by.
 */
export function stillPlaces(changes: Changes): Uint8Array {
  const { coherenceNoise, coarseNoise } = changes.columns;
  const quiet = Uint8Array.from({ length: changes.length }, (_, k) =>
    (coherenceNoise[k] as number) > STILL_NOISE && (coarseNoise[k] as number) > STILL_COARSE ? 1 : 0,
  );
  return Uint8Array.from({ length: changes.length }, (_, k) => {
    if (movesUnderNoise(changes, k)) return 0;
    const near = quiet.subarray(max(0, k - NEAR), min(changes.length, k + NEAR + 1));
    return near.reduce((sum, one) => sum + one, 0) > near.length * 0.6 ? 1 : 0;
  });
}

/** Mean of what the two steps beside move. */
function coherenceBeside(coherence: Float32Array, k: number, [first, end]: Shot): number {
  const at = (i: number): number => (i >= first && i < end ? (coherence[i] as number) : 1);
  const before = at(k > first ? k - 1 : k + 1);
  const after = at(k < end - 1 ? k + 1 : k - 1);
  return (clamp(before, -1, 4) + clamp(after, -1, 4)) / 2;
}

/** Logarithm of what the energy falls short of both sides', the larger of two steps on each: -1 to 4. Calm that comes and goes gives little. */
function dropOf(levels: Float32Array, k: number, [first, end]: Shot): number {
  const at = (i: number): number => (i >= first && i < end ? (levels[i] as number) : -9);
  const near = (a: number, b: number): number => max(at(a), at(b));
  const before = k > first ? near(k - 1, k - 2) : near(k + 1, k + 2);
  const after = k < end - 1 ? near(k + 1, k + 2) : before;
  return clamp(min(before, after) - (levels[k] as number), -1, 4);
}

/** How clearly energies of the window fall into two heaps, positive below and negative above: 0 to 3 (natural logarithm of their ratio). */
function gapOf(levels: Float32Array, k: number, shot: Shot, work: Float32Array): number {
  const first = max(shot[0], k - AROUND);
  const last = min(shot[1], k + AROUND + 1);
  const around = work.subarray(0, last - first);
  for (let i = first; i < last; i++) around[i - first] = levels[i] as number;
  const own = around[k - first] as number;
  around.sort();
  let widest = 0;
  let upper = Number.NEGATIVE_INFINITY;
  // The largest alone above a gap is a cut or a flash.
  for (let i = 1; i < around.length - 1; i++) {
    const gap = (around[i] as number) - (around[i - 1] as number);
    if (gap > widest) {
      widest = gap;
      upper = around[i] as number;
    }
  }
  return own < upper ? min(3, widest) : -min(3, widest);
}

function clamp(value: number, least: number, most: number): number {
  return max(least, min(most, value));
}
