import { median } from '../median.js';
import { exchangedAt, missingAt } from './apart.js';
import { type Fault, faultCertainty } from './faults.js';
import { PLAIN, type TileTrack } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min, sqrt } = Math;

/** Steps on each side that say how evenly things move here. */
const AROUND = 5;
/** Steps that have to be decided after the one in question. */
export const AHEAD = AROUND + 1;
/** Pictures that may be missing at one place and still be counted. */
const MOST_MISSING = 3;
/** An explanation has to leave this share of the unevenness at most, and no more than this many times what is usual; without it there is this much. */
const SMOOTHER = 0.5;
const AS_USUAL = 1.6;
const UNEVEN = 2.5;
/** Unevenness below this, in 8-bit steps a tile, is noise and coding. */
const NOISE = 0.1;
/** Where it is so many times what is usual, it need not become quite usual. */
const BLATANT = 6;
/** A tile that changes its motion by more than this, in 8-bit steps, has a say; it agrees where less than this share is left without the skip. */
const MOVES = 0.5;
const AGREES = 0.7;
/** So much of the picture has to have a say, and so much of that to agree. */
const LEAST_MOVING = 0.12;
const MOST_AGREE = 0.7;
/** Mean motion has to change a tile by this, mean square in squared 8-bit steps, for a step to be measured by it. */
const LEAST_PACE = 0.2;
/** Of the steps beside a skip neither is shorter than this share of the other: else it makes up for a hold. */
const ALIKE = 0.5;
/**
 * A camera that shakes looks as if pictures were exchanged. Where distances alone say it, and less than clearly, 7 of 16 on trial clips (the rig's,
 * and ten of FFmpeg's sources) were right.
 */
const CLEARLY_EXCHANGED = 0.5;
const HARDLY_EXCHANGED = 0.5;

/** What is found of a step that is none to or from a picture in the wrong place. */
interface Found {
  /** Pictures that are left out in it. */
  readonly missing: number;
  /** Changes.pace. */
  readonly pace: number;
}

/** Finds pictures that are missing or in the wrong order, by what the motion before and after foresees. */
export class Order {
  readonly faults: Fault[] = [];
  /** Steps that are decided. */
  decided = 0;

  /** @param isBroken whether a cut or a faulty picture lies on either side of a step */
  constructor(
    private readonly track: TileTrack,
    private readonly isBroken: (k: number) => boolean,
  ) {}

  /**
   * @param ready steps of which it is known whether they are broken
   * @param end whether no more will come
   * @param tell what is found of step k: pictures missing in it, or that it is one to or from a picture in the wrong place
   */
  decide(ready: number, end: boolean, tell: (k: number, found: Found | 'misplaced') => void): void {
    const until = end ? ready : ready - AHEAD;
    for (; this.decided < until; this.decided++) {
      const k = this.decided;
      if (this.isBroken(k)) continue;
      const certainty = this.swappedCertainty(k, ready);
      if (certainty > 0) {
        this.faults.push({ picture: k + 1, kind: 'swapped', certainty });
        for (let i = k; i <= k + 2; i++) tell(i, 'misplaced');
        continue;
      }
      const pace = this.paceOf(k, ready);
      // Where hardly anything moves in common noise alone is uneven.
      const missing = (pace > 0 && this.missingIn(k, ready)) || missingAt(this.track, k, ready, this.isBroken);
      tell(k, { missing, pace });
    }
  }

  /** How certain it is that pictures k + 1 and k + 2 are exchanged; 0 where they are not. */
  private swappedCertainty(k: number, ready: number): number {
    if (k < 1 || k + 3 >= ready) return 0;
    for (let i = k - 1; i <= k + 3; i++) if (this.isBroken(i)) return 0;
    const [moved, exchanged] = [this.swappedAt(k, ready), exchangedAt(this.track, k, ready, this.isBroken)];
    if (moved === 0 && exchanged === 0) return 0;
    return moved === 0 && exchanged < CLEARLY_EXCHANGED ? HARDLY_EXCHANGED : faultCertainty('swapped', max(moved, exchanged));
  }

  /** How clearly pictures k + 1 and k + 2 are exchanged, a step of two, one back, one of two: up to 1; 0 where they are not. */
  private swappedAt(k: number, ready: number): number {
    const usual = this.usualUnevenness(k, 3, ready);
    if (usual === null) return 0;
    const step = (i: number): Step => this.stepAt(i);
    const [before, a, b, c, after] = [k - 1, k, k + 1, k + 2, k + 3].map(step) as [Step, Step, Step, Step, Step];
    const [first, second, third] = [sum(a, b), scaled(b, -1), sum(c, b)];
    const asIs = this.unevenness([before, a, b, c, after]);
    const put = this.unevenness([before, first, second, third, after]);
    const good = put < AS_USUAL * 4 * usual + NOISE || asIs > BLATANT * 4 * usual;
    if (put >= SMOOTHER * asIs || !good || asIs <= UNEVEN * 2 * usual + 4 * NOISE) return 0;
    return max(0.01, 1 - put / (SMOOTHER * asIs));
  }

