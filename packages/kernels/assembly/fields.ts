/** Lines between a field's own, made along motion; core/fields says what for, and has the same in readable TypeScript. */

/** Margin of a soft plane, in samples. */
const PAD: usize = 64;
const BLOCK = 8;
const AROUND_FULL = 4;
const AROUND_SMALL = 2;
const EVERY = 2;
const FURTHEST = 80;
const FIRST_ACROSS = 10;
const FIRST_DOWN = 6;
const FIRST_STEP = 2;
const STEPS_FIRST = 2;
const STEPS_LATER = 1;
const AWAY = 3;
const PARTS = 16;
/** What a way costs at most, for each sample that is compared, that is met well. */
const WELL = 8;
const COMPARED_SMALL = (BLOCK + 2 * AROUND_SMALL) * ((BLOCK + 2 * AROUND_SMALL) / EVERY);
const COMPARED = (BLOCK + 2 * AROUND_FULL) * ((BLOCK + 2 * AROUND_FULL) / EVERY);

function sampleAt(row: usize, x: i32, bytes: i32, shift: i32): i32 {
  return bytes === 1 ? <i32>load<u8>(row + <usize>x) : min<i32>(255, <i32>load<u16>(row + ((<usize>x) << 1)) >> shift);
}

/** Eight samples from a place on, in 16 bits, narrowed to 8. */
function eightAt(row: usize, x: i32, bytes: i32, shift: i32): v128 {
  if (bytes === 1) return v128.load_ext<u8>(row + <usize>x);
  return i16x8.min_u(i16x8.splat(255), i16x8.shr_u(v128.load(row + ((<usize>x) << 1)), shift));
}

function lineOf(from: usize, y: i32, parity: i32, last: i32, line: usize): usize {
  return from + <usize>max(parity, min(last, y)) * line;
}

function cubic8(a: v128, b: v128, c: v128, d: v128): v128 {
  const near = i16x8.mul(i16x8.add(b, c), i16x8.splat(9));
  const sum = i16x8.shr_s(i16x8.add(i16x8.sub(i16x8.sub(near, a), d), i16x8.splat(8)), 4);
  return i16x8.max_s(i16x8.splat(0), i16x8.min_s(i16x8.splat(255), sum));
}

function cubic(a: i32, b: i32, c: i32, d: i32): i32 {
  return max(0, min(255, (9 * (b + c) - a - d + 8) >> 4));
}

/** A field as a whole soft picture with its margin. @param to its first sample; stride in samples */
export function softField(
  from: usize,
  width: i32,
  height: i32,
  parity: i32,
  bytes: i32,
  shift: i32,
  to: usize,
  stride: i32,
): void {
  const line = <usize>(width * bytes);
  const last = height - 1 - ((height - 1 - parity) & 1);
  for (let y = 0; y < height; y++) {
    const out = to + <usize>(y * stride);
    // Own lines from the third above to the third below, or from the fourth to the fourth where this one is there itself.
    const own = (y & 1) === parity;
    const near = own ? y : y - 1;
    const r0 = lineOf(from, near - 4, parity, last, line);
    const r1 = lineOf(from, near - 2, parity, last, line);
    const r2 = lineOf(from, near, parity, last, line);
    const r3 = lineOf(from, near + 2, parity, last, line);
    const r4 = lineOf(from, near + 4, parity, last, line);
    let x = 0;
    for (; x + 8 <= width; x += 8) {
      const b = eightAt(r1, x, bytes, shift);
      const c = eightAt(r2, x, bytes, shift);
      const d = eightAt(r3, x, bytes, shift);
      const e = eightAt(r4, x, bytes, shift);
      let sum: v128;
      if (own) {
        const a = eightAt(r0, x, bytes, shift);
        sum = i16x8.add(i16x8.add(cubic8(a, b, c, d), i16x8.shl(c, 1)), cubic8(b, c, d, e));
      } else sum = i16x8.add(i16x8.add(c, i16x8.shl(cubic8(b, c, d, e), 1)), d);
      const soft = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2);
      v128.store64_lane(out + <usize>x, i8x16.narrow_i16x8_u(soft, soft), 0);
    }
    for (; x < width; x++) {
      const b = sampleAt(r1, x, bytes, shift);
      const c = sampleAt(r2, x, bytes, shift);
      const d = sampleAt(r3, x, bytes, shift);
      const e = sampleAt(r4, x, bytes, shift);
      const sum = own ? cubic(sampleAt(r0, x, bytes, shift), b, c, d) + 2 * c + cubic(b, c, d, e) : c + 2 * cubic(b, c, d, e) + d;
      store<u8>(out + <usize>x, <u8>((sum + 2) >> 2));
    }
  }
  repeatEdges(to, width, height, stride);
}

