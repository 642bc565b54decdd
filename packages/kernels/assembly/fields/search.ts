/** The way of each block from the field before to the one after; core/fields/vectors.ts has the same in readable TypeScript. */

export const BLOCK = 8;
export const AROUND_FULL = 4;
const AROUND_SMALL = 2;
const EVERY = 2;
const FURTHEST = 80;
const FIRST_ACROSS = 10;
const FIRST_DOWN = 6;
const FIRST_STEP = 2;
const STEPS_FIRST = 2;
const STEPS_LATER = 1;
const AWAY = 3;
export const PARTS = 16;
/** What a way costs at most, for each sample that is compared, that is met well. */
const WELL = 8;
const COMPARED_SMALL = (BLOCK + 2 * AROUND_SMALL) * ((BLOCK + 2 * AROUND_SMALL) / EVERY);
export const COMPARED = (BLOCK + 2 * AROUND_FULL) * ((BLOCK + 2 * AROUND_FULL) / EVERY);

function apart(a: v128, b: v128): v128 {
  return v128.or(i8x16.sub_sat_u(a, b), i8x16.sub_sat_u(b, a));
}

function total(sums: v128): i32 {
  const fours = i32x4.extadd_pairwise_i16x8_u(sums);
  return (
    i32x4.extract_lane(fours, 0) + i32x4.extract_lane(fours, 1) + i32x4.extract_lane(fours, 2) + i32x4.extract_lane(fours, 3)
  );
}

/** All sixteen samples of a row count at the full size, twelve at smaller ones. */
function counted(full: bool): v128 {
  return full ? i32x4.splat(-1) : i32x4(-1, -1, -1, 0);
}

/** The same at the full size, where all samples of a row count: the one that is asked most. */
function costAtFull(before: usize, own: usize, after: usize, stride: i32, x: i32, y: i32): i32 {
  const lx = x >> 1;
  const ly = y >> 1;
  const step = <usize>(EVERY * stride);
  let a = before - <usize>(ly * stride + lx);
  let b = after + <usize>((y - ly) * stride + x - lx);
  let o = own;
  let ways = i16x8.splat(0);
  let near = i16x8.splat(0);
  for (let j = 0; j < (BLOCK + 2 * AROUND_FULL) / EVERY; j += 2) {
    let p = v128.load(a);
    let n = v128.load(b);
    let q = v128.load(o);
    ways = i16x8.add(ways, i16x8.extadd_pairwise_i8x16_u(apart(p, n)));
    near = i16x8.add(near, i16x8.extadd_pairwise_i8x16_u(i8x16.min_u(apart(p, q), apart(n, q))));
    a += step;
    b += step;
    o += step;
    p = v128.load(a);
    n = v128.load(b);
    q = v128.load(o);
    ways = i16x8.add(ways, i16x8.extadd_pairwise_i8x16_u(apart(p, n)));
    near = i16x8.add(near, i16x8.extadd_pairwise_i8x16_u(i8x16.min_u(apart(p, q), apart(n, q))));
    a += step;
    b += step;
    o += step;
  }
  return total(i16x8.add(ways, near));
}

/** What a block costs at a way: the fields before and after apart, and the own one from the nearer of both. */
function costAt(before: usize, own: usize, after: usize, stride: i32, full: bool, x: i32, y: i32): i32 {
  if (full) return costAtFull(before, own, after, stride, x, y);
  const lx = x >> 1;
  const ly = y >> 1;
  const step = <usize>(EVERY * stride);
  let a = before - <usize>(ly * stride + lx);
  let b = after + <usize>((y - ly) * stride + x - lx);
  let o = own;
  const mask = counted(full);
  const rows = (BLOCK + 2 * (full ? AROUND_FULL : AROUND_SMALL)) / EVERY;
  let sums = i16x8.splat(0);
  for (let j = 0; j < rows; j++, a += step, b += step, o += step) {
    const p = v128.load(a);
    const n = v128.load(b);
    const q = v128.load(o);
    const ways = v128.and(apart(p, n), mask);
    const near = v128.and(i8x16.min_u(apart(p, q), apart(n, q)), mask);
    sums = i16x8.add(sums, i16x8.add(i16x8.extadd_pairwise_i8x16_u(ways), i16x8.extadd_pairwise_i8x16_u(near)));
  }
  return total(sums);
}

