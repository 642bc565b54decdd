/** Made lines along edges where motion cannot tell them; core/fields/edges.ts has the same in readable TypeScript, with reasons. */

import { BLOCK } from './search';

const SHIFTS = 3;
const SHIFT_COST = 2;
const AROUND = 4;
const CONTRAST: i16 = 16;
const CLEARLY: i16 = 24;
const BEFORE = AROUND + 3 * SHIFTS;
const BEHIND = 8 + AROUND + 3 * SHIFTS;

/** The picture: bytes of a sample and of a line, and what lies under eight bits. */
let size: usize = 1;
let line: usize = 0;
let below8: i32 = 0;
/** The shift of each of the eight samples that was best so far, and which are taken. */
let bestShift: v128 = i16x8.splat(0);
let taken: v128 = i16x8.splat(0);

/** Room to read the lanes of both one by one. */
const lanes = memory.data(32, 16);

/** Sixteen samples as steps of eight bits. */
function sixteen(from: usize): v128 {
  if (size === 1) return v128.load(from);
  return i8x16.narrow_i16x8_u(i16x8.shr_u(v128.load(from), below8), i16x8.shr_u(v128.load(from, 16), below8));
}

function apart(a: v128, b: v128): v128 {
  return v128.or(i8x16.sub_sat_u(a, b), i8x16.sub_sat_u(b, a));
}

/** What a shift leaves over at eight samples, each with AROUND beside it. @param at the first of them, in the line that is made */
function costs(at: usize, shift: i32): v128 {
  // isize: shifts go either way.
  const first = <isize>at - <isize>(AROUND * size);
  const by = <isize>shift * <isize>size;
  const a = sixteen(<usize>(first - <isize>line + by));
  const b = sixteen(<usize>(first + <isize>line - by));
  const across = apart(a, b);
  const over = apart(sixteen(<usize>(first - 3 * <isize>line + 3 * by)), a);
  const under = apart(sixteen(<usize>(first + 3 * <isize>line - 3 * by)), b);
  // Sums of nine beside each other: of two, of four, of eight, and one.
  let low = i16x8.add(
    i16x8.extend_low_i8x16_u(across),
    i16x8.add(i16x8.extend_low_i8x16_u(over), i16x8.extend_low_i8x16_u(under)),
  );
  let high = i16x8.add(
    i16x8.extend_high_i8x16_u(across),
    i16x8.add(i16x8.extend_high_i8x16_u(over), i16x8.extend_high_i8x16_u(under)),
  );
  const ninth = high;
  const none = i16x8.splat(0);
  low = i16x8.add(low, i16x8.shuffle(low, high, 1, 2, 3, 4, 5, 6, 7, 8));
  high = i16x8.add(high, i16x8.shuffle(high, none, 1, 2, 3, 4, 5, 6, 7, 8));
  low = i16x8.add(low, i16x8.shuffle(low, high, 2, 3, 4, 5, 6, 7, 8, 9));
  high = i16x8.add(high, i16x8.shuffle(high, none, 2, 3, 4, 5, 6, 7, 8, 9));
  low = i16x8.add(low, i16x8.shuffle(low, high, 4, 5, 6, 7, 8, 9, 10, 11));
  return i16x8.add(low, ninth);
}

/** Chooses shifts for eight samples. @returns whether any is taken along an edge */
function choose(at: usize): bool {
  const before = at - <usize>(AROUND * size);
  const contrast = i16x8.extend_low_i8x16_u(
    i8x16.shuffle(
      apart(sixteen(before - line), sixteen(before + line)),
      i8x16.splat(0),
      4,
      5,
      6,
      7,
      8,
      9,
      10,
      11,
      0,
      0,
      0,
      0,
      0,
      0,
      0,
      0,
    ),
  );
  const edge = i16x8.ge_u(contrast, i16x8.splat(CONTRAST));
  if (!v128.any_true(edge)) return false;
  const straight = costs(at, 0);
  const clear = i16x8.gt_u(straight, i16x8.splat(CLEARLY));
  if (!v128.any_true(v128.and(edge, clear))) return false;
  let least = straight;
  bestShift = i16x8.splat(0);
  for (let shift = -SHIFTS; shift <= SHIFTS; shift++) {
    if (shift === 0) continue;
    const cost = i16x8.add(costs(at, shift), i16x8.splat(<i16>(SHIFT_COST * abs(shift))));
    const less = i16x8.lt_u(cost, least);
    bestShift = v128.bitselect(i16x8.splat(<i16>shift), bestShift, less);
    least = i16x8.min_u(least, cost);
  }
  const far = i16x8.lt_u(i16x8.add(i16x8.shl(least, 1), i16x8.splat(CLEARLY)), straight);
  taken = v128.and(v128.and(far, edge), i16x8.ne(bestShift, i16x8.splat(0)));
  return v128.any_true(taken);
}

function sample(at: usize): i32 {
  return size === 1 ? <i32>load<u8>(at) : <i32>load<u16>(at);
}

/** One sample, along the edge that was found for it. */
function take(at: usize, shift: i32): void {
  const by = <isize>shift * <isize>size;
  const near = sample(<usize>(<isize>(at - line) + by)) + sample(<usize>(<isize>(at + line) - by));
  const far = sample(<usize>(<isize>(at - 3 * line) + 3 * by)) + sample(<usize>(<isize>(at + 3 * line) - 3 * by));
  const above = sample(at - line);
  const under = sample(at + line);
  const value = max(min(above, under), min(max(above, under), (9 * near - far + 8) >> 4));
  if (size === 1) store<u8>(at, <u8>value);
  else store<u16>(at, <u16>value);
}

/** @param picture luma, written @param v i16, and sources u8, one a block @param hides u8, by source and phase: whether fields cannot show the missing lines */
export function alongEdges(
  picture: usize,
  width: i32,
  height: i32,
  parity: i32,
  bytes: i32,
  bits: i32,
  columns: i32,
  rows: i32,
  v: usize,
  sources: usize,
  hides: usize,
): void {
  size = <usize>bytes;
  line = <usize>width * size;
  below8 = bits - 8;
  for (let r = 0; r < rows; r++) {
    const top = r * BLOCK;
    const first = max(3, top + (((top & 1) ^ parity) & 1 ? 0 : 1));
    const end = min(height - 3, top + BLOCK);
    for (let c = 0; c < columns; c++) {
      const left = c * BLOCK;
      if (left < BEFORE + 3 || left + BEHIND > width) continue;
      const block = <usize>(r * columns + c);
      const phase = (<i32>load<i16>(v + (block << 1)) >> 1) & 31;
      if (load<u8>(hides + <usize>(<i32>load<u8>(sources + block) * 32 + phase)) === 0) continue;
      for (let y = first + (((first & 1) ^ parity) & 1 ? 0 : 1); y < end; y += 2) {
        const at = picture + <usize>y * line + <usize>left * size;
        if (!choose(at)) continue;
        v128.store(lanes, taken);
        v128.store(lanes, bestShift, 16);
        for (let i: usize = 0; i < 8; i++) {
          if (load<i16>(lanes + (i << 1)) !== 0) take(at + i * size, <i32>load<i16>(lanes + (i << 1), 16));
        }
      }
    }
  }
}