/** Half the size each way, rounded down, by the mean of four, with its margin. */
export function halveSoft(from: usize, width: i32, height: i32, stride: i32, to: usize, toStride: i32): void {
  const w = max(1, width >> 1);
  const h = max(1, height >> 1);
  for (let y = 0; y < h; y++) {
    const a = from + <usize>(2 * y * stride);
    const b = a + <usize>stride;
    for (let x = 0; x < w; x += 8) {
      const at = <usize>(2 * x);
      const sum = i16x8.add(i16x8.extadd_pairwise_i8x16_u(v128.load(a + at)), i16x8.extadd_pairwise_i8x16_u(v128.load(b + at)));
      const mean = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2);
      v128.store64_lane(to + <usize>(y * toStride + x), i8x16.narrow_i16x8_u(mean, mean), 0);
    }
  }
  repeatEdges(to, w, h, toStride);
}

function repeatEdges(at: usize, width: i32, height: i32, stride: i32): void {
  for (let y = 0; y < height; y++) {
    const row = at + <usize>(y * stride);
    memory.fill(row - PAD, load<u8>(row), PAD);
    memory.fill(row + <usize>width, load<u8>(row + <usize>(width - 1)), <usize>(stride - width) - PAD);
  }
  const first = at - PAD;
  const last = first + <usize>((height - 1) * stride);
  for (let y = 1; y <= <i32>PAD; y++) {
    memory.copy(first - <usize>(y * stride), first, stride);
    memory.copy(last + <usize>(y * stride), last, stride);
  }
}

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
function restAt(other: usize, own: usize, stride: i32, full: bool): i32 {
  const step = <usize>(EVERY * stride);
  const mask = counted(full);
  const rows = (BLOCK + 2 * (full ? AROUND_FULL : AROUND_SMALL)) / EVERY;
  let sums = i16x8.splat(0);
  for (let j = 0; j < rows; j++, other += step, own += step)
    sums = i16x8.add(sums, i16x8.extadd_pairwise_i8x16_u(v128.and(apart(v128.load(other), v128.load(own)), mask)));
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

function nearest(parts: i32): i32 {
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

// What of a side is left over; see core/fields/rebuild.ts.
const SPOILT = 40;
const ONE_SIDED = 16;
const BESIDE = 2;
const BETTER_OF_FOUR = 3;
// Places in SOURCES.
const BOTH: u8 = 0;
const FAR: u8 = 1;
const PAST: u8 = 2;
const FUTURE: u8 = 3;
const OWN: u8 = 4;
const FARTHEST = 4;
const MOST_FAR = 56;

/**
 * From which fields each block is made.
 * @param before, after soft planes of the fields furthest away; 0 where one is not there
 * @param helps u8, one a phase: whether fields further away may have better lines
 * @param sources u8, one a block, written
 * @returns blocks whose motion was met
 */
export function fieldSources(
  before: usize,
  own: usize,
  after: usize,
  stride: i32,
  columns: i32,
  rows: i32,
  u: usize,
  v: usize,
  past: usize,
  future: usize,
  hasPast: bool,
  hasFuture: bool,
  helps: usize,
  sources: usize,
): i32 {
  let met = 0;
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const at = <usize>(r * columns + c);
      const back = load<i32>(past + (at << 2));
      const forth = load<i32>(future + (at << 2));
      const less = min(back, forth);
      const more = max(back, forth);
      let source = BOTH;
      if (less > SPOILT * COMPARED || !(hasPast || hasFuture)) source = OWN;
      else if (!hasPast) source = FUTURE;
      else if (!hasFuture) source = PAST;
      else if (more > BESIDE * less + ONE_SIDED * COMPARED) source = back < forth ? PAST : FUTURE;
      else if (before !== 0 && after !== 0) {
        const bu = <i32>load<i16>(u + (at << 1));
        const bv = <i32>load<i16>(v + (at << 1));
        if (load<u8>(helps + <usize>((bv >> 1) & 31)) !== 0) {
          const x = max(-MOST_FAR, min(MOST_FAR, (bu * FARTHEST + PARTS) >> 5));
          const y = max(-MOST_FAR, min(MOST_FAR, (bv * FARTHEST + PARTS) >> 5));
          const by = <usize>(y * stride + x);
          const corner = <usize>((r * BLOCK - AROUND_FULL) * stride + c * BLOCK - AROUND_FULL);
          const rest =
            restAt(before + corner - by, own + corner, stride, true) + restAt(after + corner + by, own + corner, stride, true);
          if (2 * 4 * (rest >> 1) < BETTER_OF_FOUR * (back + forth)) source = FAR;
        }
      }
      if (source !== OWN) met++;
      store<u8>(sources + at, source);
    }
  }
  return met;
}