/** Differences of the own field from one other, at a place. */
export function restAt(other: usize, own: usize, stride: i32, full: bool): i32 {
  const step = <usize>(EVERY * stride);
  const mask = counted(full);
  const rows = (BLOCK + 2 * (full ? AROUND_FULL : AROUND_SMALL)) / EVERY;
  let sums = i16x8.splat(0);
  for (let j = 0; j < rows; j++, other += step, own += step)
    sums = i16x8.add(sums, i16x8.extadd_pairwise_i8x16_u(v128.and(apart(v128.load(other), v128.load(own)), mask)));
  return total(sums);
}

/** What lines at the full size miss of each other: each against the mean of those two above and below. */
export function linesMiss(own: usize, stride: i32): i32 {
  const step = <usize>(EVERY * stride);
  let sums = i16x8.splat(0);
  let above = v128.load(own - step);
  let line = v128.load(own);
  for (let j = 0; j < (BLOCK + 2 * AROUND_FULL) / EVERY; j++) {
    own += step;
    const below = v128.load(own);
    sums = i16x8.add(sums, i16x8.extadd_pairwise_i8x16_u(apart(line, i8x16.avgr_u(above, below))));
    above = line;
    line = below;
  }
  return total(sums);
}

// The block that is looked at, and the best way so far.
let blockBefore: usize = 0;
let blockOwn: usize = 0;
let blockAfter: usize = 0;
let planeStride: i32 = 0;
let isFull: bool = false;
let mostAway: i32 = 0;
let foretoldX: i32 = 0;
let foretoldY: i32 = 0;
/** What the four ways around a middle cost, right, left, below, above, and that middle. */
let right: i32 = 0;
let left: i32 = 0;
let under: i32 = 0;
let over: i32 = 0;
let bestX: i32 = 0;
let bestY: i32 = 0;
let least: i32 = 0;

function away(a: i32, b: i32): i32 {
  return a > b ? a - b : b - a;
}

function cost(x: i32, y: i32): i32 {
  return costAt(blockBefore, blockOwn, blockAfter, planeStride, isFull, x, y);
}

/** @returns what the way costs by itself; -1 where it was not looked at */
function attempt(wx: i32, wy: i32): i32 {
  const x = max(-mostAway, min(mostAway, wx));
  const y = max(-mostAway, min(mostAway, wy));
  if (x === bestX && y === bestY && least < 1 << 30) return -1;
  const alone = cost(x, y);
  const price = alone + AWAY * (away(x, foretoldX) + away(y, foretoldY));
  if (price < least) {
    bestX = x;
    bestY = y;
    least = price;
  }
  return x === wx && y === wy ? alone : -1;
}

export function nearest(parts: i32): i32 {
  return (parts + PARTS / 2) >> 4;
}

function between(before: i32, middle: i32, after: i32): i32 {
  const rise = max(before, after) - middle;
  return rise <= 0 ? 0 : max(-PARTS / 2, min(PARTS / 2, ((before - after) * (PARTS / 2)) / rise));
}

