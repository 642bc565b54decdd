import { PAD } from './sample';

/** Vectors carried to a moment between two pictures, and the picture made of them. See core/motion/moment.ts and warp.ts. */
/** Cost of a vector that the other picture does not confirm: it stands behind every one that is. */
const BEHIND: f32 = 1000;
/** A vector counts for samples this near to where it was carried, across and down. */
const NEAR: f32 = 0.75;
/** A vector that costs less than this leaves hardly anything over: no other one is looked at. */
const GOOD: f32 = 1;
const THREES: u32 = 0x03030303;

/**
 * Carries a field's vectors along themselves to a moment; the best of those that meet at a sample stays.
 * @param step share of the way, 0 to 1
 * @param sign -1 for the field that leads from the second picture to the first: what is kept leads from the first to the second
 * @param bit 1 for the first picture, 2 for the second: which one shows an unconfirmed sample
 * @param cost f32, who u8: width * height; before the first field cost is large and who 0
 */
export function carryVectors(
  u: usize,
  v: usize,
  err: usize,
  marks: usize,
  width: i32,
  height: i32,
  stride: i32,
  step: f32,
  sign: f32,
  bit: u8,
  toU: usize,
  toV: usize,
  cost: usize,
  who: usize,
): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * stride + x;
      const du = load<f32>(u + ((<usize>at) << 2));
      const dv = load<f32>(v + ((<usize>at) << 2));
      const px = <f32>x + step * du;
      const py = <f32>y + step * dv;
      if (!(px > -1 && py > -1 && px < <f32>width && py < <f32>height)) continue;
      // Where a good one stands already, the other field has nothing better to say.
      if (sign < 0) {
        const nx = <i32>Mathf.floor(px + 0.5);
        const ny = <i32>Mathf.floor(py + 0.5);
        const to = ny * width + nx;
        if (nx >= 0 && ny >= 0 && nx < width && ny < height && load<f32>(cost + ((<usize>to) << 2)) < GOOD) continue;
      }
      const mark = load<u8>(marks + <usize>(y * width + x));
      const base: f32 = mark !== 0 ? BEHIND : <f32>load<u16>(err + ((<usize>at) << 1)) / 100;
      const whose: u8 = mark === 0 ? 3 : mark === 3 ? 4 : bit;
      const left = max(0, <i32>Mathf.ceil(px - NEAR));
      const right = min(width - 1, <i32>Mathf.floor(px + NEAR));
      const bottom = min(height - 1, <i32>Mathf.floor(py + NEAR));
      for (let ty = max(0, <i32>Mathf.ceil(py - NEAR)); ty <= bottom; ty++) {
        const offY = base + Mathf.abs(<f32>ty - py);
        for (let tx = left; tx <= right; tx++) {
          const price = offY + Mathf.abs(<f32>tx - px);
          const to = ty * width + tx;
          if (price >= load<f32>(cost + ((<usize>to) << 2))) continue;
          store<f32>(cost + ((<usize>to) << 2), price);
          store<u8>(who + <usize>to, whose);
          const there = (<usize>(ty * stride + tx)) << 2;
          store<f32>(toU + there, du * sign);
          store<f32>(toV + there, dv * sign);
        }
      }
    }
  }
}

/** Where nothing was carried to: marked for filling, and both pictures show it. @returns how many there are */
export function markHoles(who: usize, marks: usize, cost: usize, length: i32): i32 {
  let holes = 0;
  for (let i = 0; i < length; i++) {
    const hole = load<u8>(who + <usize>i) === 0;
    store<u8>(marks + <usize>i, hole ? 1 : 0);
    if (!hole) continue;
    holes++;
    store<u8>(who + <usize>i, 4);
    store<f32>(cost + ((<usize>i) << 2), BEHIND);
  }
  return holes;
}

/**
 * The second picture's share in 256ths at each sample, from which pictures show it and its neighbours; and how far each
 * sample may be wrong, as an expected squared error.
 * @param share u16, risk f32: width * height, written
 * @returns sum of the risks
 */
export function weigh(who: usize, cost: usize, width: i32, height: i32, t: f32, share: usize, risk: usize): f64 {
  let total: f64 = 0;
  const even = <u16>(<i32>(<f32>256 * t + <f32>0.5));
  for (let y = 0; y < height; y++) {
    const inner = y > 0 && y < height - 1;
    for (let x = 0; x < width; x++) {
      const own = y * width + x;
      // Three threes in a row, three times: all around is shown by both.
      if (inner && x > 0 && x < width - 2) {
        const at = who + <usize>(own - 1);
        const rows = (load<u32>(at - <usize>width) ^ THREES) | (load<u32>(at) ^ THREES) | (load<u32>(at + <usize>width) ^ THREES);
        if ((rows & 0xffffff) === 0) {
          const e = load<f32>(cost + ((<usize>own) << 2));
          store<u16>(share + ((<usize>own) << 1), even);
          store<f32>(risk + ((<usize>own) << 2), e * e * 0.25);
          total += <f64>(e * e * 0.25);
          continue;
        }
      }
      let first = 0;
      let second = 0;
      for (let j = max(0, y - 1); j <= min(height - 1, y + 1); j++) {
        for (let i = max(0, x - 1); i <= min(width - 1, x + 1); i++) {
          const k = <i32>load<u8>(who + <usize>(j * width + i));
          first += k === 1 || k > 2 ? 1 : 0;
          second += k >= 2 ? 1 : 0;
        }
      }
      const at = y * width + x;
      const b = <f32>second * t;
      store<u16>(share + ((<usize>at) << 1), <u16>(<i32>((<f32>256 * b) / (<f32>first * (1 - t) + b) + 0.5)));
      const k = load<u8>(who + <usize>at);
      const e = load<f32>(cost + ((<usize>at) << 2));
      const r: f32 = k === 3 ? e * e * 0.25 : k === 4 ? 144 : 64;
      store<f32>(risk + ((<usize>at) << 2), r);
      total += <f64>r;
    }
  }
  return total;
}

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

