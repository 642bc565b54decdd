import { median } from '../median.js';
import type { TileStep } from '../samples/tiles.js';
import type { Likeness, Likenesses, Shift } from './likeness.js';
import { commonMotion } from './tileLook.js';
import { PLAIN, type TileTrack } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min } = Math;

/** Steps near by have to be alike by so much, -1 to 1, for fine detail to say anything. */
const LEAST = 0.3;
/**
 * All goes on where a step is alike by this share of what is usual, or by this share of what is usual two apart, at most so many coarse samples
 * from where things were going.
 */
const GOES_ON = { share: 0.7, asTwo: 0.85, jerk: 1.5 } as const;
/**
 * Two pictures belong together across the one between them where they are alike by this share of what is usual two apart, at most so many coarse
 * samples from where things were going; and do not where they are by less than the other share.
 */
const ACROSS = { share: 0.7, jerk: 2, unlike: 0.4 } as const;
/**
 * Two shots are alike by less than this share of what is usual; one has so much detail (mean square, in squared 8-bit steps); and each goes on with
 * what it has at the cut, within so many times.
 */
const CUT = { share: 0.25, detail: 5, steady: 2 } as const;
/**
 * The same things in another light: it changed in such a share of the blocks, these and all are alike by so much, where they were going; and the
 * whole changed by so many 8-bit steps, or the other blocks are alike by such a share of what is usual.
 */
const RELIT = { share: 0.2, there: 0.3, all: 0.4, jerk: 0.75, mean: 3, unlit: 0.6 } as const;
/** A flash makes this share of the blocks lighter for up to three pictures, and leaves things alike by so much unless it left nothing but light. */
const FLASH = { lighter: 0.8, alike: 0.3, burnt: 200 } as const;
/** A row of blocks is as it was where it is alike by this share of what is usual of it. */
const ROW_KEPT = 0.88;
/** And lost where it is by less than this; shares of fewer rows than these say nothing. */
const ROW_LOST = 0.45;
const LEAST_ROWS = 3;
/** A picture is as like another as is usual from this share of that on. */
const AS_USUAL = 0.85;
/**
 * A picture is an earlier one where it is as like that, in its very place, as is usual of this share of a step, and by so much more than it is like
 * those beside it: what stands still is like all of them.
 */
const AGAIN = { share: 0.8, more: 0.2, most: 6 } as const;
/** Where things go in steps near by is known to within so many halved samples. */
const NEAR = 1;

const STILL: Shift = { u: 0, v: 0 };

/** A second look at a step that looks like a cut or a fault, by fine detail: only such steps are worth what it costs. */
export class FineLook {
  /** How alike the pictures of a step are near by: the middle one. */
  private readonly usual: number;
  /** The same of pictures two apart. */
  private readonly usualTwoApart: number;
  private readonly beside: readonly Likeness[];
  /** Where things go from one picture to the next, and the likeness of this step's pictures there. */
  private readonly go: Shift;
  private readonly here: Likeness | null;

  /**
   * @param k the step from picture k to k + 1
   * @param near steps of the same shot on either side, none of them next to k
   */
  constructor(
    private readonly track: TileTrack,
    private readonly likenesses: Likenesses,
    private readonly k: number,
    private readonly near: readonly number[],
  ) {
    const shifts = near.map((i) => middleMotion(track.at(i).tiles));
    this.beside = near
      .map((i, j) => likenesses.compare(i, i + 1, [shifts[j] as Shift], NEAR))
      .filter((one): one is Likeness => one !== null);
    this.usual = this.beside.length > 0 ? median(this.beside.map((one) => one.all)) : 0;
    const twoApart = near
      .map((i, j) => (near.includes(i + 1) ? likenesses.compare(i, i + 2, [doubled(shifts[j] as Shift)], NEAR) : null))
      .filter((one): one is Likeness => one !== null);
    this.usualTwoApart = twoApart.length > 0 ? median(twoApart.map((one) => one.all)) : 0;
    this.go = near.length > 0 ? { u: median(shifts.map((s) => s.u)), v: median(shifts.map((s) => s.v)) } : STILL;
    this.here = this.usual < LEAST ? null : likenesses.compare(k, k + 1, [STILL, this.go, middleMotion(track.at(k).tiles)]);
  }

  /** Whether fine detail says anything here: it does not where pictures are plain or drown in noise. */
  get isKnown(): boolean {
    return this.here !== null;
  }

  /** Whether the same things go on over this step, in another light or with a jerk. */
  goesOn(): boolean {
    const { here } = this;
    if (!here) return false;
    const isAlike = here.all >= min(GOES_ON.share * this.usual, GOES_ON.asTwo * max(LEAST, this.usualTwoApart));
    return (isAlike && this.jerk(here) <= GOES_ON.jerk) || this.isRelit();
  }

  /** Whether these are the same things in another light. */
  isRelit(): boolean {
    const { here, k, track } = this;
    if (!here || k === 0 || this.jerk(here) > RELIT.jerk) return false;
    const { share, all } = here.lit;
    if (share < RELIT.share || all < RELIT.there || here.all < RELIT.all) return false;
    // What shines from elsewhere changes the whole, or leaves what it does not reach as it was.
    const unlit = share < 1 ? (here.all - share * all) / (1 - share) : 0;
    return abs(track.at(k).mean - track.at(k - 1).mean) >= RELIT.mean || unlit >= RELIT.unlit * this.usual;
  }

  /** Whether picture k + 1 is lighter all over, as by a flash. */
  isFlash(): boolean {
    const { here } = this;
    if (!here || here.lit.lighter < FLASH.lighter || !this.darkensAgain()) return false;
    return here.lit.all >= FLASH.alike || this.track.at(this.k).mean > FLASH.burnt;
  }

