import { PAD } from './sample';

/**
 * Planes of a picture between two: each sample is taken from both pictures along its vector, by 4x4 taps (Keys 1981, a = -0.5),
 * and mixed by the share. See core/motion/warp.ts. Places are counted in 64ths of a sample.
 */

function summed(low: v128, high: v128, down: v128): i32 {
  const twice = i8x16.shuffle(down, down, 0, 1, 0, 1, 2, 3, 2, 3, 0, 0, 0, 0, 0, 0, 0, 0);
  const rest = i8x16.shuffle(down, down, 4, 5, 4, 5, 6, 7, 6, 7, 0, 0, 0, 0, 0, 0, 0, 0);
  const sum = i32x4.add(i32x4.mul(low, i32x4.extend_low_i16x8_s(twice)), i32x4.mul(high, i32x4.extend_low_i16x8_s(rest)));
  const half = i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return i32x4.extract_lane(half, 0) + i32x4.extract_lane(half, 1);
}

function taps(table: usize, phase: i32): v128 {
  return v128.load64_splat(table + ((<usize>phase) << 3));
}

/**
 * A sample between whole places by 4x4 taps (Keys 1981, a = -0.5); x and y in 64ths, inside the margin. Times 4096. Sums across
 * fit 16 bits (255 by 80), so that those down are made of pairs, too.
 */
function cubic8(plane: usize, stride: usize, x: i32, y: i32, table: usize): i32 {
  const at = plane + <usize>((y >> 6) - 1) * stride + <usize>((x >> 6) - 1);
  const h = taps(table, x & 63);
  const first = v128.load32_lane(at + stride, v128.load32_zero(at), 1);
  const last = v128.load32_lane(at + 3 * stride, v128.load32_zero(at + 2 * stride), 1);
  const low = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(first), h);
  const high = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(last), h);
  const v = taps(table, y & 63);
  const down = i8x16.shuffle(v, v, 0, 1, 0, 1, 2, 3, 2, 3, 4, 5, 4, 5, 6, 7, 6, 7);
  const sum = i32x4.dot_i16x8_s(i16x8.narrow_i32x4_s(low, high), down);
  const half = i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return i32x4.extract_lane(half, 0) + i32x4.extract_lane(half, 1);
}

/** Half of what 16 bits hold. */
const HALF: i32 = 0x8000;

/** Samples of 9 to 16 bits: sums across take 32 bits. Pairs are made of signed ones, so all are taken from the middle; taps sum up to 64 each way. */
function cubic16(plane: usize, line: usize, x: i32, y: i32, table: usize): i32 {
  const at = plane + <usize>((y >> 6) - 1) * line + ((<usize>((x >> 6) - 1)) << 1);
  const h = taps(table, x & 63);
  const half = i16x8.splat(<i16>HALF);
  const low = i32x4.dot_i16x8_s(v128.xor(half, v128.load64_lane(at + line, v128.load64_zero(at), 1)), h);
  const high = i32x4.dot_i16x8_s(v128.xor(half, v128.load64_lane(at + 3 * line, v128.load64_zero(at + 2 * line), 1)), h);
  return summed(low, high, taps(table, y & 63)) + (HALF << 12);
}

/**
 * Where a row of vectors leads, four at once: byte offsets of the first tap's sample, and taps (across << 3 | down << 9).
 * @param every samples of the plane from one vector to the next, y the plane's row
 * @param work i32: offsets in the first picture, taps there, offsets in the second one, taps there; `most` of each
 */
