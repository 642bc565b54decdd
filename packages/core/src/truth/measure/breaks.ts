import { comesAgain } from './again.js';
import { median } from './median.js';
import type { TileStep } from './tiles.js';
import { PLAIN, type TileTrack, UNUSUAL } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min, sqrt } = Math;

/** A picture that does not belong where it is. */
export const FAULT_KINDS = ['black', 'white', 'damaged', 'foreign', 'swapped', 'backward'] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

export interface Fault {
  readonly picture: number;
  readonly kind: FaultKind;
  /** 0 to 1: by how far it is past what it takes. Not calibrated yet: docs/accuracy.md says how often faults are right. */
  readonly certainty: number;
}

/** @param margin 0 just past what it takes, 1 as clear as can be */
export function faultCertainty(margin: number): number {
  return 0.7 + 0.29 * max(0, min(1, margin));
}

/** Steps on each side that a step is judged by. */
export const AROUND_BREAK = 8;
/** Tiles that differ by more than this share of their detail were not found at all. */
const LOST = 0.4;
/**
 * Share of the tiles with detail that is unusual at a cut, and that is not found at all: a step among held pictures is unusual, and found.
 * Share that is unusual at a faulty picture.
 */
const CUTS = [
  { unusual: 0.6, lost: 0.12 },
  { unusual: 0.9, lost: 0.05 },
] as const;
const DAMAGED = 0.12;
/** Or this share was not found, where that is usual of this share of it at most. */
const NOT_FOUND = { share: 0.35, usual: 0.4 } as const;
/**
 * Or all of it changed more than usual, if not by much, as in worn film, where nothing is quite found at any time: of the tiles half differ so
 * many times as much as usual, seven in ten so many times, and such a share is unusual or not found at all: a beam of light that changes leaves most as it was.
 */
const RISEN = { half: 1.8, most: 1, unusual: 0.6, lost: 0.1 } as const;
/**
 * At a cut tiles are found where chance has it; in motion, however quick, where their neighbours go. Share of the tiles that differ by so many
 * times more than usual and went so many coarse samples elsewhere, where they are usually within so many.
 */
const TORN = { share: 0.17, times: 2, elsewhere: 1.5, usually: 0.75 } as const;
/** Share of a tile's detail, and squared 8-bit steps, below which what differs is no measure of anything. */
const FLOOR = { ofDetail: 0.002, coding: 0.3 } as const;
/** Share of the unusual tiles that are back one picture later: then the picture between is a fault, not a shot. */
const BACK = 0.7;
/** Of the steps to and from a faulty picture the one has at least this share of the other's unusual tiles. */
const ALIKE = 0.4;
/** A tile is back when less than this share of what differed is left. */
const RETURNED = 0.5;
/** Shares of fewer tiles than this say nothing. */
const LEAST_TILES = 4;
/** Flat pictures: dark, light, and with hardly any contrast, in 8-bit steps. */
const DARK = 40;
const LIGHT = 215;
const FLAT = 5;
const NOTHING = 1;
/** Contrast that falls or rises so many times from one picture to the next. */
const COLLAPSE = 2.5;
/** Light changed when the mean of the luma moved by so many 8-bit steps; the rest is the same when most tiles went where they were going, */
const LIGHT_STEP = 6;
const MOSTLY_SAME = 0.6;
/** to within so many coarse samples, and this share of their detail is what it was but for its strength. */
const ALONG = 1.2;
const SAME_DETAIL = 0.4;
/** A band is damaged where this share of its tiles are unusual: what is damaged is so across the picture, a bird is not. */
const ROW = 0.65;
/** A row of tiles is quiet up to this share of odd ones; a damaged picture has this share of quiet rows at the least. */
const QUIET = 0.25;
const QUIET_ROWS = 0.25;

/** What there is to say of one step. */
interface Look {
  /** Share of the tiles with detail that differ unusually from the picture before; that were not found; and that usually are not. */
  readonly unusual: number;
  readonly lost: number;
  readonly usualLost: number;
  /** Which tiles, and which of them have detail. */
  readonly odd: Uint8Array;
  readonly detailed: Uint8Array;
  readonly usual: Float32Array;
  readonly left: Float32Array;
  readonly collapsed: boolean;
}