  private darkensAgain(): boolean {
    const { track, k } = this;
    const rise = track.at(k).mean - (k > 0 ? track.at(k - 1).mean : 0);
    const after = [1, 2, 3].filter((i) => k + i < track.length).map((i) => track.at(k + i).mean);
    return min(...after) < track.at(k).mean - rise / 2;
  }

  /** Whether the pictures on both sides of picture k + 1 belong together; with `before`, those on both sides of picture k. */
  isWholeAcross(before = false): boolean {
    const across = this.across(before ? this.k - 1 : this.k);
    return across !== null && across.all >= ACROSS.share * this.usualTwoApart && this.jerk(across, 2) <= ACROSS.jerk;
  }

  /** Whether the pictures on both sides of picture k + 1, and those of picture k, are as unlike as those of the step itself. */
  isCut(): boolean {
    const { here, k } = this;
    if (!here || k === 0 || here.all >= CUT.share * this.usual || !this.isSteady()) return false;
    if (max(this.track.at(k - 1).detail, this.track.at(k).detail) < CUT.detail) return false;
    return [this.across(k - 1), this.across(k)].every((one) => one === null || one.all < ACROSS.unlike * this.usualTwoApart);
  }

  /** How many times as much detail, or as little, is in picture k + 1 as in picture k, where that goes on so on both sides: 1 where it does not. */
  contrastStep(): number {
    return this.isSteady() ? detailStep(this.track, this.k) : 1;
  }

  /** Whether pictures on each side have about as much in them as the one at the step: what fades is not like itself, and is no cut. */
  private isSteady(): boolean {
    const { track, k, near } = this;
    return [near.filter((i) => i < k), near.filter((i) => i > k)].every((side, i) => {
      if (side.length === 0) return true;
      const usual = median(side.map((step) => track.at(step).detail)) + CUT.detail;
      const edge = track.at(i === 0 ? k - 1 : k).detail + CUT.detail;
      return max(usual / edge, edge / usual) < CUT.steady;
    });
  }

  /** Whether nothing can be said of pictures two apart here, as in a quick zoom. */
  get isBlindAcross(): boolean {
    return this.usualTwoApart < LEAST;
  }

  /** Whether the pictures on both sides of picture k are of two shots. */
  isUnlikeAcross(): boolean {
    const across = this.across(this.k - 1)?.all ?? 1;
    return across < ACROSS.unlike * this.usualTwoApart;
  }

  /** Picture `from` and the one two after it; null where that says nothing. */
  private across(from: number): Likeness | null {
    const { track, likenesses, usualTwoApart, go } = this;
    if (usualTwoApart < LEAST || from < 0 || from + 1 >= track.length) return null;
    const twice = track.at(from + 1).twoBack;
    const places = [STILL, doubled(go), ...(twice ? [middleMotion(twice)] : [])];
    return likenesses.compare(from, from + 2, places);
  }

  /**
   * The shares of picture k + 1 that are as they were, and that are in it alone, by rows of blocks: none is alone where pictures two apart cannot
   * be compared. Null where nothing is known.
   */
  rows(): { kept: number; alone: number } | null {
    const { here, next } = this;
    if (!here || !next) return null;
    const across = this.across(this.k);
    let [kept, alone, all] = [0, 0, 0];
    here.rows.forEach((row, i) => {
      const usual = median(this.beside.map((one) => one.rows[i] ?? 0));
      if (usual < LEAST) return;
      all++;
      const [a, b] = [row ?? 0, next.rows[i] ?? 0];
      if (min(a, b) >= ROW_KEPT * usual) kept++;
      if (max(a, b) <= ROW_LOST * usual && (across?.rows[i] ?? 0) >= ACROSS.share * usual) alone++;
    });
    return all >= LEAST_ROWS ? { kept: kept / all, alone: alone / all } : null;
  }

  /** Whether picture k + 1 is as like the one before or after it as is usual: then it is no fault, whatever moves in it. */
  isLikeNeighbour(): boolean {
    const { here, next, usual } = this;
    return here !== null && next !== null && max(here.all, next.all) >= AS_USUAL * usual;
  }

  /** Whether picture k + 1 is one of those before picture k again. */
  isEarlier(): boolean {
    const { here, next, k, usual, likenesses } = this;
    if (!here || !next) return false;
    const beside = max(here.all, next.all);
    for (let back = 2; back <= AGAIN.most && k + 1 - back >= 0; back++) {
      const same = likenesses.compare(k + 1 - back, k + 1, [STILL], 0);
      if (same && same.all >= AGAIN.share * usual && same.all >= beside + AGAIN.more) return true;
    }
    return false;
  }

  /** What of picture k + 1 is in the next one. */
  private get next(): Likeness | null {
    const { track, k } = this;
    if (!this.here || k + 1 >= track.length) return null;
    return this.likenesses.compare(k + 1, k + 2, [STILL, this.go, middleMotion(track.at(k + 1).tiles)]);
  }

  /** How far from where things were going, in coarse samples. @param steps that lie between the pictures */
  private jerk({ shift }: Likeness, steps = 1): number {
    return max(abs(shift.u - steps * this.go.u), abs(shift.v - steps * this.go.v));
  }
}

/** How many times as much detail, or as little, is in picture k + 1 as in picture k. */
export function detailStep(track: TileTrack, k: number): number {
  if (k === 0) return 1;
  const [before, after] = [track.at(k - 1).detail + CUT.detail, track.at(k).detail + CUT.detail];
  return max(before / after, after / before);
}

const doubled = ({ u, v }: Shift): Shift => ({ u: 2 * u, v: 2 * v });

/** The middle of the motion of the tiles with detail. */
const middleMotion = (tiles: TileStep): Shift => commonMotion(tiles, (t) => tiles.own[t] >= PLAIN);
