import type { Changes } from '../measure/changes.js';
import { median } from '../measure/median.js';
import { isClearlyLongStep, isLongStep } from './longSteps.js';

/** New pictures on each side that a step is compared with. */
const AROUND = 5;
/** Below this motion (Changes.displacement) a jump cannot be distinguished from a step. */
const LEAST_MOTION = 0.08;
/** Below this the fine measure has to agree (0.4 here is 1.6 of its samples: as far as it sees). */
const FINE_MOTION = 0.4;
/** Up to this motion one of the two scales is accurate; there, everything that moves has to jump, not a single opening mouth. */
const SEEN_MOTION = 1.2;
const FARTHER = 1.4;
/** A ratio this large on both scales counts even where the motion is less steady. */
const CLEARLY = 1.7;
/** Before a true jump the step is as usual; after a picture that an encoder held, the next step merely catches up. */
const CATCHES_UP = 0.5;
/** This many jumps in a row at one beat are a conversion that dropped pictures. */
const BEATS = 4;
const LONGEST_BEAT = 60;

interface Step {
  /** Index of the change. */
  readonly at: number;
  readonly move: number;
  readonly along: number;
  readonly coarseAlong: number;
  readonly energy: number;
}

const SCALES = ['along', 'coarseAlong'] as const;

/**
 * Pictures before which others are missing: motion twice that of the new pictures around it, for one step. Needs even motion
 * around it to say so; where several jump at one beat, the others of that beat around it do not count against it.
 * @param held 1 for each change that holds
 * @param gaps time before each change relative to the usual (1), for variable timing; null when constant
 * @returns pictures, ascending
 */
export function findJumps(changes: Changes, held: Uint8Array, gaps: Float64Array | null): number[] {
  const fresh: Step[] = [];
  for (let i = 0; i < changes.length; i++) {
    if (held[i] || changes.at('broken', i)) continue;
    const gap = gaps?.[i] ?? 1;
    const move = changes.at('displacement', i) / gap;
    const [along, coarseAlong] = [changes.at('coherence', i) / gap, changes.at('coarseCoherence', i) / gap];
    fresh.push({ at: i, move, along, coarseAlong, energy: changes.at('energy', i) });
  }
  const { likely, alone } = standingOut(fresh);
  const beat = atOneBeat(likely);
  const found = new Set(likely.filter((k) => beat.has(k) || (alone.has(k) && isLongStep(changes, held, k - 1))));
  const clear = new Set<number>();
  // Where pictures come at their own times a long step may have had long to take.
  if (!gaps)
    for (const { at, move, along, coarseAlong } of fresh) {
      // Beside a held picture a step may make up for it.
      if (held[at - 1] || held[at + 1]) continue;
      const more = surplusAt(changes, at);
      // The slopes have to say so, too, as far as they see.
      const agree = move > SEEN_MOTION || Math.min(along, coarseAlong) > AGREE;
      const isClear = agree && more?.even && more.pictures > CLEAR_SURPLUS && more.longest > LONG && isLongest(changes, at);
      if ((changes.at('missing', at) > 0 || isClear) && isLongStep(changes, held, at)) found.add(at + 1);
      if (isClearlyLongStep(changes, held, at)) clear.add(at + 1);
    }
  const isShort = (k: number): boolean => (surplusAt(changes, k - 1)?.pictures ?? 1) <= LEAST_SURPLUS;
  const long = [...found].filter((k) => !isShort(k));
  return [...new Set([...long, ...clear])].sort((a, b) => a - b);
}

/** Pictures to which steps lead that are so much larger than those around them: where two of the others may be, too, and where they are alone. */
function standingOut(fresh: readonly Step[]): { readonly likely: readonly number[]; readonly alone: ReadonlySet<number> } {
  const alone = new Set<number>();
  const likely: number[] = [];
  for (let i = AROUND - 1; i + AROUND - 1 < fresh.length; i++) {
    const here = fresh[i] as Step;
    if (here.move < FINE_MOTION && (here.along < 1.5 || here.coarseAlong < 1.4)) continue;
    const around = [...fresh.slice(Math.max(0, i - AROUND), i), ...fresh.slice(i + 1, i + 1 + AROUND)];
    const farther = SCALES.map((scale) => here[scale] / median(around.map((a) => a[scale])));
    if (here.move < SEEN_MOTION && Math.max(...farther) < FARTHER) continue;
    const spread = Math.min(...farther) > CLEARLY ? 0.5 : 0.35;
    if (!standsOut(here, around, 1, spread)) continue;
    // A step that makes up for a short one before it leaves nothing out.
    const before = fresh[i - 1];
    if (before && before.at === here.at - 1 && before.along < CATCHES_UP) continue;
    likely.push(here.at + 1);
    if (standsOut(here, around, 0, spread)) alone.add(here.at + 1);
  }
  return { likely, alone };
}