function lead(
  u: usize,
  v: usize,
  count: i32,
  most: i32,
  every: i32,
  y: i32,
  scaleX: f32,
  scaleY: f32,
  t: f32,
  planeWidth: i32,
  planeHeight: i32,
  planeStride: i32,
  work: usize,
): void {
  const least = i32x4.splat((2 - PAD) << 6);
  const mostX = i32x4.splat((planeWidth + PAD - 12) << 6);
  const mostY = i32x4.splat((planeHeight + PAD - 4) << 6);
  const half = f32x4.splat(0.5);
  const phases = i32x4.splat(63);
  const stride = i32x4.splat(planeStride);
  const sizeX = f32x4.splat(scaleX);
  const sizeY = f32x4.splat(scaleY);
  const step = i32x4.splat((4 * every) << 6);
  const row = i32x4.splat(y << 6);
  const one = i32x4.splat(1);
  for (let way = 0; way < 2; way++) {
    const along = f32x4.splat(way === 0 ? -t * 64 : (<f32>1 - t) * 64);
    let here = i32x4.mul(i32x4(0, 1, 2, 3), i32x4.splat(every << 6));
    let to = work + ((<usize>(way * 2 * most)) << 2);
    const line = (<usize>most) << 2;
    for (let i = 0; i < count; i += 4) {
      const du = f32x4.mul(f32x4.mul(v128.load(u + ((<usize>i) << 2)), sizeX), along);
      const dv = f32x4.mul(f32x4.mul(v128.load(v + ((<usize>i) << 2)), sizeY), along);
      let x = i32x4.add(here, i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(du, half))));
      let yy = i32x4.add(row, i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(dv, half))));
      x = i32x4.max_s(least, i32x4.min_s(mostX, x));
      yy = i32x4.max_s(least, i32x4.min_s(mostY, yy));
      const first = i32x4.add(i32x4.mul(i32x4.sub(i32x4.shr_s(yy, 6), one), stride), i32x4.sub(i32x4.shr_s(x, 6), one));
      v128.store(to, first);
      v128.store(to + line, v128.or(i32x4.shl(v128.and(x, phases), 3), i32x4.shl(v128.and(yy, phases), 9)));
      here = i32x4.add(here, step);
      to += 16;
    }
  }
}

/** Two by two samples that share a vector, times 4096: across (x, x + 1), then the row below. Five rows of eight are read. */
function four(at: usize, line: usize, table: usize, which: i32): v128 {
  const h = v128.load64_splat(table + <usize>(which & 0x1f8));
  const down = table + <usize>((which >> 6) & 0x1f8);
  const t0 = v128.load16_splat(down);
  const t1 = v128.load16_splat(down, 2);
  const t2 = v128.load16_splat(down, 4);
  const t3 = v128.load16_splat(down, 6);
  const r1 = v128.load8x8_u(at + line);
  const r2 = v128.load8x8_u(at + 2 * line);
  const r3 = v128.load8x8_u(at + 3 * line);
  // Sums down fit 16 bits: 255 by 80 at most.
  const upper = i16x8.add(
    i16x8.add(i16x8.mul(v128.load8x8_u(at), t0), i16x8.mul(r1, t1)),
    i16x8.add(i16x8.mul(r2, t2), i16x8.mul(r3, t3)),
  );
  const lower = i16x8.add(
    i16x8.add(i16x8.mul(r1, t0), i16x8.mul(r2, t1)),
    i16x8.add(i16x8.mul(r3, t2), i16x8.mul(v128.load8x8_u(at + 4 * line), t3)),
  );
  const above = i32x4.dot_i16x8_s(i8x16.shuffle(upper, upper, 0, 1, 2, 3, 4, 5, 6, 7, 2, 3, 4, 5, 6, 7, 8, 9), h);
  const below = i32x4.dot_i16x8_s(i8x16.shuffle(lower, lower, 0, 1, 2, 3, 4, 5, 6, 7, 2, 3, 4, 5, 6, 7, 8, 9), h);
  return i32x4.add(
    i8x16.shuffle(above, below, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27),
    i8x16.shuffle(above, below, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31),
  );
}