  /** How many pictures are missing within step k; 0 where it is as foreseen, or nothing is. */
  private missingIn(k: number, ready: number): number {
    if (k < 1 || k + 1 >= ready || this.isBroken(k - 1) || this.isBroken(k + 1)) return 0;
    const usual = this.usualUnevenness(k, 2, ready);
    if (usual === null) return 0;
    const [before, here, after] = [k - 1, k, k + 1].map((i) => this.stepAt(i)) as [Step, Step, Step];
    const asIs = this.unevenness([before, here, after]);
    if (asIs < UNEVEN * 2 * usual + 2 * NOISE) return 0;
    const [shorter, longer] = [this.lengthOf(before), this.lengthOf(after)].sort((x, y) => x - y) as [number, number];
    if (shorter < ALIKE * longer) return 0;
    let [best, least] = [0, Number.POSITIVE_INFINITY];
    for (let missing = 1; missing <= MOST_MISSING; missing++) {
      const put = this.unevenness([before, scaled(here, 1 / (missing + 1)), after]);
      if (put < least) [best, least] = [missing, put];
    }
    const good = least < AS_USUAL * 2 * usual + NOISE || asIs > BLATANT * 2 * usual;
    // A step among pictures that hold is no skip, however short the others are.
    if (shorter < (ALIKE * this.lengthOf(here)) / (best + 1)) return 0;
    return least < SMOOTHER * asIs && good && this.isOfAll(before, here, after, best) ? best : 0;
  }

  /** Step k's motion as a share of the mean motion near by, itself included: 1 where all is even; 0 where hardly anything moves. */
  private paceOf(k: number, ready: number): number {
    const { track } = this;
    const near = [k];
    for (let i = k - 1; i >= max(0, k - AROUND) && !this.isBroken(i); i--) near.push(i);
    for (let i = k + 1; i <= min(ready - 1, k + AROUND) && !this.isBroken(i); i++) near.push(i);
    const tiles = track.at(k).tiles;
    let [mine, all, count] = [0, 0, 0];
    for (let t = 0; t < track.tiles; t++) {
      if (tiles.own[t] < PLAIN) continue;
      count++;
      let [u, v] = [0, 0];
      for (const i of near) {
        u += track.at(i).tiles.u[t];
        v += track.at(i).tiles.v[t];
      }
      u /= near.length;
      v /= near.length;
      const [xx, xy, yy] = [tiles.xx[t], tiles.xy[t], tiles.yy[t]];
      const [a, b] = [u * xx + v * xy, u * xy + v * yy];
      mine += tiles.u[t] * a + tiles.v[t] * b;
      all += u * a + v * b;
    }
    return count > 0 && all > LEAST_PACE * count ? max(0, min(8, mine / all)) : 0;
  }

  /** Whether most of what moves in the picture agrees that so many are missing: a mouth that opens is no skip. */
  private isOfAll(before: Step, here: Step, after: Step, missing: number): boolean {
    const { track } = this;
    const tiles = track.at(here.at).tiles;
    let [moving, agreeing, detailed] = [0, 0, 0];
    for (let t = 0; t < track.tiles; t++) {
      if (tiles.own[t] < PLAIN) continue;
      detailed++;
      const change = (by: number): number =>
        [before, after].reduce(
          (sum, other) => sum + this.seen(tiles, t, by * here.u[t] - other.u[t], by * here.v[t] - other.v[t]),
          0,
        );
      const asIs = change(1);
      if (asIs < MOVES + 2 * NOISE) continue;
      moving++;
      if (change(1 / (missing + 1)) < AGREES * asIs) agreeing++;
    }
    return moving >= LEAST_MOVING * detailed && agreeing >= MOST_AGREE * moving;
  }

  /** Steps near k within the shot, those from k - 1 to k + past left out. */
  private around(k: number, past: number, ready: number): number[] {
    const found: number[] = [];
    for (let i = k - 2; i >= max(0, k - AROUND - 1) && !this.isBroken(i); i--) found.push(i);
    for (let i = k + past; i <= min(ready - 1, k + past + AROUND) && !this.isBroken(i); i++) found.push(i);
    return found;
  }

  /** How much motion changes from one step to the next near by; null where too few are known. */
  private usualUnevenness(k: number, past: number, ready: number): number | null {
    const near = new Set(this.around(k, past, ready));
    const changes = [...near].filter((i) => near.has(i + 1)).map((i) => this.unevenness([this.stepAt(i), this.stepAt(i + 1)]));
    return changes.length < 3 ? null : median(changes);
  }

  private stepAt(k: number): Step {
    const { u, v } = this.track.at(k).tiles;
    return { at: k, u, v };
  }

  /** Sum of the changes of motion along some steps, in 8-bit steps a tile: as far as each tile's own slopes show them. */
  private unevenness(steps: readonly Step[]): number {
    let [total, count] = [0, 0];
    const tiles = this.track.at((steps[0] as Step).at).tiles;
    for (let t = 0; t < this.track.tiles; t++) {
      const own = tiles.own[t];
      if (own < PLAIN) continue;
      count++;
      for (let i = 1; i < steps.length; i++) {
        const [a, b] = [steps[i - 1] as Step, steps[i] as Step];
        total += min(sqrt(own), this.seen(tiles, t, b.u[t] - a.u[t], b.v[t] - a.v[t]));
      }
    }
    return count > 0 ? total / count : 0;
  }

  private lengthOf({ u, v }: Step): number {
    let total = 0;
    for (let t = 0; t < this.track.tiles; t++) total += sqrt(u[t] ** 2 + v[t] ** 2);
    return total;
  }

  /** What a displacement changes in a tile, by its slopes. */
  private seen(
    { xx, xy, yy }: { xx: Float32Array; xy: Float32Array; yy: Float32Array },
    t: number,
    u: number,
    v: number,
  ): number {
    return sqrt(max(0, u * u * xx[t] + 2 * u * v * xy[t] + v * v * yy[t]));
  }
}

/** A step's displacements, one a tile. */
interface Step {
  readonly at: number;
  readonly u: Float32Array;
  readonly v: Float32Array;
}

function sum(a: Step, b: Step): Step {
  return { at: a.at, u: a.u.map((u, t) => u + b.u[t]), v: a.v.map((v, t) => v + b.v[t]) };
}

function scaled(a: Step, by: number): Step {
  return { at: a.at, u: a.u.map((u) => u * by), v: a.v.map((v) => v * by) };
}
