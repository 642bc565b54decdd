import { COARSE } from './steps.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, acos, floor, max, min, sin, sqrt, trunc } = Math;

/**
 * Where each part of a picture was in the one before, by looking for it: right for cuts, faults and quick motion, where differences say
 * nothing of displacements any more. Works on pictures a quarter as wide (sums of COARSE x COARSE samples) whose surroundings are taken
 * away, so that light alone changes little.
 */

/** A tile's side in coarse samples. */
export const TILE = 8;
/** Content may move by so many coarse samples from one picture to the next: a fifth of the picture. */
export const REACH = { across: 12, down: 8 } as const;
/** Coarse samples on each side that count as surroundings. */
export const SURROUNDINGS = 3;
/** What is left after them is kept in quarters of a coarse sample, which is 16 8-bit steps: 4 to a step. */
export const QUARTER = 4;
const STEP = (COARSE * COARSE) / QUARTER;
/** Share of both slopes' squares that is added to each, so that a tile with one slope does not fly along it. */
const ONE_SLOPE = 0.01;
/** Past the best whole sample content lies by so much at most. */
const MOST_REST = 0.75;
/** Pictures that the newest one can be compared with, itself included. */
export const KEPT = 7;

/** Tiles in the middle of a coarse picture, with a sample on each side of them. */
export interface TileGrid {
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly top: number;
  readonly columns: number;
  readonly rows: number;
  readonly tiles: number;
}

/** @param width, height of the fine picture */
export function tileGridOf(width: number, height: number): TileGrid {
  const [w, h] = [floor(width / COARSE), floor(height / COARSE)];
  const [columns, rows] = [max(0, floor((w - 2) / TILE)), max(0, floor((h - 2) / TILE))];
  const [left, top] = [floor((w - columns * TILE) / 2), floor((h - rows * TILE) / 2)];
  return { width: w, height: h, left, top, columns, rows, tiles: columns * rows };
}

/** What was found of each tile of a picture in another one; every array has one entry a tile, row by row. */
export interface TileStep {
  /** Displacement since the other picture, in coarse samples. */
  readonly u: Float32Array;
  readonly v: Float32Array;
  /** Mean square of what differs at the best place, between samples where need be, and at the same place, in squared 8-bit steps. */
  readonly left: Float32Array;
  readonly still: Float32Array;
  /** Mean square of the tile's own detail and of what it was found to be. */
  readonly own: Float32Array;
  readonly other: Float32Array;
  /** Mean products of the tile's slopes, in squared 8-bit steps a sample. */
  readonly xx: Float32Array;
  readonly xy: Float32Array;
  readonly yy: Float32Array;
}

/** The newest KEPT pictures, and looking for one's tiles in another. */
export interface Tiles {
  readonly grid: TileGrid;
  /** @param bytes 8-bit luma of the fine size, row-major without padding; not kept */
  push(bytes: Uint8Array): void;
  /** Tiles of the newest picture in the one `back` before it, 1 to KEPT - 1; a new object each time. */
  search(back: number): TileStep;
  /** Mean and standard deviation of the newest picture's luma, in 8-bit steps. */
  moments(): { readonly mean: number; readonly deviation: number };
  /** Mean square difference of detail between the newest picture and the one `back` before it, in squared 8-bit steps. */
  apart(back: number): number;
}

/** Numbers a tile as kernels write them: dx, dy, best, still, own, other, xx, xy, yy, xd, yd, nextX, nextY; d is what differs at the best place. */
export const NUMBERS = 13;

/** Moments of coarse samples, in 8-bit steps. */
export function momentsOf(coarse: Int16Array): { mean: number; deviation: number } {
  let [sum, square] = [0, 0];
  for (let i = 0; i < coarse.length; i++) {
    const value = coarse[i];
    sum += value;
    square += value * value;
  }
  const mean = sum / coarse.length;
  const scale = COARSE * COARSE;
  return { mean: mean / scale, deviation: sqrt(max(0, square / coarse.length - mean * mean)) / scale };
}

/** From the kernels' numbers to what they mean. */
export function tileStepOf(numbers: Int32Array, tiles: number): TileStep {
  const row = (): Float32Array => new Float32Array(tiles);
  const out = { u: row(), v: row(), left: row(), still: row(), own: row(), other: row(), xx: row(), xy: row(), yy: row() };
  const square = TILE * TILE * STEP * STEP;
  for (let t = 0; t < tiles; t++) {
    const at = (i: number): number => numbers[t * NUMBERS + i];
    const [xx, xy, yy, xd, yd] = [at(6) / 4, at(7) / 4, at(8) / 4, at(9) / 2, at(10) / 2];
    // The rest of the way by one step of least squares, as in blocks.ts; a little is added where there is one slope only.
    const more = (xx + yy) * ONE_SLOPE + 1;
    const det = (xx + more) * (yy + more) - xy * xy;
    const rest = (value: number): number => max(-MOST_REST, min(MOST_REST, value));
    // What lies dx to the right in the picture before has moved by -dx since.
    const [restX, restY] = [((yy + more) * xd - xy * yd) / det, ((xx + more) * yd - xy * xd) / det];
    out.u[t] = -(at(0) + rest(shortening(xx, at(11)) * restX));
    out.v[t] = -(at(1) + rest(shortening(yy, at(12)) * restY));
    out.left[t] = max(0, at(2) - max(0, restX * xd + restY * yd)) / square;
    out.still[t] = at(3) / square;
    out.own[t] = at(4) / square;
    out.other[t] = at(5) / square;
    out.xx[t] = xx / square;
    out.xy[t] = xy / square;
    out.yy[t] = yy / square;
  }
  return out;
}