// The plane that lines are made of.
let across: i32 = 0;
let down: i32 = 0;
let sampleBytes: i32 = 1;
let raised: i32 = 0;

function lineIn(plane: usize, parity: i32, y: i32): usize {
  const last = down - 1 - ((down - 1 - parity) & 1);
  return plane + <usize>(max(parity, min(last, y)) * across * sampleBytes);
}

function q15(value: i32, weight: i32): i32 {
  return (value * weight + 0x4000) >> 15;
}

/** Bytes of one term of a made sample: where its line lies for the first row, shifted to the side; how far the side is; its weight, eight times. */
const TERM: usize = 32;

/** Adds the terms of one line: one where it is met at a whole place, eight else. @returns the next free place */
function addTerms(at: usize, line: usize, weight: i32, shift: i32, taps: usize): usize {
  const part = shift & 15;
  const begin = shift >> 4;
  if (part === 0) return addTerm(at, line, begin, weight);
  const tap = taps + <usize>(part << 4);
  for (let k = 0; k < 8; k++) {
    const share = q15(weight, <i32>load<i16>(tap + <usize>(k << 1)));
    if (share !== 0) at = addTerm(at, line, begin + k - 3, share);
  }
  return at;
}

function addTerm(at: usize, line: usize, aside: i32, weight: i32): usize {
  store<i32>(at, <i32>line + aside * sampleBytes);
  store<i32>(at, aside, 4);
  v128.store(at, i16x8.splat(<i16>weight), 16);
  return at + TERM;
}

/** Eight samples of a term, weighed. */
function weighed8(from: usize, weight: v128, up: i32): v128 {
  return i16x8.q15mulr_sat_s(i16x8.shl(v128.load_ext<u8>(from), up), weight);
}

function weighed16(from: usize, weight: v128, up: i32): v128 {
  return i16x8.q15mulr_sat_s(i16x8.shl(v128.load(from), up), weight);
}

// The run of blocks that is made: what it asks, and how far it asks to the side.
let termsFrom: usize = 0;
let termsTo: usize = 0;
let half: i32 = 0;
let highest: i32 = 255;

/** Terms of a row. @returns whether all of its lines lie inside the plane, so that a row further down asks the same lines further down */
function collect(fields: usize, y: i32, parity: i32, bu: i32, bv: i32, reach: i32, table: usize, taps: usize): bool {
  let terms = termsFrom;
  let within = y >= 3 + 2 * (BLOCK / 2) && y + 3 + BLOCK < down;
  const own = <usize>load<i32>(fields + <usize>(FARTHEST * 8));
  for (let i = 0; i < 4; i++) {
    const weight = <i32>load<i16>(table + <usize>(i << 1));
    if (weight !== 0) terms = addTerms(terms, lineIn(own, parity, y + 2 * i - 3), weight, 0, taps);
  }
  for (let d = -reach; d <= reach; d++) {
    if (d === 0) continue;
    const entry = table + <usize>((4 + 2 * (d < 0 ? FARTHEST + d : FARTHEST + d - 1)) << 1);
    const field = fields + <usize>((FARTHEST + d) * 8);
    const plane = <usize>load<i32>(field);
    if (plane === 0) continue;
    const above = <i32>load<i16>(entry);
    const below = <i32>load<i16>(entry, 2);
    const lines = load<i32>(field, 4);
    const line = (((y * PARTS + d * bv - PARTS * lines) >> 5) << 1) + lines;
    if (line < 0 || line + 2 + BLOCK >= down) within = false;
    if (above !== 0) terms = addTerms(terms, lineIn(plane, lines, line), above, d * bu, taps);
    if (below !== 0) terms = addTerms(terms, lineIn(plane, lines, line + 2), below, d * bu, taps);
  }
  termsTo = terms;
  return within;
}

