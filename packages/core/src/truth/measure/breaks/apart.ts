import { median } from '../median.js';
import type { TileTrack } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, log, max, min } = Math;

/**
 * What may be told of order without looking for motion: how far pictures are from each other that are one, two and more apart. Where things go
 * on, whatever goes on, what is two apart differs more than what is one apart.
 */

/** Mean square difference, in squared 8-bit steps, that is noise and coding. */
const NOISE = 0.02;
/** Steps on each side that say what is usual, and how many there have to be in all. */
const AROUND = 7;
const LEAST = 6;
/**
 * Two pictures are exchanged where what is two apart there differs less than what is one apart, by so much in natural logarithms, and usually
 * differs by so much more; and where such a pair is nearer than any other near by, by so much.
 */
const EXCHANGED = { less: 0.1, usually: 0.2, alone: 0.1 } as const;
/**
 * Pictures are missing in a step that is as far as usual ones that are so many more apart, to within this share of what a picture more makes
 * usually, if that is so much at least; and is further past the usual than any other near by, so many times, of so many on
 * each side at the least.
 */
const MISSING = { most: 3, within: 0.25, usually: 0.15, alone: 4, aSide: 6 } as const;

/** Logarithm of how far the later picture of step k is from the one so many steps before it. */
function farness(track: TileTrack, k: number, steps: number): number {
  return log(track.at(k).apart[steps - 1] + NOISE);
}

/** How much further pictures two apart are than those one apart, at step k and the one before it: the lesser of both. */
function growth(track: TileTrack, k: number): number {
  return farness(track, k, 2) - max(farness(track, k, 1), farness(track, k - 1, 1));
}

/** Unbroken steps from k - 1 backward and from k + past forward, each until one is broken. */
function stepsAround(k: number, past: number, ready: number, isBroken: (k: number) => boolean): number[] {
  const found: number[] = [];
  for (let i = k - 1; i >= max(1, k - AROUND) && !isBroken(i); i--) found.push(i);
  for (let i = k + past; i < min(ready, k + past + AROUND) && !isBroken(i); i++) found.push(i);
  return found;
}

/**
 * How clearly pictures k + 1 and k + 2 are exchanged by how far they are from those around: up to 1; 0 where they are not.
 * @param k its steps to k + 3 are unbroken
 * @param ready steps of which it is known whether they are broken
 */
export function exchangedAt(track: TileTrack, k: number, ready: number, isBroken: (k: number) => boolean): number {
  const near = stepsAround(k - 1, 5, ready, isBroken).filter((i) => i >= 1 && !isBroken(i - 1));
  if (near.length < LEAST) return 0;
  const far = (i: number, steps: number): number => farness(track, i, steps);
  const here = max(far(k + 1, 2) - far(k, 1), far(k + 2, 2) - far(k + 2, 1));
  const usual = near.map((i) => growth(track, i));
  const isExchanged = here < -EXCHANGED.less && median(usual) > EXCHANGED.usually && min(...usual) > here + EXCHANGED.alone;
  return isExchanged ? max(0.01, min(1, -here)) : 0;
}

/** How many pictures are missing within step k by how far its pictures are from each other; 0 where none are, or it is unclear. */
export function missingAt(track: TileTrack, k: number, ready: number, isBroken: (k: number) => boolean): number {
  const near = stepsAround(k, 1, ready, isBroken);
  const before = near.filter((i) => i < k).length;
  if (min(before, near.length - before) < MISSING.aSide) return 0;
  const far = (i: number, steps: number): number => farness(track, i, steps);
  const usual = median(near.map((i) => far(i, 1)));
  const spread = max(...near.map((i) => abs(far(i, 1) - usual)));
  // Steps that reach over the one in question say nothing of what is usual.
  const more = median(near.filter((i) => i !== k + 1 && !isBroken(i - 1)).map((i) => growth(track, i)));
  const past = far(k, 1) - usual;
  if (more < MISSING.usually || past < (1 - MISSING.within) * more || past < MISSING.alone * spread) return 0;
  for (let missing = 1; missing <= MISSING.most; missing++) {
    const often = median(near.filter((i) => i < k && i >= missing).map((i) => far(i, missing + 1)));
    if (abs(far(k, 1) - often) < MISSING.within * more) return missing;
  }
  return 0;
}
