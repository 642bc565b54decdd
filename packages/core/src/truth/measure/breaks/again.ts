import { median } from '../median.js';
import { PLAIN, type TileTrack } from './tileTrack.js';

const { max, min } = Math;

/** A picture is an earlier one when it differs from that by less than this share of a usual step, */
const SAME = 0.1;
/** and hardly more than coding leaves: a camera that swings comes near to where it was. */
const EXACTLY = { ofStep: 0.004, coding: 0.1 } as const;
/** or of the steps to and from it where these are so many times as far as a usual one. */
const SAME_AS_STEPS = 0.3;
const FAR = 3;
/** Mean square difference, in squared 8-bit steps, that is noise and coding. */
const NOISE = 0.01;
/** So much of the picture has to change in both steps: a counter shows like numbers now and then, and a mouth closes again. */
const SPREAD = 0.25;
const CHANGED = { coding: 0.3, ofDetail: 0.01 } as const;
/** A step is none of a hold when it is at least this share of a usual one. */
const MOVES = 0.5;
/** What goes on after it goes on from before it: nearer to that than the steps to and from the picture between. */
const HOME = 0.6;

/** Share of the tiles with detail that change in a step where they are. */
function spread(track: TileTrack, k: number): number {
  const { own, still } = track.at(k).tiles;
  let [changed, all] = [0, 0];
  for (let t = 0; t < track.tiles; t++) {
    if (own[t] < PLAIN) continue;
    all++;
    if (still[t] > CHANGED.coding + CHANGED.ofDetail * own[t]) changed++;
  }
  return all > 0 ? changed / all : 0;
}

/**
 * Whether picture k + 1 comes again from two to six pictures earlier while those around it go on. A clip that runs round shows each picture
 * again, those on both sides as well: that is none.
 * @param near steps near by that say what is usual, at least one
 * @returns 0 where it does not; else how much more like that picture than its neighbours it is, up to 1
 */
export function comesAgain(track: TileTrack, k: number, near: readonly number[]): number {
  if (k < 1 || k + 1 >= track.length || min(spread(track, k), spread(track, k + 1)) < SPREAD) return 0;
  const [before, here, next] = [track.at(k - 1).apart, track.at(k).apart, track.at(k + 1).apart];
  const usual = median(near.map((i) => track.at(i).apart[0]));
  const [to, from, home] = [here[0], next[0], next[1]];
  for (let back = 2; back <= here.length; back++) {
    const same = here[back - 1];
    const beside = min(before[back - 1], next[back - 1]);
    const exact = same < EXACTLY.ofStep * usual + EXACTLY.coding;
    const clearly = exact && same < SAME * usual && same < SAME * beside && min(to, from) > MOVES * usual;
    // What swings shows the same pictures on its way back, one after the other.
    const mirrored = next[back + 1] ?? Number.POSITIVE_INFINITY;
    if (mirrored < usual && home > mirrored) continue;
    const far = min(to, from) > FAR * usual + NOISE && same < SAME_AS_STEPS * min(to, from) && home < HOME * min(to, from);
    if (clearly || far) return max(0.01, 1 - same / (SAME_AS_STEPS * min(to, from)));
  }
  return 0;
}
