import { median } from '../median.js';
import { comesAgain } from './again.js';
import { type Fault, type FaultKind, faultCertainty } from './faults.js';
import { detailStep, FineLook } from './fineLook.js';
import type { Likenesses } from './likeness.js';
import { isNotFound, isRisen, LEAST_TILES, lookAtTiles, shareBack, type TileLook, tileRows, tornShare } from './tileLook.js';
import { PLAIN, type TileTrack } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min } = Math;

/** Steps on each side that a step is judged by. */
export const AROUND_BREAK = 8;
/**
 * Share of the tiles with detail that is unusual at a cut, and that is not found at all: a step among held pictures is unusual, and found.
 * Where most was not found, or all differs a little more than usual, such a share has to be torn from its neighbours.
 */
const CUTS = [
  { unusual: 0.6, lost: 0.12 },
  { unusual: 0.9, lost: 0.05 },
] as const;
const TORN = 0.17;
/** Or one shot has so many times the other's detail: in a plain picture nothing is torn. */
const PLAINER = 3;
/** Share of the tiles that is unusual at a faulty picture; the same where noise drowns all fine detail; and where fine detail is worth asking. */
const DAMAGED = 0.12;
const DROWNED = 0.3;
const ODD = 0.035;
/** Share of the unusual tiles that are back one picture later: then the picture between is a fault, not a shot. */
const BACK = 0.7;
/** Of the steps to and from a faulty picture the one has at least this share of the other's unusual tiles. */
const ALIKE = 0.4;
/** Pictures are near to each other whose mean square difference is less than this share of those of the picture between them. */
const APART = 0.35;
/** This share of the rows of fine detail is in one picture alone: it is a fault. */
const ALONE = 0.12;
/** A damaged picture has this share of rows that are as they were at the least; a foreign one has less. */
const KEPT = 0.25;
/** Flat pictures: dark, light, with hardly any contrast, and with none, in 8-bit steps. */
const DARK = 40;
const LIGHT = 215;
const FLAT = 5;
const NOTHING = 1;
/** Pictures beside one that is flat have this share of the contrast that is usual here. */
const AS_BEFORE = 0.7;
/** Light changed when the mean of the luma moved by so many 8-bit steps; the rest is the same when most tiles went where they were going, */
const LIGHT_STEP = 6;
const MOSTLY_SAME = 0.6;
/** to within so many coarse samples, and this share of their detail is what it was but for its strength. */
const ALONG = 1.2;
const SAME_DETAIL = 0.4;

/** Finds cuts and faulty pictures, in order, as soon as there are enough pictures after them. */
export class Breaks {
  readonly cuts: number[] = [];
  readonly faults: Fault[] = [];
  /** Steps that are decided. */
  decided = 0;
  private last = { cut: -1, fault: -1, flash: -1 };

  /** @param likenesses of the same pictures as the track */
  constructor(
    private readonly track: TileTrack,
    private readonly likenesses: Likenesses,
  ) {}

  /** Decides all steps that have enough after them. @param end whether no more will come */
  decide(end: boolean, tell: (k: number) => void): void {
    const ready = end ? this.track.length : this.track.length - AROUND_BREAK - 1;
    for (; this.decided < ready; this.decided++) if (this.isBroken(this.decided)) tell(this.decided);
  }

