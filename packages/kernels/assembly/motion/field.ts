import { across, PAD, SIDE } from './sample';

/** Fields: a vector a sample of the finest searched level, with a margin of MARGIN on every side. See core/motion/field.ts. */
const MARGIN = 16;
/** A patch's vector is weighed this far around it, over windows of 5x5. */
const REACH = 2;
const REGION = 12;
/** What a vector costs outside its own patch: a quarter of a step, in sums of 25 differences of 10 bits. */
const OUTSIDE: i16 = 25;

/** Sums of five neighbours of 16 values from the third on: lanes 0 to 11 count. */
function fiveAcross(at: usize): v128 {
  return i16x8.add(
    i16x8.add(i16x8.add(v128.load(at), v128.load(at, 2)), i16x8.add(v128.load(at, 4), v128.load(at, 6))),
    v128.load(at, 8),
  );
}

/**
 * Each sample takes the vector of a patch near it that fits best over a window of 5x5.
 * @param u, v f32 fields, err u16 field (sums of 25 differences of 10 bits), all with margins, written; first samples
 * @param work 1024 bytes
 */
export function chooseVectors(
  a: usize,
  b: usize,
  width: i32,
  height: i32,
  stride: i32,
  columns: i32,
  rows: i32,
  patchU: usize,
  patchV: usize,
  u: usize,
  v: usize,
  err: usize,
  fieldStride: i32,
  work: usize,
): void {
  for (let y = -MARGIN; y < height + MARGIN; y++) {
    memory.fill(err + ((<usize>(y * fieldStride - MARGIN)) << 1), 0x7f, fieldStride << 1);
  }
  const low = i16x8.splat(OUTSIDE);
  const inFirst = i16x8(OUTSIDE, OUTSIDE, 0, 0, 0, 0, 0, 0);
  const inSecond = i16x8(0, 0, OUTSIDE, OUTSIDE, 0, 0, 0, 0);
  const onlyFour = i16x8(-1, -1, -1, -1, 0, 0, 0, 0);
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const own = (<usize>(r * columns + c)) << 2;
      const pu = load<f32>(patchU + own);
      const pv = load<f32>(patchV + own);
      const x0 = max(0, min(width - SIDE, c * 4)) - REACH;
      const y0 = max(0, min(height - SIDE, r * 4)) - REACH;
      const cx = max<f64>(2 - PAD, min<f64>(<f64>(width + PAD - 27), <f64>(x0 - 2) + <f64>pu));
      const cy = max<f64>(2 - PAD, min<f64>(<f64>(height + PAD - 19), <f64>(y0 - 2) + <f64>pv));
      const ix = <i32>Math.floor(cx);
      const iy = <i32>Math.floor(cy);
      const fx = i16x8.splat(<i16>min<i32>(32767, <i32>((cx - <f64>ix) * 32768)));
      const fy = i16x8.splat(<i16>min<i32>(32767, <i32>((cy - <f64>iy) * 32768)));
      let from = b + <usize>(iy * stride + ix);
      let to = a + <usize>((y0 - 2) * stride + x0 - 2);
      let top0 = across(from, fx);
      let top1 = across(from + 8, fx);
      for (let j = 0; j < 16; j++) {
        from += <usize>stride;
        const bottom0 = across(from, fx);
        const bottom1 = across(from + 8, fx);
        const here0 = i16x8.add(top0, i16x8.q15mulr_sat_s(i16x8.sub(bottom0, top0), fy));
        const here1 = i16x8.add(top1, i16x8.q15mulr_sat_s(i16x8.sub(bottom1, top1), fy));
        const row = work + ((<usize>j) << 5);
        v128.store(row, i16x8.shr_u(i16x8.abs(i16x8.sub(here0, i16x8.shl(v128.load8x8_u(to), 4))), 2));
        v128.store(row, i16x8.shr_u(i16x8.abs(i16x8.sub(here1, i16x8.shl(v128.load8x8_u(to, 8), 4))), 2), 16);
        to += <usize>stride;
        top0 = bottom0;
        top1 = bottom1;
      }
      const u4 = f32x4.splat(pu);
      const v4 = f32x4.splat(pv);
      for (let j = 0; j < REGION; j++) {
        const row = work + ((<usize>j) << 5);
        // Down first, kept behind the differences; then across.
        const sum0 = i16x8.add(
          i16x8.add(i16x8.add(v128.load(row), v128.load(row, 32)), i16x8.add(v128.load(row, 64), v128.load(row, 96))),
          v128.load(row, 128),
        );
        const sum1 = i16x8.add(
          i16x8.add(i16x8.add(v128.load(row, 16), v128.load(row, 48)), i16x8.add(v128.load(row, 80), v128.load(row, 112))),
          v128.load(row, 144),
        );
        const line = work + 768;
        v128.store(line, sum0);
        v128.store(line, sum1, 16);
        const outside = j < REACH || j >= REACH + SIDE;
        const e0 = i16x8.add(fiveAcross(line), outside ? low : inFirst);
        const e1 = i16x8.add(fiveAcross(line + 16), outside ? low : inSecond);
        const at = (y0 + j) * fieldStride + x0;
        const errAt = err + ((<usize>at) << 1);
        const was0 = v128.load(errAt);
        const was1 = v128.load(errAt, 16);
        const less0 = i16x8.lt_s(e0, was0);
        const less1 = v128.and(i16x8.lt_s(e1, was1), onlyFour);
        if (!v128.any_true(v128.or(less0, less1))) continue;
        v128.store(errAt, v128.bitselect(e0, was0, less0));
        v128.store(errAt, v128.bitselect(e1, was1, less1), 16);
        const uAt = u + ((<usize>at) << 2);
        const vAt = v + ((<usize>at) << 2);
        const m0 = i32x4.extend_low_i16x8_s(less0);
        const m1 = i32x4.extend_high_i16x8_s(less0);
        const m2 = i32x4.extend_low_i16x8_s(less1);
        v128.store(uAt, v128.bitselect(u4, v128.load(uAt), m0));
        v128.store(uAt, v128.bitselect(u4, v128.load(uAt, 16), m1), 16);
        v128.store(uAt, v128.bitselect(u4, v128.load(uAt, 32), m2), 32);
        v128.store(vAt, v128.bitselect(v4, v128.load(vAt), m0));
        v128.store(vAt, v128.bitselect(v4, v128.load(vAt, 16), m1), 16);
        v128.store(vAt, v128.bitselect(v4, v128.load(vAt, 32), m2), 32);
      }
    }
  }
}

