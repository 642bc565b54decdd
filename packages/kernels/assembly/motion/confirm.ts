/** Which vectors of two fields hold, and what stands where they do not. See core/motion/field.ts. */

/** Four samples of a field, of places that need not lie side by side. */
function gather(field: usize, at: v128): v128 {
  return v128.load32_lane(
    field + <usize>i32x4.extract_lane(at, 3),
    v128.load32_lane(
      field + <usize>i32x4.extract_lane(at, 2),
      v128.load32_lane(field + <usize>i32x4.extract_lane(at, 1), v128.load32_zero(field + <usize>i32x4.extract_lane(at, 0)), 1),
      2,
    ),
    3,
  );
}

function bilinear(a: v128, b: v128, c: v128, d: v128, fx: v128, fy: v128): v128 {
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx));
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx));
  return f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy));
}

/** A slip is at most this long, in samples of the field; its square. */
const SLIP: f32 = 256;
/** A slip is believed this far inside the frame, in samples. */
const EDGE: f32 = 2;
/** Share of the slopes' squares that may lie along a slip. */
const ALONG: f32 = 0.1;
/** How much may be left over there and back, squared and in the slopes' measure. */
const FITS: f32 = 64;

/**
 * Whether a way that does not close slipped along a line or an edge: both ways fit well, and there is hardly a slope along the
 * slip in 5x5 samples.
 * @param left what is left over of both ways, in hundredths
 */
function slipped(luma: usize, stride: i32, ex: f32, ey: f32, left: i32): bool {
  const long = ex * ex + ey * ey;
  if (!(long < SLIP)) return false;
  const line = <usize>stride;
  let xx = i32x4.splat(0);
  let xy = i32x4.splat(0);
  let yy = i32x4.splat(0);
  const five = i16x8(-1, -1, -1, -1, -1, 0, 0, 0);
  let at = luma - 2 * line - 2;
  for (let j = 0; j < 5; j++) {
    const gx = v128.and(five, i16x8.sub(v128.load8x8_u(at, 1), v128.load8x8_u(at - 1)));
    const gy = v128.and(five, i16x8.sub(v128.load8x8_u(at + line), v128.load8x8_u(at - line)));
    xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
    xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
    yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
    at += line;
  }
  const sxx = <f32>lanes(xx);
  const syy = <f32>lanes(yy);
  const all = sxx + syy;
  const along = sxx * ex * ex + 2 * <f32>lanes(xy) * ex * ey + syy * ey * ey;
  return along < ALONG * all * long && <f32>left * <f32>left < FITS * all;
}

function lanes(sum: v128): i32 {
  const half = i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return i32x4.extract_lane(half, 0) + i32x4.extract_lane(half, 1);
}

/**
 * Which vectors the other field does not confirm: 1 where the way there and back does not close, 2 where it leads out of the frame.
 * @param err, backErr u16 fields: what is left over
 * @param luma the picture the vectors begin in
 * @param marks u8 field without margins, width a row, written
 * @param work 48 bytes
 */
