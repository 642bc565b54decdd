/** Vectors carried to a moment between two pictures, and the picture made of them. See core/motion/moment.ts and warp.ts. */
const PAD = 32;
/** Cost of a vector that the other picture does not confirm: it stands behind every one that is. */
const BEHIND: f32 = 1000;

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
      const marked = load<u8>(marks + <usize>(y * width + x)) !== 0;
      const base: f32 = marked ? BEHIND : <f32>load<u16>(err + ((<usize>at) << 1)) / 100;
      const whose: u8 = marked ? bit : 3;
      const ix = <i32>Mathf.floor(px);
      const iy = <i32>Mathf.floor(py);
      for (let j = 0; j < 2; j++) {
        const ty = iy + j;
        if (ty < 0 || ty >= height) continue;
        const offY = Mathf.abs(<f32>ty - py);
        for (let i = 0; i < 2; i++) {
          const tx = ix + i;
          const off = Mathf.abs(<f32>tx - px) + offY;
          if (tx < 0 || tx >= width || off >= 1.2) continue;
          const to = ty * width + tx;
          const price = base + off;
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
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
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

function rows8(at: usize, line: usize): v128 {
  return v128.load32_lane(at + line, v128.load32_zero(at), 1);
}

function taps(table: usize, phase: i32): v128 {
  return v128.load64_splat(table + ((<usize>phase) << 3));
}

function summed(low: v128, high: v128, down: v128): i32 {
  const twice = i8x16.shuffle(down, down, 0, 1, 0, 1, 2, 3, 2, 3, 0, 0, 0, 0, 0, 0, 0, 0);
  const rest = i8x16.shuffle(down, down, 4, 5, 4, 5, 6, 7, 6, 7, 0, 0, 0, 0, 0, 0, 0, 0);
  const sum = i32x4.add(i32x4.mul(low, i32x4.extend_low_i16x8_s(twice)), i32x4.mul(high, i32x4.extend_low_i16x8_s(rest)));
  const half = i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return i32x4.extract_lane(half, 0) + i32x4.extract_lane(half, 1);
}

/** A sample between whole places by 4x4 taps (Keys 1981, a = -0.5); x and y in 64ths, inside the margin. Times 4096. */
function cubic8(plane: usize, stride: usize, x: i32, y: i32, table: usize): i32 {
  const at = plane + <usize>((y >> 6) - 1) * stride + <usize>((x >> 6) - 1);
  const h = taps(table, x & 63);
  const low = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(rows8(at, stride)), h);
  const high = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(rows8(at + 2 * stride, stride)), h);
  return summed(low, high, taps(table, y & 63));
}

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
  const leastX = (2 - PAD) << 6;
  const leastY = leastX;
  const mostX = (planeWidth + PAD - 12) << 6;
  const mostY = (planeHeight + PAD - 4) << 6;
  const toA: f32 = -t * 64;
  const toB: f32 = (<f32>1 - t) * 64;
  for (let y = 0; y < planeHeight; y++) {
    const fy = min(height - 1, y >> shiftY);
    for (let x = 0; x < planeWidth; x++) {
      const fx = min(width - 1, x >> shiftX);
      const at = (<usize>(fy * stride + fx)) << 2;
      const du = load<f32>(u + at) * scaleX;
      const dv = load<f32>(v + at) * scaleY;
      const s = <i32>load<u16>(share + ((<usize>(fy * width + fx)) << 1));
      const ax = max(leastX, min(mostX, (x << 6) + <i32>Mathf.floor(toA * du + 0.5)));
      const ay = max(leastY, min(mostY, (y << 6) + <i32>Mathf.floor(toA * dv + 0.5)));
      const bx = max(leastX, min(mostX, (x << 6) + <i32>Mathf.floor(toB * du + 0.5)));
      const by = max(leastY, min(mostY, (y << 6) + <i32>Mathf.floor(toB * dv + 0.5)));
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