/** Repeats the edges of a field of f32 into its margin. */
export function padField(at: usize, width: i32, height: i32, stride: i32): void {
  for (let y = 0; y < height; y++) {
    const row = at + ((<usize>(y * stride)) << 2);
    const left = load<f32>(row);
    const right = load<f32>(row + ((<usize>(width - 1)) << 2));
    for (let x = 1; x <= MARGIN; x++) store<f32>(row - ((<usize>x) << 2), left);
    for (let x = width; x < stride - MARGIN; x++) store<f32>(row + ((<usize>x) << 2), right);
  }
  const line = (<usize>stride) << 2;
  const first = at - (MARGIN << 2);
  const last = first + <usize>(height - 1) * line;
  for (let y = 1; y <= MARGIN; y++) {
    memory.copy(first - <usize>y * line, first, line);
    memory.copy(last + <usize>y * line, last, line);
  }
}

/** Averages vectors with those of the neighbours two samples off that agree with them. Margins of u and v are filled; to fields written. */
export function smoothVectors(u: usize, v: usize, width: i32, height: i32, stride: i32, toU: usize, toV: usize): void {
  const line = ((<usize>stride) << 2) * 2;
  const agree = f32x4.splat(1.5);
  for (let y = 0; y < height; y++) {
    const row = (<usize>(y * stride)) << 2;
    for (let x = 0; x < width; x += 4) {
      const at = row + ((<usize>x) << 2);
      const u0 = v128.load(u + at);
      const v0 = v128.load(v + at);
      let su = f32x4.mul(u0, f32x4.splat(4));
      let sv = f32x4.mul(v0, f32x4.splat(4));
      let sw = f32x4.splat(4);
      for (let k = 0; k < 9; k++) {
        if (k === 4) continue;
        const j = k / 3;
        const i = k - 3 * j;
        const off = at + <usize>j * line - line + ((<usize>i) << 3) - 8;
        const un = v128.load(u + off);
        const vn = v128.load(v + off);
        const near = f32x4.lt(f32x4.add(f32x4.abs(f32x4.sub(un, u0)), f32x4.abs(f32x4.sub(vn, v0))), agree);
        const weight = v128.and(near, f32x4.splat(i === 1 || j === 1 ? 2 : 1));
        su = f32x4.add(su, f32x4.mul(un, weight));
        sv = f32x4.add(sv, f32x4.mul(vn, weight));
        sw = f32x4.add(sw, weight);
      }
      v128.store(toU + at, f32x4.div(su, sw));
      v128.store(toV + at, f32x4.div(sv, sw));
    }
  }
}

