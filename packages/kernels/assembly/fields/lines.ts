/** Lines between a field's own, made along motion; core/fields/rebuild.ts has the same in readable TypeScript. */

import { BLOCK, PARTS } from './search';
import { FAR, FARTHEST, OWN } from './sources';

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