/** See core/fields/vectors.ts. u and v are i16, past and future i32, by rows of blocks. */
export function searchFields(
  before: usize,
  own: usize,
  after: usize,
  width: i32,
  height: i32,
  stride: i32,
  belowU: usize,
  belowV: usize,
  belowColumns: i32,
  belowRows: i32,
  u: usize,
  v: usize,
  past: usize,
  future: usize,
  level: i32,
): void {
  isFull = level === 0;
  planeStride = stride;
  mostAway = FURTHEST >> level;
  const around = isFull ? AROUND_FULL : AROUND_SMALL;
  const columns = (width + BLOCK - 1) / BLOCK;
  const rows = (height + BLOCK - 1) / BLOCK;
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const corner = <usize>((r * BLOCK - around) * stride + c * BLOCK - around);
      blockBefore = before + corner;
      blockOwn = own + corner;
      blockAfter = after + corner;
      foretoldX = 0;
      foretoldY = 0;
      bestX = 0;
      bestY = 0;
      least = 1 << 30;
      let around4 = false;
      if (belowU !== 0) {
        const i = c >> 1;
        const j = r >> 1;
        const di = c & 1 ? 1 : -1;
        const dj = r & 1 ? 1 : -1;
        for (let k = 0; k < 4; k++) {
          if (k === 1) {
            attempt(0, 0);
            continue;
          }
          const wi = max(0, min(belowColumns - 1, k === 2 ? i + di : i));
          const wj = max(0, min(belowRows - 1, k === 3 ? j + dj : j));
          const at = (<usize>(wj * belowColumns + wi)) << 1;
          const x = nearest(2 * <i32>load<i16>(belowU + at));
          const y = nearest(2 * <i32>load<i16>(belowV + at));
          if (k === 0) {
            foretoldX = x;
            foretoldY = y;
          }
          attempt(x, y);
          // What is met as well as this needs no other way.
          if (k === 0 && least < WELL * (isFull ? COMPARED : COMPARED_SMALL)) break;
        }
        const isMet = least < WELL * (isFull ? COMPARED : COMPARED_SMALL);
        if (c > 0 && !isMet) {
          const at = (<usize>(r * columns + c - 1)) << 1;
          attempt(nearest(<i32>load<i16>(u + at)), nearest(<i32>load<i16>(v + at)));
        }
        if (r > 0 && !isMet) {
          const at = (<usize>((r - 1) * columns + c)) << 1;
          attempt(nearest(<i32>load<i16>(u + at)), nearest(<i32>load<i16>(v + at)));
        }
      } else {
        for (let y = -FIRST_DOWN; y <= FIRST_DOWN; y += FIRST_STEP)
          for (let x = -FIRST_ACROSS; x <= FIRST_ACROSS; x += FIRST_STEP) attempt(x, y);
      }
      const steps = belowU !== 0 ? STEPS_LATER : STEPS_FIRST;
      for (let step = 0; step < steps; step++) {
        const cx = bestX;
        const cy = bestY;
        right = attempt(cx + 1, cy);
        left = attempt(cx - 1, cy);
        under = attempt(cx, cy + 1);
        over = attempt(cx, cy - 1);
        around4 = bestX === cx && bestY === cy;
        if (around4) break;
      }
      const at = <usize>(r * columns + c);
      const middle = least - AWAY * (away(bestX, foretoldX) + away(bestY, foretoldY));
      // What was looked at in the last step is known.
      if (!around4 || left < 0) left = cost(bestX - 1, bestY);
      if (!around4 || right < 0) right = cost(bestX + 1, bestY);
      if (!around4 || over < 0) over = cost(bestX, bestY - 1);
      if (!around4 || under < 0) under = cost(bestX, bestY + 1);
      store<i16>(u + (at << 1), <i16>(PARTS * bestX + between(left, middle, right)));
      store<i16>(v + (at << 1), <i16>(PARTS * bestY + between(over, middle, under)));
      if (!isFull) continue;
      const lx = bestX >> 1;
      const ly = bestY >> 1;
      const there = blockBefore - <usize>(ly * stride + lx);
      const then = blockAfter + <usize>((bestY - ly) * stride + bestX - lx);
      store<i32>(past + (at << 2), restAt(there, blockOwn, stride, isFull));
      store<i32>(future + (at << 2), restAt(then, blockOwn, stride, isFull));
    }
  }
}