/** Samples 0 1 2 3 of a row for a sample, 1 2 3 4 for its right neighbour: sums across of each, as two halves, twice. */
function pairAcross(at: usize, h: v128): v128 {
  const bytes = v128.load64_zero(at);
  const both = i8x16.shuffle(bytes, bytes, 0, 1, 2, 3, 1, 2, 3, 4, 0, 0, 0, 0, 0, 0, 0, 0);
  const sums = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(both), h);
  return i16x8.narrow_i32x4_s(sums, sums);
}

/** Two rows of four sums, woven. */
function woven(a: v128, b: v128): v128 {
  return i8x16.shuffle(a, b, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23);
}

/** Two by two samples that share a vector, times 4096: across (x, x + 1), then the row below. Five rows of five are read. */
function cubicFour(plane: usize, stride: usize, x: i32, y: i32, table: usize): v128 {
  const at = plane + <usize>((y >> 6) - 1) * stride + <usize>((x >> 6) - 1);
  const h = taps(table, x & 63);
  const down = table + ((<usize>(y & 63)) << 3);
  const first = v128.load32_splat(down);
  const last = v128.load32_splat(down, 4);
  const r0 = pairAcross(at, h);
  const r1 = pairAcross(at + stride, h);
  const r2 = pairAcross(at + 2 * stride, h);
  const r3 = pairAcross(at + 3 * stride, h);
  const r4 = pairAcross(at + 4 * stride, h);
  const upper = i32x4.add(i32x4.dot_i16x8_s(woven(r0, r1), first), i32x4.dot_i16x8_s(woven(r2, r3), last));
  const lower = i32x4.add(i32x4.dot_i16x8_s(woven(r1, r2), first), i32x4.dot_i16x8_s(woven(r3, r4), last));
  const evens = i8x16.shuffle(upper, lower, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27);
  const odds = i8x16.shuffle(upper, lower, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31);
  return i32x4.add(evens, odds);
}

/** 10- and 12-bit samples: sums across take 32 bits. */
function cubic16(plane: usize, line: usize, x: i32, y: i32, table: usize): i32 {
  const at = plane + <usize>((y >> 6) - 1) * line + ((<usize>((x >> 6) - 1)) << 1);
  const h = taps(table, x & 63);
  const low = i32x4.dot_i16x8_s(v128.load64_lane(at + line, v128.load64_zero(at), 1), h);
  const high = i32x4.dot_i16x8_s(v128.load64_lane(at + 3 * line, v128.load64_zero(at + 2 * line), 1), h);
  return summed(low, high, taps(table, y & 63));
}

/**
 * Makes one plane: each sample is taken from both pictures along its vector and mixed by the share.
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
  const fours = bytes === 1 && shiftX === 1 && shiftY === 1;
  for (let y = 0; y < planeHeight; y++) {
    const fy = min(height - 1, y >> shiftY);
    const two = fours && (y & 1) === 0 && y + 1 < planeHeight;
    // The lower rows of fours are there already, but for an odd last column.
    for (let x = fours && (y & 1) === 1 ? planeWidth & ~1 : 0; x < planeWidth; x++) {
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
      if (two && x + 1 < planeWidth) {
        const p = s === 256 ? i32x4.splat(0) : cubicFour(a, line, ax, ay, table);
        const q = s === 0 ? i32x4.splat(0) : cubicFour(b, line, bx, by, table);
        const mixed = i32x4.add(
          i32x4.mul(i32x4.shr_s(p, 4), i32x4.splat(256 - s)),
          i32x4.add(i32x4.mul(i32x4.shr_s(q, 4), i32x4.splat(s)), i32x4.splat(32768)),
        );
        const four = i16x8.narrow_i32x4_s(i32x4.shr_s(mixed, 16), mixed);
        const small = i8x16.narrow_i16x8_u(four, four);
        const at = out + <usize>(y * planeWidth + x);
        v128.store16_lane(at, small, 0);
        v128.store16_lane(at + <usize>planeWidth, small, 1);
        x++;
        continue;
      }
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