  /** Whether step k has nothing to say of motion; lists the cut or the fault that it brings. */
  private isBroken(k: number): boolean {
    // The way back from a fault: what was flat may have stood between two shots.
    if (this.last.fault === k) {
      if (this.isFlat(k - 1) && this.lookFinely(k).isUnlikeAcross()) this.cut(k);
      return true;
    }
    // And what goes on after a flash.
    if (this.last.flash === k && !this.lookFinely(k).isUnlikeAcross()) return true;
    // Between pictures without anything in them nothing can be told.
    if (this.isPlain(k)) return true;
    const near = this.near(k);
    const again = near.length > 0 ? comesAgain(this.track, k, near) : 0;
    if (again > 0) return this.fault(k, 'backward', again);
    const here = this.lookAt(k);
    const changed = here.unusual >= DAMAGED || here.collapsed || isNotFound(here);
    const isOdd = changed || here.unusual >= ODD;
    const after = isOdd && k + 1 < this.track.length ? this.lookAt(k + 1) : null;
    // A plain picture is found in any other.
    if (!changed && (after?.unusual ?? 0) < ODD && detailStep(this.track, k) < PLAINER) return false;
    const flat = this.flatAt(k, here);
    if (flat) return this.fault(k, flat.kind, flat.margin);
    const fine = this.lookFinely(k);
    const isOtherLight = fine.isFlash() || fine.isRelit();
    const rows = fine.rows();
    if (rows && rows.alone >= ALONE && !isOtherLight) return this.fault(k, this.kindOf(k, here, fine), rows.alone);
    if (fine.isFlash()) {
      this.last.flash = k + 1;
      return true;
    }
    const isCut = !isOtherLight && fine.isCut() && (fine.contrastStep() > PLAINER || this.torn(k, here) >= TORN);
    if (!changed && !isCut) return false;
    // A flash, or the way back from one: the same things in another light, where they were going anyway.
    if (this.isLight(k)) return true;
    const isUsual = rows?.alone === 0 && fine.isLikeNeighbour();
    const odd = isOtherLight || !after || isUsual ? null : this.oddAt(k, here, after, fine);
    if (odd) return this.fault(k, odd.kind, odd.margin);
    if (this.isLevelCut(k)) return this.cut(k);
    if (this.isUnlike(k, here)) return this.unlike(k, here, fine);
    return isCut && (this.isAlone(k, fine) ? this.fault(k, this.kindOf(k, here, fine), 0) : this.cut(k));
  }

  private isUnlike(k: number, here: TileLook): boolean {
    return (
      CUTS.some(({ unusual, lost }) => here.unusual >= unusual && here.lost >= lost) ||
      ((isNotFound(here) || isRisen(this.track.at(k).tiles, here)) && this.torn(k, here) >= TORN)
    );
  }

  /** Whether picture k + 1 is far from both beside it, and these are near to each other; or, where that is not to be seen, is a shot of its own: none is that short. */
  private isAlone(k: number, fine: FineLook): boolean {
    if (k + 1 >= this.track.length) return false;
    const [to] = this.track.at(k).apart;
    const [from, across] = this.track.at(k + 1).apart;
    if ((across as number) < APART * min(to as number, from as number)) return true;
    if (!fine.isBlindAcross) return false;
    const next = this.lookAt(k + 1);
    return this.isUnlike(k + 1, next) || (this.lookFinely(k + 1).isCut() && this.torn(k + 1, next) >= TORN);
  }

  private torn(k: number, here: TileLook): number {
    return tornShare(this.track, k, here, this.near(k));
  }

  /** Tells a cut at step k, or what fine detail says that it is instead. */
  private unlike(k: number, here: TileLook, fine: FineLook): true {
    // All goes on, or this is the way back from what was no fault, such as a flash.
    if (fine.goesOn() || fine.isWholeAcross(true)) return true;
    if (!fine.isWholeAcross() && !this.isAlone(k, fine)) return this.cut(k);
    // Pictures on both sides of this one belong together.
    return this.fault(k, this.kindOf(k, here, fine), 0);
  }

  /** Whether a picture that does not belong is an earlier one, or is so in part or as a whole. */
  private kindOf(k: number, here: TileLook, fine: FineLook): FaultKind {
    if (fine.isEarlier()) return 'backward';
    const after = k + 1 < this.track.length ? this.lookAt(k + 1) : here;
    const { all, quiet } = tileRows(this.track.columns, here, after);
    return (fine.rows()?.kept ?? quiet / all) >= KEPT ? 'damaged' : 'foreign';
  }

  private cut(k: number): true {
    this.cuts.push(k + 1);
    this.last.cut = k + 1;
    return true;
  }

  private fault(k: number, kind: FaultKind, margin: number): true {
    this.faults.push({ picture: k + 1, kind, certainty: faultCertainty(kind, margin) });
    this.last.fault = k + 1;
    return true;
  }

  /** What picture k + 1 is by its tiles, if its neighbours belong together and it does not. */
  private oddAt(k: number, here: TileLook, after: TileLook, fine: FineLook): { kind: FaultKind; margin: number } | null {
    const { twoBack } = this.track.at(k + 1);
    const back = twoBack ? shareBack(here, twoBack) : 0;
    const [least, most] = [min(here.unusual, after.unusual), max(here.unusual, after.unusual)];
    // It is as odd to come as to go.
    if (back < BACK || least < (fine.isKnown ? DAMAGED : DROWNED) || least < ALIKE * most) return null;
    const { odd } = tileRows(this.track.columns, here, after);
    // Where pictures hardly resemble each other anyway no row stands out; that most tiles were not found says it.
    if (odd === 0 && !(isNotFound(here) && isNotFound(after))) return null;
    return {
      kind: this.kindOf(k, here, fine),
      margin: (marginOf(back) + min(1, 2 * least)) / 2,
    };
  }

