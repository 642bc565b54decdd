import type { Changes } from '../measure/changes.js';

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
    if (held[i]) continue;
    const gap = gaps?.[i] ?? 1;
    const move = changes.at('displacement', i) / gap;
    const [along, coarseAlong] = [changes.at('coherence', i) / gap, changes.at('coarseCoherence', i) / gap];
    fresh.push({ at: i, move, along, coarseAlong, energy: changes.at('energy', i) });
  }
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
  const beat = atOneBeat(likely);
  return likely.filter((k) => alone.has(k) || beat.has(k));
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

function median(values: readonly number[]): number {
  return values.toSorted((a, b) => a - b)[values.length >> 1] as number;
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