function between(field: usize, at: usize, line: usize, fx: f32, fy: f32): f32 {
  const a = load<f32>(field + at);
  const b = load<f32>(field + at, 4);
  const c = load<f32>(field + at + line);
  const d = load<f32>(field + at + line, 4);
  const top = a + (b - a) * fx;
  return top + (c + (d - c) * fx - top) * fy;
}

/**
 * Which vectors the other field does not confirm: 1 where the way there and back does not close, 2 where it leads out of the frame.
 * @param marks u8 field without margins, width a row, written
 */
export function unconfirmed(
  u: usize,
  v: usize,
  backU: usize,
  backV: usize,
  width: i32,
  height: i32,
  stride: i32,
  marks: usize,
): void {
  const line = (<usize>stride) << 2;
  const right = <f32>width - 0.5;
  const bottom = <f32>height - 0.5;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = (<usize>(y * stride + x)) << 2;
      const du = load<f32>(u + at);
      const dv = load<f32>(v + at);
      const px = <f32>x + du;
      const py = <f32>y + dv;
      let mark: u8 = 0;
      if (!(px >= -0.5 && py >= -0.5 && px <= right && py <= bottom)) mark = 2;
      else {
        const qx = max<f32>(0, px);
        const qy = max<f32>(0, py);
        const ix = <i32>qx;
        const iy = <i32>qy;
        const there = (<usize>(iy * stride + ix)) << 2;
        const bu = between(backU, there, line, qx - <f32>ix, qy - <f32>iy);
        const bv = between(backV, there, line, qx - <f32>ix, qy - <f32>iy);
        const off = (du + bu) * (du + bu) + (dv + bv) * (dv + bv);
        if (off > <f32>0.25 + <f32>0.01 * (du * du + dv * dv + bu * bu + bv * bv)) mark = 1;
      }
      store<u8>(marks + <usize>(y * width + x), mark);
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
  for (let pass = 0; pass < 2; pass++) {
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        if (load<u8>(marks + <usize>(y * width + x)) === 0) continue;
        if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, 0, plain);
        if (y === 0) continue;
        join(u, v, cost, luma, lumaStride, stride, width, x, y, 0, -1, plain);
        if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, -1, plain);
        if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, -1, plain);
      }
    }
    for (let y = height - 1; y >= 0; y--) {
      for (let x = width - 1; x >= 0; x--) {
        if (load<u8>(marks + <usize>(y * width + x)) === 0) continue;
        if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, 0, plain);
        if (y === height - 1) continue;
        join(u, v, cost, luma, lumaStride, stride, width, x, y, 0, 1, plain);
        if (x < width - 1) join(u, v, cost, luma, lumaStride, stride, width, x, y, 1, 1, plain);
        if (x > 0) join(u, v, cost, luma, lumaStride, stride, width, x, y, -1, 1, plain);
      }
    }
  }
}

/** Sums of what vectors leave over (u16 field, hundredths of steps) and of plain differences of the two pictures, f64 both; then how many marks are 0. */
export function likeness(
  err: usize,
  fieldStride: i32,
  a: usize,
  b: usize,
  width: i32,
  height: i32,
  stride: i32,
  marksA: usize,
  marksB: usize,
  out: usize,
): void {
  let left: i64 = 0;
  let still: i64 = 0;
  let confirmed = 0;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      left += load<u16>(err + ((<usize>(y * fieldStride + x)) << 1));
      const at = <usize>(y * stride + x);
      still += abs(<i32>load<u8>(a + at) - <i32>load<u8>(b + at));
      const i = <usize>(y * width + x);
      confirmed += (load<u8>(marksA + i) === 0 ? 1 : 0) + (load<u8>(marksB + i) === 0 ? 1 : 0);
    }
  }
  store<f64>(out, <f64>left / 100);
  store<f64>(out, <f64>still, 8);
  store<f64>(out, <f64>confirmed, 16);
}

/** Fills a field of f32 with one value. */
export function fill32(at: usize, length: i32, value: f32): void {
  for (let i = 0; i < length; i++) store<f32>(at + ((<usize>i) << 2), value);
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