/** Finds cuts and faulty pictures, in order, as soon as there are enough pictures after them. */
export class Breaks {
  readonly cuts: number[] = [];
  readonly faults: Fault[] = [];
  /** Steps that are decided. */
  decided = 0;
  private last = { cut: -1, fault: -1 };

  constructor(private readonly track: TileTrack) {}

  /** Decides all steps that have enough after them. @param end whether no more will come */
  decide(end: boolean, tell: (k: number) => void): void {
    const ready = end ? this.track.length : this.track.length - AROUND_BREAK - 1;
    for (; this.decided < ready; this.decided++) this.decideOne(this.decided, tell);
  }

  private decideOne(k: number, tell: (k: number) => void): void {
    const { last } = this;
    const picture = k + 1;
    // The way back from a fault.
    if (last.fault === k) {
      tell(k);
      return;
    }
    // Between pictures without anything in them nothing can be told.
    if (this.isPlain(k)) {
      tell(k);
      return;
    }
    const near = [...this.side(k, -1), ...this.side(k, 1)];
    const again = near.length > 0 ? comesAgain(this.track, k, near) : 0;
    if (again > 0) {
      this.fault({ picture, kind: 'backward', certainty: faultCertainty(again) }, tell);
      return;
    }
    const here = this.lookAt(k);
    const changed = here.unusual >= DAMAGED || here.collapsed || isNotFound(here);
    if (!changed) return;
    // A flash, or the way back from one: the same things in another light, where they were going anyway.
    if (this.isLight(k)) {
      tell(k);
      return;
    }
    const fault = this.faultOf(k, here);
    if (fault) {
      this.fault(fault, tell);
    } else if (
      CUTS.some(({ unusual, lost }) => here.unusual >= unusual && here.lost >= lost) ||
      ((isNotFound(here) || isRisen(this.track.at(k).tiles, here)) && this.tornAt(k, here) >= TORN.share) ||
      this.isLevelCut(k)
    ) {
      this.cuts.push(picture);
      last.cut = picture;
      tell(k);
    }
  }

  /** Share of the tiles with detail that were torn from their neighbours. */
  private tornAt(k: number, { detailed, usual, left }: Look): number {
    const { track } = this;
    const steps = [...this.side(k, -1), ...this.side(k, 1)].map((i) => track.at(i).tiles);
    const here = track.at(k).tiles;
    const own = commonMotion(here, detailed);
    const others = steps.map((step) => commonMotion(step, detailed));
    let [torn, all] = [0, 0];
    for (let t = 0; t < detailed.length; t++) {
      if (!detailed[t]) continue;
      all++;
      if (times(left, usual, here, t) <= TORN.times) continue;
      const us = steps.map((step, i) => (step.u[t] as number) - (others[i]?.u as number));
      const vs = steps.map((step, i) => (step.v[t] as number) - (others[i]?.v as number));
      const [u, v] = [median(us), median(vs)];
      const off = max(abs((here.u[t] as number) - own.u - u), abs((here.v[t] as number) - own.v - v));
      const usually = median(us.map((x, i) => max(abs(x - u), abs((vs[i] as number) - v))));
      if (off > TORN.elsewhere && usually < TORN.usually) torn++;
    }
    return all > 0 ? torn / all : 0;
  }