/** One row of a run, from begin to end. @param to where its first sample lies @param by which the plane lies behind the first one */
function makeRow(begin: i32, end: i32, furthest: i32, to: usize, by: usize): void {
  const size = <usize>sampleBytes;
  const up = raised;
  const rounding = i16x8.splat(<i16>half);
  const most = i16x8.splat(<i16>highest);
  const zero = i16x8.splat(0);
  let x = begin;
  while (x < end) {
    if (x - furthest >= 0 && x + 8 + furthest <= across) {
      let sum = zero;
      const offset = <usize>x * size;
      for (let at = termsFrom; at < termsTo; at += TERM) {
        const from = <usize>load<i32>(at) + offset + by;
        const weight = v128.load(at, 16);
        sum = i16x8.add(sum, size === 1 ? weighed8(from, weight, up) : weighed16(from, weight, up));
      }
      const made = i16x8.max_s(zero, i16x8.min_s(most, i16x8.shr_s(i16x8.add(sum, rounding), up)));
      // What lies beyond the run is made anew with the next one.
      if (size === 1) v128.store64_lane(to + offset, i8x16.narrow_i16x8_u(made, made), 0);
      else v128.store(to + offset, made);
      x += 8;
      continue;
    }
    let sum = 0;
    for (let at = termsFrom; at < termsTo; at += TERM) {
      const aside = load<i32>(at, 4);
      const line = <usize>(load<i32>(at) - aside * sampleBytes) + by;
      const from = line + <usize>max(0, min(across - 1, x + aside)) * size;
      const sample = size === 1 ? <i32>load<u8>(from) : <i32>load<u16>(from);
      sum += q15(sample << up, <i32>load<i16>(at, 16));
    }
    const made = max(0, min(highest, (sum + half) >> up));
    if (size === 1) store<u8>(to + <usize>x, <u8>made);
    else store<u16>(to + <usize>x * size, <u16>made);
    x++;
  }
}

/** Four rows of a run of 8-bit samples, two lines apart: each weight is read once for all. All lines that are asked lie inside the plane. */
function makeFour(begin: i32, end: i32, to: usize, by: usize): void {
  const up = raised;
  const rounding = i16x8.splat(<i16>half);
  const step = <usize>(2 * across);
  for (let x = begin; x < end; x += 8) {
    let s0 = rounding;
    let s1 = rounding;
    let s2 = rounding;
    let s3 = rounding;
    for (let at = termsFrom; at < termsTo; at += TERM) {
      let from = <usize>load<i32>(at) + <usize>x + by;
      const weight = v128.load(at, 16);
      s0 = i16x8.add(s0, weighed8(from, weight, up));
      from += step;
      s1 = i16x8.add(s1, weighed8(from, weight, up));
      from += step;
      s2 = i16x8.add(s2, weighed8(from, weight, up));
      from += step;
      s3 = i16x8.add(s3, weighed8(from, weight, up));
    }
    // Narrowing keeps within 0 and 255.
    const out = to + <usize>x;
    const a = i8x16.narrow_i16x8_u(i16x8.shr_s(s0, up), i16x8.shr_s(s1, up));
    const b = i8x16.narrow_i16x8_u(i16x8.shr_s(s2, up), i16x8.shr_s(s3, up));
    v128.store64_lane(out, a, 0);
    v128.store64_lane(out + step, a, 1);
    v128.store64_lane(out + 2 * step, b, 0);
    v128.store64_lane(out + 3 * step, b, 1);
  }
}