export function unconfirmed(
  u: usize,
  v: usize,
  err: usize,
  backU: usize,
  backV: usize,
  backErr: usize,
  luma: usize,
  lumaStride: i32,
  width: i32,
  height: i32,
  stride: i32,
  marks: usize,
  work: usize,
): void {
  const line = (<usize>stride) << 2;
  const right = <f32>width - 0.5;
  const bottom = <f32>height - 0.5;
  const right4 = f32x4.splat(right);
  const bottom4 = f32x4.splat(bottom);
  const low = f32x4.splat(-0.5);
  const zero = f32x4.splat(0);
  const hair = f32x4.splat(0.03);
  const edge = f32x4.splat(EDGE);
  const edgeX = f32x4.splat(<f32>width - 1 - EDGE);
  const edgeY = f32x4.splat(<f32>height - 1 - EDGE);
  const lastX = f32x4.splat(<f32>width - 1);
  const lastY = f32x4.splat(<f32>height - 1);
  const ramp = i32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    const ownY = f32x4.splat(<f32>y);
    for (let x = 0; x < width; x += 4) {
      const at = (<usize>(y * stride + x)) << 2;
      const du = v128.load(u + at);
      const dv = v128.load(v + at);
      const px = f32x4.add(f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(x), ramp)), du);
      const py = f32x4.add(ownY, dv);
      const inside = v128.and(
        v128.and(f32x4.ge(px, low), f32x4.ge(py, low)),
        v128.and(f32x4.le(px, right4), f32x4.le(py, bottom4)),
      );
      // Where a vector leads past the last sample, the margin repeats it.
      const qx = f32x4.max(zero, f32x4.min(lastX, px));
      const qy = f32x4.max(zero, f32x4.min(lastY, py));
      // What hardly moves at all lands on this side or that of a sample: a little before it counts as at it.
      const ix = i32x4.trunc_sat_f32x4_s(f32x4.add(qx, hair));
      const iy = i32x4.trunc_sat_f32x4_s(f32x4.add(qy, hair));
      const fx = f32x4.sub(qx, f32x4.convert_i32x4_s(ix));
      const fy = f32x4.sub(qy, f32x4.convert_i32x4_s(iy));
      const places = i32x4.shl(i32x4.add(i32x4.mul(iy, i32x4.splat(stride)), ix), 2);
      const first = <usize>i32x4.extract_lane(places, 0);
      let bu: v128;
      let bv: v128;
      if (i32x4.all_true(i32x4.eq(places, i32x4.add(i32x4.splat(<i32>first), i32x4.shl(ramp, 2))))) {
        const fromU = backU + first;
        const fromV = backV + first;
        bu = bilinear(v128.load(fromU), v128.load(fromU, 4), v128.load(fromU + line), v128.load(fromU + line, 4), fx, fy);
        bv = bilinear(v128.load(fromV), v128.load(fromV, 4), v128.load(fromV + line), v128.load(fromV + line, 4), fx, fy);
      } else {
        bu = bilinear(
          gather(backU, places),
          gather(backU + 4, places),
          gather(backU + line, places),
          gather(backU + line + 4, places),
          fx,
          fy,
        );
        bv = bilinear(
          gather(backV, places),
          gather(backV + 4, places),
          gather(backV + line, places),
          gather(backV + line + 4, places),
          fx,
          fy,
        );
      }
      const ex = f32x4.add(du, bu);
      const ey = f32x4.add(dv, bv);
      const long = f32x4.add(f32x4.add(f32x4.mul(du, du), f32x4.mul(dv, dv)), f32x4.add(f32x4.mul(bu, bu), f32x4.mul(bv, bv)));
      const off = f32x4.gt(
        f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey)),
        f32x4.add(f32x4.splat(0.25), f32x4.mul(f32x4.splat(0.01), long)),
      );
      const four = v128.bitselect(v128.and(off, i32x4.splat(1)), i32x4.splat(2), inside);
      const open = i32x4.bitmask(v128.and(off, inside));
      let may = 0;
      if (open !== 0) {
        // Nearest samples there, for what is left over.
        const nx = i32x4.trunc_sat_f32x4_s(f32x4.add(qx, f32x4.splat(0.5)));
        const ny = i32x4.trunc_sat_f32x4_s(f32x4.add(qy, f32x4.splat(0.5)));
        const near = i32x4.shl(i32x4.add(i32x4.mul(ny, i32x4.splat(stride)), nx), 1);
        // Where the way back from there would lead out of the frame from here, what is there says nothing of here.
        const ox = f32x4.sub(f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(x), ramp)), bu);
        const oy = f32x4.sub(ownY, bv);
        const stays = i32x4.bitmask(
          v128.and(v128.and(f32x4.ge(ox, edge), f32x4.ge(oy, edge)), v128.and(f32x4.le(ox, edgeX), f32x4.le(oy, edgeY))),
        );
        v128.store(work, ex);
        v128.store(work, ey, 16);
        v128.store(work, near, 32);
        may = open & stays;
      }
      const words = i16x8.narrow_i32x4_s(four, four);
      const bytes = i8x16.narrow_i16x8_u(words, words);
      const to = marks + <usize>(y * width + x);
      if (x + 4 <= width) v128.store32_lane(to, bytes, 0);
      else for (let k = 0; k < width - x; k++) store<u8>(to + <usize>k, <u8>(i32x4.extract_lane(bytes, 0) >> (k << 3)));
      for (let k = 0; may !== 0 && k < 4; k++) {
        if (((may >> k) & 1) === 0 || x + k >= width) continue;
        const lane = work + ((<usize>k) << 2);
        const left = <i32>load<u16>(err + (at >> 1) + ((<usize>k) << 1)) + <i32>load<u16>(backErr + <usize>load<i32>(lane, 32));
        const here = luma + <usize>(y * lumaStride + x + k);
        if (slipped(here, lumaStride, load<f32>(lane), load<f32>(lane, 16), left)) store<u8>(to + <usize>k, 0);
      }
    }
  }
}