/** One sample of two planes that lie alike, times 4096, in the first two lanes. */
function pair(one: usize, other: usize, line: usize, table: usize, which: i32): v128 {
  const h = v128.load64_splat(table + <usize>(which & 0x1f8));
  const v = v128.load64_zero(table + <usize>((which >> 6) & 0x1f8));
  const r0 = v128.load32_lane(other, v128.load32_zero(one), 1);
  const r1 = v128.load32_lane(other + line, v128.load32_zero(one + line), 1);
  const r2 = v128.load32_lane(other + 2 * line, v128.load32_zero(one + 2 * line), 1);
  const r3 = v128.load32_lane(other + 3 * line, v128.load32_zero(one + 3 * line), 1);
  const upper = i16x8.narrow_i32x4_s(
    i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(r0), h),
    i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(r1), h),
  );
  const lower = i16x8.narrow_i32x4_s(
    i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(r2), h),
    i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(r3), h),
  );
  const sum = i32x4.add(
    i32x4.dot_i16x8_s(upper, i8x16.shuffle(v, v, 0, 1, 0, 1, 0, 1, 0, 1, 2, 3, 2, 3, 2, 3, 2, 3)),
    i32x4.dot_i16x8_s(lower, i8x16.shuffle(v, v, 4, 5, 4, 5, 4, 5, 4, 5, 6, 7, 6, 7, 6, 7, 6, 7)),
  );
  return i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
}

/** Four sums of shares of 256 as bytes, in the first four lanes. */
function bytesOf(sum: v128): v128 {
  const words = i32x4.shr_s(sum, 16);
  const narrow = i16x8.narrow_i32x4_s(words, words);
  return i8x16.narrow_i16x8_u(narrow, narrow);
}

/**
 * Makes a plane of 8-bit samples with twice the field's size each way, four samples a vector.
 * @param planeWidth, planeHeight odd ones end in half a vector's samples
 * @param work 16 bytes for each vector of a row and of three more
 */
export function makeFours(
  a: usize,
  b: usize,
  planeWidth: i32,
  planeHeight: i32,
  planeStride: i32,
  u: usize,
  v: usize,
  width: i32,
  height: i32,
  stride: i32,
  share: usize,
  t: f32,
  table: usize,
  out: usize,
  work: usize,
): void {
  const line = <usize>planeStride;
  const most = (width + 3) & ~3;
  const line4 = (<usize>most) << 2;
  for (let fy = 0; fy < height; fy++) {
    const y = 2 * fy;
    const from = (<usize>(fy * stride)) << 2;
    lead(u + from, v + from, width, most, 2, y, 2, 2, t, planeWidth, planeHeight, planeStride, work);
    let to = out + <usize>(y * planeWidth);
    const both = y + 1 < planeHeight;
    let shares = share + ((<usize>(fy * width)) << 1);
    for (let fx = 0; fx < width; fx++) {
      const place = work + ((<usize>fx) << 2);
      const s = <i32>load<u16>(shares);
      shares += 2;
      let sum = i32x4.splat(32768);
      for (let way = 0; way < 2; way++) {
        const part = way === 0 ? 256 - s : s;
        if (part === 0) continue;
        const led = place + <usize>(2 * way) * line4;
        const at = (way === 0 ? a : b) + <usize>load<i32>(led);
        sum = i32x4.add(sum, i32x4.mul(i32x4.shr_s(four(at, line, table, load<i32>(led + line4)), 4), i32x4.splat(part)));
      }
      const small = bytesOf(sum);
      if (2 * fx + 1 < planeWidth) {
        v128.store16_lane(to, small, 0);
        if (both) v128.store16_lane(to + <usize>planeWidth, small, 1);
      } else {
        v128.store8_lane(to, small, 0);
        if (both) v128.store8_lane(to + <usize>planeWidth, small, 2);
      }
      to += 2;
    }
  }
}

/** Makes two planes of 8-bit samples that lie as the field's samples do, `a2`, `b2` and `out2` of the second one. Their places are worked out once. */
export function makePairs(
  a: usize,
  a2: usize,
  b: usize,
  b2: usize,
  planeWidth: i32,
  planeHeight: i32,
  planeStride: i32,
  u: usize,
  v: usize,
  width: i32,
  stride: i32,
  share: usize,
  t: f32,
  table: usize,
  out: usize,
  out2: usize,
  work: usize,
): void {
  const line = <usize>planeStride;
  const most = (planeWidth + 3) & ~3;
  const line4 = (<usize>most) << 2;
  for (let y = 0; y < planeHeight; y++) {
    const from = (<usize>(y * stride)) << 2;
    lead(u + from, v + from, planeWidth, most, 1, y, 1, 1, t, planeWidth, planeHeight, planeStride, work);
    const row = <usize>(y * planeWidth);
    const shares = share + ((<usize>(y * width)) << 1);
    for (let x = 0; x < planeWidth; x++) {
      const place = work + ((<usize>x) << 2);
      const s = <i32>load<u16>(shares + ((<usize>x) << 1));
      let sum = i32x4.splat(32768);
      for (let way = 0; way < 2; way++) {
        const part = way === 0 ? 256 - s : s;
        if (part === 0) continue;
        const led = place + <usize>(2 * way) * line4;
        const at = <usize>load<i32>(led);
        const both = pair((way === 0 ? a : b) + at, (way === 0 ? a2 : b2) + at, line, table, load<i32>(led + line4));
        sum = i32x4.add(sum, i32x4.mul(i32x4.shr_s(both, 4), i32x4.splat(part)));
      }
      const small = bytesOf(sum);
      v128.store8_lane(out + row + <usize>x, small, 0);
      v128.store8_lane(out2 + row + <usize>x, small, 1);
    }
  }
}

