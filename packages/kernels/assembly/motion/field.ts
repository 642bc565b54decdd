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

/** Patches around that differ by less than this across and down together have nothing to settle. */
const PEACE: f32 = 0.75;

function apart(u: usize, v: usize, by: i32): f32 {
  const at = (<usize>by) << 2;
  return Mathf.abs(load<f32>(u + at) - load<f32>(u)) + Mathf.abs(load<f32>(v + at) - load<f32>(v));
}

/** Whether the eight patches around have the same vector, nearly. */
function agreed(u: usize, v: usize, columns: i32): bool {
  return (
    apart(u, v, -1) < PEACE &&
    apart(u, v, 1) < PEACE &&
    apart(u, v, -columns) < PEACE &&
    apart(u, v, columns) < PEACE &&
    apart(u, v, -columns - 1) < PEACE &&
    apart(u, v, -columns + 1) < PEACE &&
    apart(u, v, columns - 1) < PEACE &&
    apart(u, v, columns + 1) < PEACE
  );
}

/** The four by four samples in the middle of a patch take its vector, unless a farther one fits better already. */
function inPeace(
  a: usize,
  b: usize,
  width: i32,
  height: i32,
  stride: i32,
  x0: i32,
  y0: i32,
  pu: f32,
  pv: f32,
  u: usize,
  v: usize,
  err: usize,
  fieldStride: i32,
  work: usize,
): void {
  const cx = max<f64>(2 - PAD, min<f64>(<f64>(width + PAD - 27), <f64>x0 + <f64>pu));
  const cy = max<f64>(2 - PAD, min<f64>(<f64>(height + PAD - 19), <f64>y0 + <f64>pv));
  const ix = <i32>Math.floor(cx);
  const iy = <i32>Math.floor(cy);
  const fx = i16x8.splat(<i16>min<i32>(32767, <i32>((cx - <f64>ix) * 32768)));
  const fy = i16x8.splat(<i16>min<i32>(32767, <i32>((cy - <f64>iy) * 32768)));
  let from = b + <usize>(iy * stride + ix);
  let to = a + <usize>(y0 * stride + x0);
  let top = across(from, fx);
  for (let j = 0; j < SIDE; j++) {
    from += <usize>stride;
    const bottom = across(from, fx);
    const here = i16x8.add(top, i16x8.q15mulr_sat_s(i16x8.sub(bottom, top), fy));
    v128.store(work + ((<usize>j) << 4), i16x8.shr_u(i16x8.abs(i16x8.sub(here, i16x8.shl(v128.load8x8_u(to), 4))), 2));
    to += <usize>stride;
    top = bottom;
  }
  const line = work + 768;
  const u4 = f32x4.splat(pu);
  const v4 = f32x4.splat(pv);
  for (let j = 0; j < 4; j++) {
    const row = work + ((<usize>j) << 4);
    v128.store(
      line,
      i16x8.add(
        i16x8.add(i16x8.add(v128.load(row), v128.load(row, 16)), i16x8.add(v128.load(row, 32), v128.load(row, 48))),
        v128.load(row, 64),
      ),
    );
    const e = fiveAcross(line);
    const at = (y0 + 2 + j) * fieldStride + x0 + 2;
    const errAt = err + ((<usize>at) << 1);
    const was = v128.load64_zero(errAt);
    const less = i16x8.lt_s(e, was);
    v128.store64_lane(errAt, v128.bitselect(e, was, less), 0);
    const wide = i32x4.extend_low_i16x8_s(less);
    const uAt = u + ((<usize>at) << 2);
    const vAt = v + ((<usize>at) << 2);
    v128.store(uAt, v128.bitselect(u4, v128.load(uAt), wide));
    v128.store(vAt, v128.bitselect(v4, v128.load(vAt), wide));
  }
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
      if (r > 0 && c > 0 && r < rows - 1 && c < columns - 1 && agreed(patchU + own, patchV + own, columns)) {
        inPeace(a, b, width, height, stride, c * 4, r * 4, pu, pv, u, v, err, fieldStride, work);
        continue;
      }
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
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  for (let y = 0; y < height; y++) {
    const row = (<usize>(y * stride)) << 2;
    for (let x = 0; x < width; x += 4) {
      const at = row + ((<usize>x) << 2);
      const u0 = v128.load(u + at);
      const v0 = v128.load(v + at);
      let su = f32x4.splat(0);
      let sv = f32x4.splat(0);
      let sw = f32x4.splat(0);
      // Weights (1, 2, 1) across and down: of the sample itself four.
      for (let j = 0; j < 3; j++) {
        const off = at + <usize>j * line - line;
        const ul = v128.load(u + off - 8);
        const vl = v128.load(v + off - 8);
        const um = v128.load(u + off);
        const vm = v128.load(v + off);
        const ur = v128.load(u + off, 8);
        const vr = v128.load(v + off, 8);
        const left = v128.and(f32x4.lt(f32x4.add(f32x4.abs(f32x4.sub(ul, u0)), f32x4.abs(f32x4.sub(vl, v0))), agree), one);
        const middle = v128.and(f32x4.lt(f32x4.add(f32x4.abs(f32x4.sub(um, u0)), f32x4.abs(f32x4.sub(vm, v0))), agree), two);
        const right = v128.and(f32x4.lt(f32x4.add(f32x4.abs(f32x4.sub(ur, u0)), f32x4.abs(f32x4.sub(vr, v0))), agree), one);
        const down = j === 1 ? two : one;
        su = f32x4.add(
          su,
          f32x4.mul(down, f32x4.add(f32x4.add(f32x4.mul(ul, left), f32x4.mul(um, middle)), f32x4.mul(ur, right))),
        );
        sv = f32x4.add(
          sv,
          f32x4.mul(down, f32x4.add(f32x4.add(f32x4.mul(vl, left), f32x4.mul(vm, middle)), f32x4.mul(vr, right))),
        );
        sw = f32x4.add(sw, f32x4.mul(down, f32x4.add(f32x4.add(left, middle), right)));
      }
      v128.store(toU + at, f32x4.div(su, sw));
      v128.store(toV + at, f32x4.div(sv, sw));
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