/**
 * Slopes over two samples are too low where detail is fine, so that displacements come out too long: by w / sin w for detail of w radians a
 * sample, which the squares of slopes over two samples and over one tell, cos² (w / 2) of each other.
 */
function shortening(overTwo: number, overOne: number): number {
  if (overOne <= 0) return 1;
  const w = 2 * acos(sqrt(min(1, max(0, overTwo / overOne))));
  return w < 0.1 ? 1 : max(0.5, sin(w) / w);
}

/** What the kernels do, to be read. Tests hold both together. */
export class ReferenceTiles implements Tiles {
  /** Newest first. */
  private readonly pictures: Int16Array[] = [];
  readonly grid: TileGrid;
  private coarse = new Int16Array(0);

  constructor(
    private readonly fineWidth: number,
    fineHeight: number,
  ) {
    this.grid = tileGridOf(fineWidth, fineHeight);
  }

  push(bytes: Uint8Array): void {
    this.coarse = this.shrink(bytes);
    this.pictures.unshift(this.detail(this.coarse));
    if (this.pictures.length > KEPT) this.pictures.pop();
  }

  search(back: number): TileStep {
    const { grid } = this;
    const numbers = new Int32Array(grid.tiles * NUMBERS);
    for (let t = 0; t < grid.tiles; t++) this.searchTile(back, t, numbers.subarray(t * NUMBERS, (t + 1) * NUMBERS));
    return tileStepOf(numbers, grid.tiles);
  }

  moments(): { mean: number; deviation: number } {
    return momentsOf(this.coarse);
  }

  apart(back: number): number {
    const [b, a] = [this.at(0), this.at(back)];
    let sum = 0;
    for (let i = 0; i < b.length; i++) sum += (b[i] - a[i]) ** 2;
    return sum / (b.length * STEP * STEP);
  }

  private at(back: number): Int16Array {
    return this.pictures[back] as Int16Array;
  }

  private shrink(bytes: Uint8Array): Int16Array<ArrayBuffer> {
    const { width, height } = this.grid;
    return Int16Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [(i % width) * COARSE, floor(i / width) * COARSE];
      let sum = 0;
      for (let j = y; j < y + COARSE; j++) for (let k = x; k < x + COARSE; k++) sum += bytes[j * this.fineWidth + k];
      return sum;
    });
  }

  private detail(coarse: Int16Array): Int16Array {
    const { width, height } = this.grid;
    return Int16Array.from(coarse, (value, i) => {
      const [x, y] = [i % width, floor(i / width)];
      let [sum, count] = [0, 0];
      for (let j = max(0, y - SURROUNDINGS); j <= min(height - 1, y + SURROUNDINGS); j++)
        for (let k = max(0, x - SURROUNDINGS); k <= min(width - 1, x + SURROUNDINGS); k++) {
          sum += coarse[j * width + k];
          count++;
        }
      return trunc((value * count - sum) / (count * QUARTER));
    });
  }

  private searchTile(back: number, t: number, out: Int32Array): void {
    const { width, height, left, top, columns } = this.grid;
    const [x0, y0] = [left + (t % columns) * TILE, top + floor(t / columns) * TILE];
    const [b, a] = [this.at(0), this.at(back)];
    const sumOver = (of: (i: number) => number): number => {
      let sum = 0;
      for (let y = y0; y < y0 + TILE; y++) for (let x = x0; x < x0 + TILE; x++) sum += of(y * width + x);
      return sum;
    };
    const apart = (dx: number, dy: number): number =>
      x0 + dx < max(0, x0 - REACH.across) ||
      y0 + dy < max(0, y0 - REACH.down) ||
      x0 + dx > min(width - TILE, x0 + REACH.across) ||
      y0 + dy > min(height - TILE, y0 + REACH.down)
        ? -1
        : sumOver((i) => (b[i] - a[i + dy * width + dx]) ** 2);
    let [bestX, bestY, least] = [0, 0, apart(0, 0)];
    for (let dy = -REACH.down; dy <= REACH.down; dy++)
      for (let dx = -REACH.across; dx <= REACH.across; dx++) {
        const sum = apart(dx, dy);
        const cost = sum + (sum >> 8) * (abs(dx) + abs(dy));
        if (sum >= 0 && cost < least) [bestX, bestY, least] = [dx, dy, cost];
      }
    const at = (picture: Int16Array, i: number): number => picture[i];
    const gx = (i: number): number => at(b, i + 1) - at(b, i - 1);
    const gy = (i: number): number => at(b, i + width) - at(b, i - width);
    const found = (i: number): number => at(a, i + bestY * width + bestX);
    const d = (i: number): number => at(b, i) - found(i);
    out.set([
      bestX,
      bestY,
      apart(bestX, bestY),
      apart(0, 0),
      sumOver((i) => at(b, i) ** 2),
      sumOver((i) => found(i) ** 2),
      sumOver((i) => gx(i) ** 2),
      sumOver((i) => gx(i) * gy(i)),
      sumOver((i) => gy(i) ** 2),
      sumOver((i) => gx(i) * d(i)),
      sumOver((i) => gy(i) * d(i)),
      sumOver((i) => (at(b, i + 1) - at(b, i)) ** 2),
      sumOver((i) => (at(b, i + width) - at(b, i)) ** 2),
    ]);
  }
}