/** How many pictures are missing within change k, which is known to leave some out. */
export function missingIn(changes: Changes, k: number): number {
  const more = surplusAt(changes, k);
  return Math.max(1, more ? Math.round(more.pictures) : changes.at('missing', k));
}

/** Steps on each side that say how long a step is here. */
const NEAR = 5;
/** An encoder may show a part of a step one picture early or late: over three steps that evens out, and a missing picture stays. */
const LEAST_SURPLUS = 0.45;
const CLEAR_SURPLUS = 0.72;
/** A step shorter than this share of the usual one, or of the mean, is one of a hold. */
const MOVING = 0.5;
/** Motion is even where steps differ from their middle by this share of it, for half of them. */
const EVEN = 0.12;
/** and the two steps beside the three by no more than this. */
const AS_EVER = 0.15;
/** By slopes a longer step is so many times as long as usual, at least. */
const AGREE = 1.3;
/** The longest of the three is so many times as long as usual. */
const LONG = 1.42;

/** By how many steps the three around a change are longer than three; null where too little is known of those around. */
function surplusAt(
  changes: Changes,
  k: number,
): { readonly pictures: number; readonly longest: number; readonly even: boolean } | null {
  const [first, end] = changes.within(k);
  if (k <= first || k + 1 >= end) return null;
  const paces = [k - 1, k, k + 1].map((i) => changes.at('pace', i));
  const around: number[] = [];
  for (let i = Math.max(first, k - NEAR - 1); i < Math.min(end, k + NEAR + 2); i++)
    if (Math.abs(i - k) > 1 && changes.at('pace', i) > 0) around.push(changes.at('pace', i));
  if (around.length < NEAR || paces.some((p) => p === 0)) return null;
  const usual = median(around);
  // Paces are shares of a mean: where the middle is far below it some pictures hold.
  if (usual < MOVING || Math.min(...paces) < MOVING * usual) return null;
  const spread = median(around.map((p) => Math.abs(p - usual)));
  const beside = [k - 2, k + 2].filter((i) => i >= first && i < end).map((i) => Math.abs(changes.at('pace', i) - usual));
  return {
    pictures: paces.reduce((sum, p) => sum + p, 0) / usual - 3,
    longest: Math.max(...paces) / usual,
    even: spread < EVEN * usual && Math.max(...beside, 0) < AS_EVER * usual,
  };
}

function isLongest(changes: Changes, k: number): boolean {
  const at = (i: number): number => changes.at('pace', i);
  return at(k) > at(k - 1) && at(k) >= at(k + 1);
}

/**
 * @param others steps on each end of the order that may differ themselves
 * @param spread by how much motion around may differ from its middle
 */
function standsOut(here: Step, around: readonly Step[], others: 0 | 1, spread: number): boolean {
  if (here.move < LEAST_MOTION) return false;
  const moves = around.map((a) => a.move).sort((a, b) => a - b);
  const middle = median(moves);
  const usualEnergy = median(around.map((a) => a.energy));
  // Two of ten may jump as well.
  const largest = moves[moves.length - 1 - 2 * others] as number;
  const even = largest < middle * (1 + spread) && (moves[others] as number) > middle * (1 - spread);
  const ratio = here.move / middle;
  // A scene cut changes everything at once: that is not a jump.
  return even && ratio > 1.65 && ratio < 4.5 && here.energy > usualEnergy * 1.5 && here.energy < usualEnergy * 14;
}

/** Those that are equally spaced, to within a picture. */
function atOneBeat(pictures: readonly number[]): Set<number> {
  const found = new Set<number>();
  let from = 0;
  for (let i = 1; i <= pictures.length; i++) {
    const gap = (pictures[i] ?? Number.POSITIVE_INFINITY) - (pictures[i - 1] as number);
    const first = (pictures[from + 1] ?? 0) - (pictures[from] as number);
    const goesOn = gap <= LONGEST_BEAT && Math.abs(gap - first) <= 1;
    if (goesOn || i - from < 2) {
      if (i - from < 2 && gap > LONGEST_BEAT) from = i;
      continue;
    }
    if (i - from > BEATS) for (let k = from; k < i; k++) found.add(pictures[k] as number);
    from = i - 1;
  }
  return found;
}
