import { FIELD_PAD, type FieldPlane } from './fieldPlane.js';
import { PARTS } from './weights.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, max, min } = Math;

/** Blocks are so many samples wide and high, at every size. */
export const BLOCK = 8;
/** Samples around a block that are compared with it, on each side: at the full size, and at the smaller ones. */
const AROUND = { full: 4, small: 2 } as const;
/** Of so many lines one is compared. */
const EVERY = 2;
/** The furthest that a block may move from the field before to the one after, in samples of the full size. */
const FURTHEST = 80;
/** Of all vectors so far across and down every other one is tried at the smallest size. */
const FIRST = { across: 10, down: 6, step: 2 } as const;
/** Steps from the best one, in each of which its four neighbours are tried: at the smallest size, where every other way was, and elsewhere. */
const STEPS = { first: 2, later: 1 } as const;
/** What a way costs at most, for each sample that is compared, that is met well. */
const WELL = 8;
/** What it costs for each sample that a vector differs from the one foretold by the size below. */
const AWAY = 3;

/**
 * The way of each block from the field before to the one after, through the field between: sixteenths of a sample, rows of blocks one after the other.
 * past and future: what is left over of the field between against either, in sums of differences; at the full size alone.
 */
export interface FieldVectors {
  readonly columns: number;
  readonly rows: number;
  readonly u: Int16Array;
  readonly v: Int16Array;
  readonly past: Int32Array;
  readonly future: Int32Array;
}

export interface ThreeFields {
  readonly before: FieldPlane;
  readonly own: FieldPlane;
  readonly after: FieldPlane;
}

function emptyVectors({ width, height }: FieldPlane): FieldVectors {
  const [columns, rows] = [ceil(width / BLOCK), ceil(height / BLOCK)];
  const n = columns * rows;
  return { columns, rows, u: new Int16Array(n), v: new Int16Array(n), past: new Int32Array(n), future: new Int32Array(n) };
}

/** Sums of differences of a block at one vector. */
interface BlockSums {
  /** Of the fields before and after, and of the own one against the nearer of both. */
  cost: number;
  past: number;
  future: number;
}

function compare(
  { before, own, after }: ThreeFields,
  left: number,
  top: number,
  { x, y, size }: { readonly x: number; readonly y: number; readonly size: number },
): BlockSums {
  const { stride } = own;
  // An odd way is halved so that the field after takes the longer half.
  const [lx, ly] = [x >> 1, y >> 1];
  const [rx, ry] = [x - lx, y - ly];
  let [cost, past, future] = [0, 0, 0];
  for (let j = 0; j < size; j += EVERY) {
    const a = before.at + (top + j - ly) * stride + left - lx;
    const b = after.at + (top + j + ry) * stride + left + rx;
    const o = own.at + (top + j) * stride + left;
    for (let i = 0; i < size; i++) {
      const [p, n, q] = [before.data[a + i], after.data[b + i], own.data[o + i]];
      const [back, forth] = [abs(p - q), abs(n - q)];
      cost += abs(p - n) + min(back, forth);
      past += back;
      future += forth;
    }
  }
  return { cost, past, future };
}

const nearest = (parts: number): number => (parts + PARTS / 2) >> 4;

/**
 * Vectors at one size.
 * @param below those of half the size; null at the smallest
 * @param level 0 for the full size
 */
export function searchLevel(fields: ThreeFields, below: FieldVectors | null, level: number): FieldVectors {
  const out = emptyVectors(fields.own);
  const { columns, rows } = out;
  const around = level === 0 ? AROUND.full : AROUND.small;
  const size = BLOCK + 2 * around;
  const most = FURTHEST >> level;
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const [left, top] = [c * BLOCK - around, r * BLOCK - around];
      const inside = (n: number): number => max(-most, min(most, n));
      let [px, py] = [0, 0];
      const sumsAt = (x: number, y: number): BlockSums => compare(fields, left, top, { x, y, size });
      let [bx, by, best] = [0, 0, 1 << 30];
      const attempt = (wx: number, wy: number): void => {
        const [x, y] = [inside(wx), inside(wy)];
        if (x === bx && y === by && best < 1 << 30) return;
        const cost = sumsAt(x, y).cost + AWAY * (abs(x - px) + abs(y - py));
        if (cost >= best) return;
        [bx, by, best] = [x, y, cost];
      };
      if (below) {
        const from = (i: number, j: number): readonly [number, number] => {
          const at = max(0, min(below.rows - 1, j)) * below.columns + max(0, min(below.columns - 1, i));
          return [nearest(2 * below.u[at]), nearest(2 * below.v[at])];
        };
        const [i, j] = [c >> 1, r >> 1];
        // The blocks below that this one's corner points to.
        const [di, dj] = [c & 1 ? 1 : -1, r & 1 ? 1 : -1];
        [px, py] = from(i, j);
        attempt(px, py);
        // What is met as well as this needs no other way.
        const met = WELL * size * (size / EVERY);
        if (best >= met) {
          attempt(0, 0);
          attempt(...from(i + di, j));
          attempt(...from(i, j + dj));
        }
        const isMet = best < met;
        const own = (k: number): void => attempt(nearest(out.u[k]), nearest(out.v[k]));
        if (c > 0 && !isMet) own(r * columns + c - 1);
        if (r > 0 && !isMet) own((r - 1) * columns + c);
      } else
        for (let y = -FIRST.down; y <= FIRST.down; y += FIRST.step)
          for (let x = -FIRST.across; x <= FIRST.across; x += FIRST.step) attempt(x, y);
      for (let step = 0; step < (below ? STEPS.later : STEPS.first); step++) {
        const [cx, cy] = [bx, by];
        attempt(cx + 1, cy);
        attempt(cx - 1, cy);
        attempt(cx, cy + 1);
        attempt(cx, cy - 1);
        if (bx === cx && by === cy) break;
      }
      const sums = sumsAt(bx, by);
      const at = r * columns + c;
      out.u[at] = PARTS * bx + between(sumsAt(bx - 1, by).cost, sums.cost, sumsAt(bx + 1, by).cost);
      out.v[at] = PARTS * by + between(sumsAt(bx, by - 1).cost, sums.cost, sumsAt(bx, by + 1).cost);
      if (level > 0) continue;
      out.past[at] = sums.past;
      out.future[at] = sums.future;
    }
  return out;
}

