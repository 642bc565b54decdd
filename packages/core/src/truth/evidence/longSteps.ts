import type { Changes } from '../measure/changes.js';
import { median } from '../measure/median.js';

/**
 * Whether a step leaves pictures out, by its share in the motion around it (Changes.coarseCoherence and coarseAlong): 1 where motion goes on, 2 where one
 * picture is missing. Slopes see no further than a few samples: where things move faster than that, the change itself has to say it.
 */

/** Steps on each side of the one in question that it is compared with. */
const AROUND = 6;
/** So many of them have to be known to refuse a step, and to accept one. */
const LEAST_AROUND = { refuse: 3, accept: 5 } as const;
/** The usual share is taken as this much at the least: where it is less, hardly anything goes on that a picture could be missing from. */
const USUAL_SHARE = 0.9;
/** A share, and a change, that is more than so many times the usual one is no motion that skips a picture or two. */
const MOST = { share: 4.6, energy: 12 } as const;
/**
 * What a long step has to have, in times of the usual: its share, and either the share by least squares or the energy of the change. Both neighbours
 * have `beside` at the least, or the step only makes up for one of them.
 */
const LONG = { share: 1.3, along: 1.15, energy: 1.3, beside: 0.5 } as const;
/** Displacements (in samples of the coarse picture): the usual one up to which slopes see twice as far, and one that no motion has. */
const IN_SIGHT = 1.2;
const FARTHEST = 6;
/**
 * The same where nothing else speaks for a missing picture: more of each, and `alone` times the largest share near by. Below `displacement` a coder's own
 * rhythm makes steps as long.
 */
const CLEARLY = { share: 1.5, energy: 1.6, alone: 1.3, displacement: 0.16 } as const;

type ShareMeasure = 'coarseCoherence' | 'coarseAlong';

/** Steps of the same shot around `at` that show something new, from `nearest` away on. */
function othersAround(changes: Changes, held: Uint8Array, at: number, nearest: 1 | 2): number[] {
  const [first, end] = changes.within(at);
  const found: number[] = [];
  for (let i = Math.max(first, at - AROUND); i < Math.min(end, at + AROUND + 1); i++)
    if (Math.abs(i - at) >= nearest && !held[i]) found.push(i);
  return found;
}

/** Whether a step is long enough to leave pictures out; true as well where too few steps are known to say that it is not. */
export function isLongStep(changes: Changes, held: Uint8Array, at: number): boolean {
  const around = othersAround(changes, held, at, 2);
  if (around.length < LEAST_AROUND.refuse) return true;
  const energy = energyTimes(changes, around, at);
  if (median(around.map((i) => changes.at('displacement', i))) > IN_SIGHT)
    return energy > LONG.energy && energy < MOST.energy && changes.at('displacement', at) < FARTHEST;
  const share = shareTimes(changes, around, at, 'coarseCoherence');
  if (share < LONG.share || share > MOST.share) return false;
  const beside = othersAround(changes, held, at, 1).filter((i) => Math.abs(i - at) === 1);
  if (beside.some((i) => shareTimes(changes, around, i, 'coarseCoherence') < LONG.beside)) return false;
  return energy > LONG.energy || shareTimes(changes, around, at, 'coarseAlong') > LONG.along;
}

/** Whether a step is so much longer than all others around it that nothing else has to speak for a missing picture. */
export function isClearlyLongStep(changes: Changes, held: Uint8Array, at: number): boolean {
  // Nearly all steps end here.
  if (changes.at('coarseCoherence', at) < CLEARLY.share * USUAL_SHARE) return false;
  if (changes.at('displacement', at) < CLEARLY.displacement) return false;
  const around = othersAround(changes, held, at, 2);
  if (around.length < LEAST_AROUND.accept || !around.some((i) => i < at) || !around.some((i) => i > at)) return false;
  const energy = energyTimes(changes, around, at);
  if (energy < CLEARLY.energy || energy > MOST.energy || !isLongStep(changes, held, at)) return false;
  const near = othersAround(changes, held, at, 1);
  return (['coarseCoherence', 'coarseAlong'] as const).every((measure) => {
    const share = shareTimes(changes, around, at, measure);
    const largest = Math.max(...near.map((i) => changes.at(measure, i)));
    return share > CLEARLY.share && share < MOST.share && changes.at(measure, at) > CLEARLY.alone * largest;
  });
}

/** A step's share, in times of the median of those around. */
function shareTimes(changes: Changes, around: readonly number[], at: number, measure: ShareMeasure): number {
  return changes.at(measure, at) / Math.max(USUAL_SHARE, median(around.map((i) => changes.at(measure, i))));
}

/** The energy of a step's change, in times of the median of those around. */
function energyTimes(changes: Changes, around: readonly number[], at: number): number {
  return changes.at('energy', at) / Math.max(1e-6, median(around.map((i) => changes.at('energy', i))));
}