  private isLight(k: number): boolean {
    const { track } = this;
    const [before, here] = [k > 0 ? track.at(k - 1) : null, track.at(k)];
    if (!before || abs(here.mean - before.mean) < LIGHT_STEP) return false;
    const known = this.side(k, -1)[0] ?? this.side(k, 1)[0];
    if (known === undefined) return false;
    const [now, then] = [here.tiles, track.at(known).tiles];
    let [same, all] = [0, 0];
    for (let t = 0; t < track.tiles; t++) {
      const [own, other] = [now.own[t] as number, now.other[t] as number];
      if (own < PLAIN || other < PLAIN) continue;
      all++;
      const common = (own + other - (now.left[t] as number)) / 2;
      const along =
        max(abs((now.u[t] as number) - (then.u[t] as number)), abs((now.v[t] as number) - (then.v[t] as number))) < ALONG;
      if (along && common > 0 && common * common > SAME_DETAIL * own * other) same++;
    }
    return all >= LEAST_TILES && same > MOSTLY_SAME * all;
  }

  private isPlain(k: number): boolean {
    const { track } = this;
    return k > 0 && track.at(k).deviation < NOTHING && track.at(k - 1).deviation < NOTHING && !this.isLevelCut(k);
  }

  private fault(fault: Fault, tell: (k: number) => void): void {
    this.faults.push(fault);
    this.last.fault = fault.picture;
    tell(fault.picture - 1);
  }

  /** What picture k + 1 is if its neighbours belong together and it does not. */
  private faultOf(k: number, here: Look): Fault | null {
    const { track } = this;
    if (k + 1 >= track.length) return null;
    const [step, next] = [track.at(k), track.at(k + 1)];
    if (!next.twoBack) return null;
    const flat = step.deviation < FLAT && step.deviation * 2 < max(next.deviation, 1);
    const back = this.shareBack(here, next.twoBack);
    if (flat && back >= BACK) {
      const certainty = faultCertainty((back - BACK) / (1 - BACK));
      if (step.mean < DARK) return { picture: k + 1, kind: 'black', certainty };
      if (step.mean > LIGHT) return { picture: k + 1, kind: 'white', certainty };
    }
    const after = this.lookAt(k + 1);
    if (here.unusual < DAMAGED || after.unusual < DAMAGED || back < BACK) return null;
    // It is as odd to come as to go.
    if (min(here.unusual, after.unusual) < ALIKE * max(here.unusual, after.unusual)) return null;
    const { all, odd, quiet } = this.rowsOf(here, after);
    // Where pictures hardly resemble each other anyway no row stands out; that most tiles were not found says it.
    if (odd === 0 && !(isNotFound(here) && isNotFound(after))) return null;
    const certainty = faultCertainty(((back - BACK) / (1 - BACK) + min(1, 2 * min(here.unusual, after.unusual))) / 2);
    return { picture: k + 1, kind: quiet >= QUIET_ROWS * all ? 'damaged' : 'foreign', certainty };
  }

  /** Of the tiles that are unusual now, the share that two pictures on both sides have in common. */
  private shareBack({ odd, usual, left, detailed, collapsed }: Look, twoBack: TileStep): number {
    let [back, all] = [0, 0];
    for (let t = 0; t < odd.length; t++) {
      if (!detailed[t] || !(odd[t] || collapsed)) continue;
      const own = twoBack.own[t] as number;
      all++;
      const limit = 2 * UNUSUAL.times * (usual[t] as number) + 2 * UNUSUAL.ofDetail * own + 2 * UNUSUAL.coding;
      if ((twoBack.left[t] as number) <= max(limit, RETURNED * (left[t] as number))) back++;
    }
    return all > 0 ? back / all : 0;
  }