  /** Black or white, if picture k + 1 has nothing in it and those beside it belong together or have as much in them as is usual: no fade is that quick. */
  private flatAt(k: number, here: TileLook): { kind: 'black' | 'white'; margin: number } | null {
    const { track } = this;
    const { mean, deviation } = track.at(k);
    if (!this.isFlat(k) || (mean >= DARK && mean <= LIGHT) || k + 1 >= track.length) return null;
    const next = track.at(k + 1);
    const back = next.twoBack && deviation * 2 < max(next.deviation, 1) ? shareBack(here, next.twoBack) : 0;
    if (back < BACK && !this.isFlatAlone(k)) return null;
    return { kind: mean < DARK ? 'black' : 'white', margin: max(0.5, marginOf(back)) };
  }

  private isFlatAlone(k: number): boolean {
    const { track } = this;
    const near = this.near(k);
    if (k < 1 || near.length === 0) return false;
    const usual = median(near.map((i) => track.at(i).deviation));
    return usual > 2 * FLAT && min(track.at(k - 1).deviation, track.at(k + 1).deviation) > AS_BEFORE * usual;
  }

  private isLight(k: number): boolean {
    const { track } = this;
    const [before, here] = [k > 0 ? track.at(k - 1) : null, track.at(k)];
    if (!before || abs(here.mean - before.mean) < LIGHT_STEP) return false;
    const known = this.near(k)[0];
    if (known === undefined) return false;
    const [now, then] = [here.tiles, track.at(known).tiles];
    let [same, all] = [0, 0];
    for (let t = 0; t < track.tiles; t++) {
      const [own, other] = [now.own[t], now.other[t]];
      if (own < PLAIN || other < PLAIN) continue;
      all++;
      const common = (own + other - now.left[t]) / 2;
      const along = max(abs(now.u[t] - then.u[t]), abs(now.v[t] - then.v[t])) < ALONG;
      if (along && common > 0 && common * common > SAME_DETAIL * own * other) same++;
    }
    return all >= LEAST_TILES && same > MOSTLY_SAME * all;
  }

  private isFlat(k: number): boolean {
    return k >= 0 && this.track.at(k).deviation < FLAT;
  }

  private isPlain(k: number): boolean {
    const { track } = this;
    return k > 0 && track.at(k).deviation < NOTHING && track.at(k - 1).deviation < NOTHING && !this.isLevelCut(k);
  }

  /** A cut between pictures without detail: their luma differs, and goes on doing so. */
  private isLevelCut(k: number): boolean {
    const { track } = this;
    const [before, here, after] = [k - 1, k, k + 1].map((i) => (i >= 0 && i < track.length ? track.at(i) : null));
    if (!here || !before) return false;
    const step = abs(here.mean - before.mean);
    const around = max(after ? abs(after.mean - here.mean) : 0, k > 1 ? abs(before.mean - track.at(k - 2).mean) : 0);
    return here.deviation < FLAT && before.deviation < FLAT && step > 12 && step > 4 * around;
  }

  private lookAt(k: number): TileLook {
    return lookAtTiles(this.track, k, [this.side(k, -1), this.side(k, 1)]);
  }

  /** A second look at step k, by fine detail. */
  private lookFinely(k: number): FineLook {
    return new FineLook(this.track, this.likenesses, k, [...this.side(k, -1).slice(1, 3), ...this.side(k, 1).slice(0, 2)]);
  }

  /** Steps around k within the shot, those before it first, the one after it left out: where k brings a fault, it is odd as well. */
  private near(k: number): number[] {
    return [...this.side(k, -1), ...this.side(k, 1)];
  }

  private side(k: number, way: -1 | 1): number[] {
    const { track, last } = this;
    const steps: number[] = [];
    const first = way < 0 ? 1 : 2;
    for (let i = first; i <= AROUND_BREAK; i++) {
      const at = k + way * i;
      if (at < 0 || at >= track.length) break;
      // The step that brought the shot's first picture, and the way back from a fault.
      if (way < 0 && (at < last.cut || at === last.fault || at === last.fault - 1)) break;
      steps.push(at);
    }
    return steps;
  }
}

/** How far a share of tiles that are back is past what it takes. */
const marginOf = (back: number): number => (back - BACK) / (1 - BACK);
