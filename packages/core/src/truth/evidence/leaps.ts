import type { Changes } from '../measure/changes.js';
import { median } from '../measure/median.js';

/**
 * Whether a step leaves pictures out, by its share in the motion around it (Changes.coarseCoherence, coarseAlong): 1 where motion goes on, 2 where one
 * picture is missing, whatever moves and however far.
 */

/** Steps on each side that a step's share in the motion around it is held against, the nearest left out. */
const AROUND = 6;
/** So many have to be known to say that it is not so, and to say that it is. */
const LEAST_AROUND = { against: 3, for: 5 } as const;
/** Less than this is no usual share of steps in the motion around them. */
const USUAL_SHARE = 0.9;
/**
 * A step that leaves pictures out has so many times the share that others have, by the wider measure: noise lies below, a jerk above. It shows by the
 * other wide measure, too, or by how much changes; and the steps beside it are steps forward, or it makes up for one of them. Where things move so far
 * that twice as far is out of sight, more has to change, and what changes has to be motion still.
 */
const REACHES = {
  share: 1.3,
  mostShare: 4.6,
  along: 1.15,
  energy: 1.3,
  mostEnergy: 12,
  beside: 0.5,
  inSight: 1.2,
  farthest: 6,
} as const;
/**
 * With nothing else known a step leaves one out that has so many times the share of others by both wide measures, and so many times that of any
 * other near by, and changes so many times as much. More than the most is a change of another kind; in less motion the coder's own rhythm is longer.
 */
const LEAP = { share: 1.5, mostShare: 4.6, energy: 1.6, mostEnergy: 12, alone: 1.3, motion: 0.16 } as const;

/** Steps around that show something new, the nearest left out; `at` is not among them. */
function othersAround(changes: Changes, held: Uint8Array, at: number, nearest: 1 | 2): number[] {
  const [first, end] = changes.within(at);
  const found: number[] = [];
  for (let i = Math.max(first, at - AROUND); i < Math.min(end, at + AROUND + 1); i++)
    if (Math.abs(i - at) >= nearest && !held[i]) found.push(i);
  return found;
}

/** Whether a step's share in the motion around it is larger than those of the others there, as a step that leaves pictures out has to be. */
export function reachesOut(changes: Changes, held: Uint8Array, at: number): boolean {
  const around = othersAround(changes, held, at, 2);
  if (around.length < LEAST_AROUND.against) return true;
  const energy = energyTimes(changes, around, at);
  if (median(around.map((i) => changes.at('displacement', i))) > REACHES.inSight)
    return energy > REACHES.energy && energy < REACHES.mostEnergy && changes.at('displacement', at) < REACHES.farthest;
  const times = timesUsual(changes, around, at, 'coarseCoherence');
  if (times < REACHES.share || times > REACHES.mostShare) return false;
  const beside = [at - 1, at + 1].filter((i) => i >= 0 && i < changes.length && !changes.at('broken', i) && !held[i]);
  if (beside.some((i) => timesUsual(changes, around, i, 'coarseCoherence') < REACHES.beside)) return false;
  return energy > REACHES.energy || timesUsual(changes, around, at, 'coarseAlong') > REACHES.along;
}

/** A step's share against the middle of others'. */
function timesUsual(changes: Changes, around: readonly number[], at: number, measure: 'coarseCoherence' | 'coarseAlong'): number {
  // Where others have hardly a share in the motion themselves nothing goes on that could be left out.
  return changes.at(measure, at) / Math.max(USUAL_SHARE, median(around.map((i) => changes.at(measure, i))));
}

function energyTimes(changes: Changes, around: readonly number[], at: number): number {
  return changes.at('energy', at) / Math.max(1e-6, median(around.map((i) => changes.at('energy', i))));
}

/** Whether a step stands out from all around it as one with a picture left out does, by motion that goes on alone. */
export function leapsAlone(changes: Changes, held: Uint8Array, at: number): boolean {
  // Nearly all steps end here.
  if (changes.at('coarseCoherence', at) < LEAP.share * USUAL_SHARE || changes.at('displacement', at) < LEAP.motion) return false;
  const around = othersAround(changes, held, at, 2);
  if (around.length < LEAST_AROUND.for || !around.some((i) => i < at) || !around.some((i) => i > at)) return false;
  const beside = othersAround(changes, held, at, 1);
  const isLeap = (measure: 'coarseCoherence' | 'coarseAlong'): boolean => {
    const times = timesUsual(changes, around, at, measure);
    const most = Math.max(...beside.map((i) => changes.at(measure, i)));
    return times > LEAP.share && times < LEAP.mostShare && changes.at(measure, at) > LEAP.alone * most;
  };
  const energy = energyTimes(changes, around, at);
  return (
    reachesOut(changes, held, at) &&
    energy > LEAP.energy &&
    energy < LEAP.mostEnergy &&
    isLeap('coarseCoherence') &&
    isLeap('coarseAlong')
  );
}