/**
 * Makes one plane of any kind: each sample is taken from both pictures along its vector and mixed by the share.
 * @param a, b first samples of the planes, `wide` samples of `bytes` each; margins of PAD
 * @param out packed, planeWidth * planeHeight samples
 * @param shiftX, shiftY how often a field's sample is met: sample x of the plane lies at x >> shiftX of the field
 * @param scaleX, scaleY samples of the plane a sample of the field is long
 * @param table i16, 65 rows of 4 taps, sums 64
 */
export function makePlane(
  a: usize,
  b: usize,
  planeWidth: i32,
  planeHeight: i32,
  planeStride: i32,
  bytes: i32,
  most: i32,
  u: usize,
  v: usize,
  width: i32,
  height: i32,
  stride: i32,
  share: usize,
  shiftX: i32,
  shiftY: i32,
  scaleX: f32,
  scaleY: f32,
  t: f32,
  table: usize,
  out: usize,
): void {
  const line = <usize>(planeStride * bytes);
  const least = i32x4.splat((2 - PAD) << 6);
  const mostX = (planeWidth + PAD - 12) << 6;
  const mostY = (planeHeight + PAD - 4) << 6;
  const most4 = i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(mostX), 1, mostY), 3, mostY);
  const toB: f32 = (<f32>1 - t) * 64;
  const ways = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(-t * 64), 2, toB), 3, toB);
  for (let y = 0; y < planeHeight; y++) {
    const fy = min(height - 1, y >> shiftY);
    for (let x = 0; x < planeWidth; x++) {
      const fx = min(width - 1, x >> shiftX);
      const at = (<usize>(fy * stride + fx)) << 2;
      const s = <i32>load<u16>(share + ((<usize>(fy * width + fx)) << 1));
      const du = load<f32>(u + at) * scaleX;
      const dv = load<f32>(v + at) * scaleY;
      const way = f32x4.mul(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(du), 1, dv), 3, dv), ways);
      const here = i32x4.shl(i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(x), 1, y), 3, y), 6);
      const there = i32x4.add(here, i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(way, f32x4.splat(0.5)))));
      const inside = i32x4.max_s(least, i32x4.min_s(most4, there));
      const ax = i32x4.extract_lane(inside, 0);
      const ay = i32x4.extract_lane(inside, 1);
      const bx = i32x4.extract_lane(inside, 2);
      const by = i32x4.extract_lane(inside, 3);
      let value: i32;
      if (bytes === 1) {
        const p = s === 256 ? 0 : cubic8(a, line, ax, ay, table);
        const q = s === 0 ? 0 : cubic8(b, line, bx, by, table);
        value = ((p >> 4) * (256 - s) + (q >> 4) * s + 32768) >> 16;
        store<u8>(out + <usize>(y * planeWidth + x), <u8>max(0, min(most, value)));
      } else {
        const p = s === 256 ? 0 : cubic16(a, line, ax, ay, table);
        const q = s === 0 ? 0 : cubic16(b, line, bx, by, table);
        value = ((p >> 6) * (256 - s) + (q >> 6) * s + 8192) >> 14;
        store<u16>(out + ((<usize>(y * planeWidth + x)) << 1), <u16>max(0, min(most, value)));
      }
    }
  }
}
