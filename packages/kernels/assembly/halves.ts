/** Blocks of halved pictures compared; core/truth/measure/halves.ts says what for. */

import { sumOf } from './tiles';

const BLOCK = 8;

/** Sums of 2 x 2 samples of a picture of bytes. @param to i16, w * h */
export function shrink2(from: usize, width: i32, to: usize, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const at = from + <usize>((y << 1) * width + (x << 1));
      const below = at + <usize>width;
      const sum = <i32>load<u8>(at) + <i32>load<u8>(at, 1) + <i32>load<u8>(below) + <i32>load<u8>(below, 1);
      store<i16>(to + ((<usize>(y * w + x)) << 1), <i16>sum);
    }
  }
}

/**
 * Of each block of 8 x 8 samples of b, and what lies `shift` samples from there in a: the sums of a * a, b * b and a * b. Samples are of at most
 * 1023 either way.
 * @param a, b i16, w to a line
 * @param blocks i32, where each begins in b, in samples
 * @param out i32, three a block
 */
export function blockProducts(a: usize, b: usize, w: i32, shift: i32, blocks: usize, count: i32, out: usize): void {
  const line = (<usize>w) << 1;
  for (let n = 0; n < count; n++) {
    const at = load<i32>(blocks + ((<usize>n) << 2));
    let from = a + ((<isize>(at + shift)) << 1);
    let to = b + ((<usize>at) << 1);
    let aa = i32x4.splat(0);
    let bb = i32x4.splat(0);
    let ab = i32x4.splat(0);
    for (let y = 0; y < BLOCK; y++, from += line, to += line) {
      const p = v128.load(from);
      const q = v128.load(to);
      aa = i32x4.add(aa, i32x4.dot_i16x8_s(p, p));
      bb = i32x4.add(bb, i32x4.dot_i16x8_s(q, q));
      ab = i32x4.add(ab, i32x4.dot_i16x8_s(p, q));
    }
    const place = out + <usize>n * 12;
    store<i32>(place, sumOf(aa));
    store<i32>(place, sumOf(bb), 4);
    store<i32>(place, sumOf(ab), 8);
  }
}