function join(
  u: usize,
  v: usize,
  cost: usize,
  luma: usize,
  lumaStride: i32,
  stride: i32,
  width: i32,
  x: i32,
  y: i32,
  dx: i32,
  dy: i32,
  plain: bool,
): void {
  const i = (<usize>(y * width + x)) << 2;
  const j = (<usize>((y + dy) * width + x + dx)) << 2;
  let price = load<i32>(cost + j) + 1;
  if (!plain) {
    const at = luma + <usize>(y * lumaStride + x);
    price += abs(<i32>load<u8>(at) - <i32>load<u8>(at + <usize>(dy * lumaStride + dx)));
  }
  if (price >= load<i32>(cost + i)) return;
  store<i32>(cost + i, price);
  const to = (<usize>(y * stride + x)) << 2;
  const from = (<usize>((y + dy) * stride + x + dx)) << 2;
  store<f32>(u + to, load<f32>(u + from));
  store<f32>(v + to, load<f32>(v + from));
}

/**
 * Gives each marked sample the vector of the unmarked one that it is joined to by the least change of light (a geodesic
 * distance by sweeps). With luma 0 the nearest one.
 * @param cost i32, width * height, written
 */
export function fillMarked(
  u: usize,
  v: usize,
  width: i32,
  height: i32,
  stride: i32,
  marks: usize,
  luma: usize,
  lumaStride: i32,
  cost: usize,
): void {
  const plain = luma === 0;
  for (let i = 0; i < width * height; i++) store<i32>(cost + ((<usize>i) << 2), load<u8>(marks + <usize>i) === 0 ? 0 : 1 << 29);
  for (let y = 0; y < height; y++) {
    const row = marks + <usize>(y * width);
    for (let x = 0; x < width; x++) {
      if (x + 8 <= width && load<u64>(row + <usize>x) === 0) {
        x += 7;
        continue;
      }
      if (load<u8>(row + <usize>x) === 0) continue;
      if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, 0, plain);
      if (y === 0) continue;
      join(u, v, cost, luma, lumaStride, stride, width, x, y, 0, -1, plain);
      if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, -1, plain);
      if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, -1, plain);
    }
  }
  for (let y = height - 1; y >= 0; y--) {
    const row = marks + <usize>(y * width);
    for (let x = width - 1; x >= 0; x--) {
      if (x >= 7 && load<u64>(row + <usize>(x - 7)) === 0) {
        x -= 7;
        continue;
      }
      if (load<u8>(row + <usize>x) === 0) continue;
      if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, 0, plain);
      if (y === height - 1) continue;
      join(u, v, cost, luma, lumaStride, stride, width, x, y, 0, 1, plain);
      if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, 1, plain);
      if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, 1, plain);
    }
  }
}

/**
 * Looks at the marks again once both fields are filled: a sample that would be covered in the other picture, where the filled
 * fields lead there and back, is not covered but changed. Its mark becomes 3.
 */
export function settleMarks(
  u: usize,
  v: usize,
  marks: usize,
  backU: usize,
  backV: usize,
  width: i32,
  height: i32,
  stride: i32,
): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const own = marks + <usize>(y * width + x);
      if (load<u8>(own) !== 1) continue;
      const at = (<usize>(y * stride + x)) << 2;
      const du = load<f32>(u + at);
      const dv = load<f32>(v + at);
      const tx = <i32>Mathf.floor(<f32>x + du + <f32>0.5);
      const ty = <i32>Mathf.floor(<f32>y + dv + <f32>0.5);
      if (tx < 0 || ty < 0 || tx >= width || ty >= height) continue;
      const there = (<usize>(ty * stride + tx)) << 2;
      const bu = du + load<f32>(backU + there);
      const bv = dv + load<f32>(backV + there);
      if (bu * bu + bv * bv < 1) store<u8>(own, 3);
    }
  }
}