/** The same for two rows. */
function makeTwo(begin: i32, end: i32, to: usize, by: usize): void {
  const up = raised;
  const rounding = i16x8.splat(<i16>half);
  const step = <usize>(2 * across);
  for (let x = begin; x < end; x += 8) {
    let s0 = rounding;
    let s1 = rounding;
    for (let at = termsFrom; at < termsTo; at += TERM) {
      const from = <usize>load<i32>(at) + <usize>x + by;
      const weight = v128.load(at, 16);
      s0 = i16x8.add(s0, weighed8(from, weight, up));
      s1 = i16x8.add(s1, weighed8(from + step, weight, up));
    }
    const out = to + <usize>x;
    const a = i8x16.narrow_i16x8_u(i16x8.shr_s(s0, up), i16x8.shr_s(s1, up));
    v128.store64_lane(out, a, 0);
    v128.store64_lane(out + step, a, 1);
  }
}

/**
 * Makes the lines that a field lacks of one plane, or of two that lie one behind the other.
 * @param fields i32, two for each field from -FARTHEST to FARTHEST: where its plane lies (packed; 0 where there is none), and its lines' parity
 * @param weights, taps see core/fields/weights.ts
 * @param work TERM bytes for each of 4 + 4 * FARTHEST * 8 terms
 */
export function makeLines(
  fields: usize,
  width: i32,
  height: i32,
  shiftX: i32,
  shiftY: i32,
  parity: i32,
  bytes: i32,
  bits: i32,
  columns: i32,
  rows: i32,
  u: usize,
  v: usize,
  sources: usize,
  weights: usize,
  taps: usize,
  work: usize,
  planes: i32,
  out: usize,
): void {
  across = width;
  down = height;
  sampleBytes = bytes;
  raised = 13 - bits;
  highest = (1 << bits) - 1;
  half = raised > 0 ? 1 << (raised - 1) : 0;
  termsFrom = work;
  const blockWidth = BLOCK >> shiftX;
  const blockHeight = BLOCK >> shiftY;
  const line = <usize>(width * bytes);
  for (let row = 0; row < rows; row++) {
    const first = <usize>(row * columns);
    const top = row * blockHeight;
    // The last row of blocks has what is left over.
    const bottom = row === rows - 1 ? height : min(height, top + blockHeight);
    const y0 = top + (((top & 1) ^ parity) & 1 ? 0 : 1);
    for (let begin = 0; begin < width; ) {
      // Blocks beside each other that move alike and are made of the same fields.
      let block = first + <usize>min(columns - 1, begin / blockWidth);
      const wu = load<i16>(u + (block << 1));
      const wv = load<i16>(v + (block << 1));
      const source = load<u8>(sources + block);
      let end = begin + blockWidth;
      while (end < width) {
        block = first + <usize>min(columns - 1, end / blockWidth);
        if (load<i16>(u + (block << 1)) !== wu || load<i16>(v + (block << 1)) !== wv || load<u8>(sources + block) !== source)
          break;
        end += blockWidth;
      }
      end = min(end, width);
      const bu = <i32>wu >> (1 + shiftX);
      const bv = <i32>wv >> (1 + shiftY);
      const table = weights + <usize>(((<i32>source * 32 + (bv & 31)) * 20) << 1);
      const reach = source === OWN ? 0 : source === FAR ? FARTHEST : 1;
      // So far to either side lies what is asked.
      const furthest = reach * ((bu < 0 ? -bu : bu) >> 4) + 8;
      let y = y0;
      const within = collect(fields, y, parity, bu, bv, reach, table, taps);
      // Rows of a block of the full size, eight bits: the kind that most samples are of. The last eight of a run may reach beyond it.
      if (within && bytes === 1 && begin - furthest >= 0 && end + 8 + furthest <= width) {
        const to = out + <usize>y * line;
        const four = blockHeight === BLOCK && y + 6 < bottom;
        const two = blockHeight === BLOCK / 2 && y + 2 < bottom;
        for (let p = 0; p < planes; p++) {
          const by = <usize>(p * width * height);
          if (four) makeFour(begin, end, to + by, by);
          else if (two) makeTwo(begin, end, to + by, by);
        }
        y += four ? 8 : two ? 4 : 0;
      }
      for (; y < bottom; y += 2) {
        if (y > y0) collect(fields, y, parity, bu, bv, reach, table, taps);
        for (let p = 0; p < planes; p++) {
          const by = <usize>(p * width * height * bytes);
          makeRow(begin, end, furthest, out + <usize>y * line + by, by);
        }
      }
      begin = end;
    }
  }
}