  /** Rows of tiles: those with detail, those that are odd all across on either side, and those with next to nothing odd. */
  private rowsOf(a: Look, b: Look): { all: number; odd: number; quiet: number } {
    const { columns } = this.track;
    let [all, oddRows, quiet] = [0, 0, 0];
    for (let first = 0; first < a.odd.length; first += columns) {
      let [detailed, odd] = [0, 0];
      for (let t = first; t < first + columns; t++) {
        if (!a.detailed[t] && !b.detailed[t]) continue;
        detailed++;
        if (a.odd[t] || b.odd[t]) odd++;
      }
      if (detailed === 0) continue;
      all++;
      if (odd >= ROW * detailed) oddRows++;
      if (odd <= QUIET * detailed) quiet++;
    }
    return { all, odd: oddRows, quiet };
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

  private lookAt(k: number): Look {
    const { track } = this;
    const count = track.tiles;
    const { tiles, deviation } = track.at(k);
    const [odd, detailed] = [new Uint8Array(count), new Uint8Array(count)];
    const [usual, found] = [new Float32Array(count), new Float32Array(count)];
    const sides = [this.side(k, -1), this.side(k, 1)];
    const was = k > 0 ? track.at(k - 1) : null;
    const gain = was ? max(0.5, min(2, sqrt((track.at(k).detail + 1) / (was.detail + 1)))) : 1;
    let [unusual, lost, all] = [0, 0, 0];
    const lostBeside = sides.map(() => 0);
    for (let t = 0; t < count; t++) {
      const own = max(tiles.own[t] as number, was ? (was.tiles.own[t] as number) : 0);
      const around = sides.map((steps) => medianOf(steps, (i) => track.at(i).tiles.left[t] as number));
      usual[t] = max(...around, 0);
      if (own < PLAIN) continue;
      detailed[t] = 1;
      all++;
      const left = unexplained(tiles, t, gain);
      found[t] = left;
      const isLost = left > LOST * own;
      const most = UNUSUAL.times * (usual[t] as number) + UNUSUAL.ofDetail * own + UNUSUAL.coding;
      if (left > most || (isLost && (usual[t] as number) < (LOST / 2) * own)) {
        odd[t] = 1;
        unusual++;
      }
      if (isLost) lost++;
      around.forEach((one, i) => {
        if (one > LOST * own) lostBeside[i] = (lostBeside[i] as number) + 1;
      });
    }
    const contrast = was?.deviation ?? deviation;
    const known = all >= LEAST_TILES && sides.some((steps) => steps.length > 0);
    return {
      unusual: known ? unusual / all : 0,
      lost: known ? lost / all : 0,
      usualLost: all > 0 ? max(...lostBeside) / all : 0,
      odd,
      detailed,
      usual,
      left: found,
      collapsed: max(contrast, deviation) + 2 > COLLAPSE * (min(contrast, deviation) + 2),
    };
  }

  /** Steps on one side within the shot, the one next to k left out: where k brings a fault, it is odd as well. */
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

function isRisen(tiles: TileStep, { detailed, usual, left, unusual, lost }: Look): boolean {
  if (unusual < RISEN.unusual && lost < RISEN.lost) return false;
  const rises = Array.from(detailed.keys())
    .filter((t) => detailed[t])
    .map((t) => times(left, usual, tiles, t))
    .sort((a, b) => a - b);
  const atShare = (share: number): number => rises[floor(rises.length * share)] ?? 0;
  return atShare(0.5) >= RISEN.half && atShare(0.3) >= RISEN.most;
}

/** How many times as much as usual a tile differs. */
function times(left: Float32Array, usual: Float32Array, { own }: TileStep, t: number): number {
  return (left[t] as number) / ((usual[t] as number) + FLOOR.ofDetail * (own[t] as number) + FLOOR.coding);
}

/** The middle of the motion of the tiles with detail, in coarse samples. */
function commonMotion({ u, v }: TileStep, detailed: Uint8Array): { u: number; v: number } {
  const middle = (of: Float32Array): number => median(Array.from(of).filter((_, t) => detailed[t]));
  return { u: middle(u), v: middle(v) };
}

function isNotFound({ lost, usualLost }: Look): boolean {
  return lost >= NOT_FOUND.share && usualLost <= NOT_FOUND.usual * lost;
}

/** What is left of a tile where contrast changed all over by so many times: a flash or a fade leaves nothing. */
function unexplained(tiles: TileStep, t: number, gain: number): number {
  const [left, own, other] = [tiles.left[t] as number, tiles.own[t] as number, tiles.other[t] as number];
  return min(left, max(0, own + gain * gain * other - gain * (own + other - left)));
}

function medianOf(steps: readonly number[], of: (k: number) => number): number {
  return steps.length === 0 ? 0 : median(steps.map(of));
}