/** Where between three costs the least lies, in sixteenths: two lines of one slope meet there. Differences fall and rise in straight lines. */
function between(before: number, least: number, after: number): number {
  const rise = max(before, after) - least;
  return rise <= 0 ? 0 : max(-PARTS / 2, min(PARTS / 2, (((before - after) * (PARTS / 2)) / rise) | 0));
}

/**
 * What is left over of a block against fields further away, if it goes on as it goes: sums over COMPARED samples, the mean of both sides.
 * @param u, v its way from the field before to the one after, in sixteenths
 * @param distance in fields, from the own one
 */
export function goesOn(
  { before, own, after }: ThreeFields,
  {
    left,
    top,
    u,
    v,
    distance,
  }: { readonly left: number; readonly top: number; readonly u: number; readonly v: number; readonly distance: number },
): number {
  const most = FIELD_PAD - 2 * AROUND.full;
  const inside = (n: number): number => max(-most, min(most, n));
  const [x, y] = [inside((u * distance + PARTS) >> 5), inside((v * distance + PARTS) >> 5)];
  let sum = 0;
  for (let j = -AROUND.full; j < BLOCK + AROUND.full; j += EVERY)
    for (let i = -AROUND.full; i < BLOCK + AROUND.full; i++) {
      const at = own.at + (top + j) * own.stride + left + i;
      const by = y * own.stride + x;
      const q = own.data[at];
      sum += abs(before.data[at - by] - q) + abs(after.data[at + by] - q);
    }
  return sum >> 1;
}

/** Where a block lies. */
interface Corner {
  readonly left: number;
  readonly top: number;
}

/** How far the fields before and after are from each other along a block's way, in sums over COMPARED samples: their lines are the same ones. */
export function sidesApart(
  { before, own: { stride }, after }: ThreeFields,
  { left, top, u, v }: Corner & { readonly u: number; readonly v: number },
): number {
  const [x, y] = [nearest(u), nearest(v)];
  const [lx, ly] = [x >> 1, y >> 1];
  let sum = 0;
  for (let j = -AROUND.full; j < BLOCK + AROUND.full; j += EVERY)
    for (let i = -AROUND.full; i < BLOCK + AROUND.full; i++) {
      const a = before.data[before.at + (top + j - ly) * stride + left + i - lx];
      sum += abs(a - after.data[after.at + (top + j + y - ly) * stride + left + i + x - lx]);
    }
  return sum;
}

/** Whether a block's way leads wholly out of the picture on either side, where nothing of it can be seen. */
export function leadsOut(
  { columns, rows }: Pick<FieldVectors, 'columns' | 'rows'>,
  { left, top, u, v }: Corner & { readonly u: number; readonly v: number },
): boolean {
  const [x, y] = [nearest(u), nearest(v)];
  const [lx, ly] = [x >> 1, y >> 1];
  const isOut = (at: number, blocks: number): boolean => at <= -BLOCK || at >= blocks * BLOCK;
  return isOut(left - lx, columns) || isOut(left + x - lx, columns) || isOut(top - ly, rows) || isOut(top + y - ly, rows);
}

/** What a block's lines miss of each other, in sums over COMPARED samples: each against the mean of those two above and below. */
export function linesMiss({ data, stride, at }: FieldPlane, { left, top }: Corner): number {
  let sum = 0;
  for (let j = -AROUND.full; j < BLOCK + AROUND.full; j += EVERY)
    for (let i = -AROUND.full; i < BLOCK + AROUND.full; i++) {
      const k = at + (top + j) * stride + left + i;
      sum += abs(data[k] - ((data[k - 2 * stride] + data[k + 2 * stride] + 1) >> 1));
    }
  return sum;
}

/** Samples of a block that are compared at the full size. */
export const COMPARED = (BLOCK + 2 * AROUND.full) * ((BLOCK + 2 * AROUND.full) / EVERY);
