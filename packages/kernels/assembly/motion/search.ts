import { across, PAD, SIDE } from './sample';

/**
 * Vectors of patches of 8x8 samples from one picture to another at one level of the pyramid. What it does is said by
 * core/motion/search.ts; samples are 12-bit whole numbers here as there, so that both give the same vectors.
 */
/** Layout of the work area: template, slopes across, slopes down (128 bytes each), then the vectors tried. */
const SLOPES_X = 128;
const SLOPES_Y = 256;
const TRIED = 384;
const ITERATIONS = 4;
const TRUSTED: f64 = 0.08;
const STIFF: f64 = 0.02;
const DAMPING: f64 = 2.56;
const GOOD: f64 = 256;
const STRANGER: f64 = 64;
const UNEXPLAINED: f64 = 1024;
const FOUND: f64 = 0.25;

// Of the last patch that was laid over the other picture.
let errors: f64 = 0;
let alongX: f64 = 0;
let alongY: f64 = 0;

/** Lays the template over `b` at a place and sums squared differences without their mean, and their products with the slopes. */
function lay(b: usize, stride: i32, width: i32, height: i32, x: f64, y: f64, work: usize): void {
  const cx = max<f64>(1 - PAD, min<f64>(<f64>(width + PAD - SIDE - 9), x));
  const cy = max<f64>(1 - PAD, min<f64>(<f64>(height + PAD - SIDE - 2), y));
  const ix = <i32>Math.floor(cx);
  const iy = <i32>Math.floor(cy);
  const fx = i16x8.splat(<i16>min<i32>(32767, <i32>((cx - <f64>ix) * 32768)));
  const fy = i16x8.splat(<i16>min<i32>(32767, <i32>((cy - <f64>iy) * 32768)));
  const ones = i16x8.splat(1);
  let at = b + <usize>(iy * stride + ix);
  let top = across(at, fx);
  let d = i32x4.splat(0);
  let dd = i32x4.splat(0);
  let dx = i32x4.splat(0);
  let dy = i32x4.splat(0);
  for (let j = 0; j < SIDE; j++) {
    at += <usize>stride;
    const bottom = across(at, fx);
    const here = i16x8.add(top, i16x8.q15mulr_sat_s(i16x8.sub(bottom, top), fy));
    const row = work + ((<usize>j) << 4);
    const diff = i16x8.sub(here, v128.load(row));
    d = i32x4.add(d, i32x4.dot_i16x8_s(diff, ones));
    dd = i32x4.add(dd, i32x4.dot_i16x8_s(diff, diff));
    dx = i32x4.add(dx, i32x4.dot_i16x8_s(diff, v128.load(row, SLOPES_X)));
    dy = i32x4.add(dy, i32x4.dot_i16x8_s(diff, v128.load(row, SLOPES_Y)));
    top = bottom;
  }
  // Each fits 32 bits (64 squares of 12-bit differences do): four sums at once.
  const low = i32x4.add(woven(d, dd, false), woven(d, dd, true));
  const high = i32x4.add(woven(dx, dy, false), woven(dx, dy, true));
  const all = i32x4.add(
    i8x16.shuffle(low, high, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23),
    i8x16.shuffle(low, high, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31),
  );
  const sum = <f64>i32x4.extract_lane(all, 0);
  errors = (<f64>i32x4.extract_lane(all, 1) - (sum * sum) / 64) / 256;
  alongX = (<f64>i32x4.extract_lane(all, 2) - (sum * sumX) / 64) / 32;
  alongY = (<f64>i32x4.extract_lane(all, 3) - (sum * sumY) / 64) / 32;
}

/** Lanes of two sums in turn: the lower two of each, or the upper ones. */
function woven(a: v128, b: v128, upper: bool): v128 {
  return upper
    ? i8x16.shuffle(a, b, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31)
    : i8x16.shuffle(a, b, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23);
}

function total(sum: v128): i32 {
  const half = i32x4.add(sum, i8x16.shuffle(sum, sum, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return i32x4.extract_lane(half, 0) + i32x4.extract_lane(half, 1);
}

// Of the patch that is looked for.
let sumX: f64 = 0;
let sumY: f64 = 0;
let gxx: f64 = 0;
let gxy: f64 = 0;
let gyy: f64 = 0;
// Where it fits best so far, what is left there, and which way is down from it.
let bestU: f64 = 0;
let bestV: f64 = 0;
let least: f64 = 0;
let downX: f64 = 0;
let downY: f64 = 0;

/** Squared differences that are left of the template at a whole place, without the difference of the means: what lay gives, quicker. */
function leftAt(b: usize, stride: i32, x: i32, y: i32, work: usize): i32 {
  const ones = i16x8.splat(1);
  let d = i32x4.splat(0);
  let dd = i32x4.splat(0);
  let at = b + <usize>(y * stride + x);
  for (let j = 0; j < SIDE; j++) {
    const diff = i16x8.sub(v128.load8x8_u(at), i16x8.shr_u(v128.load(work + ((<usize>j) << 4)), 4));
    d = i32x4.add(d, i32x4.dot_i16x8_s(diff, ones));
    dd = i32x4.add(dd, i32x4.dot_i16x8_s(diff, diff));
    at += <usize>stride;
  }
  const sum = total(d);
  return total(dd) - ((sum * sum) >> 6);
}

// Of what is looked for far away: what is left at the nearest likeness so far, and where it is.
let nearest = 0;
let nearU = 0;
let nearV = 0;

/** Looks at whole vectors from (fromU, fromV) to (toU, toV), every `by`th each way, for one that leaves less than the nearest. */
function lookIn(b: usize, stride: i32, x0: i32, y0: i32, fromU: i32, toU: i32, fromV: i32, toV: i32, by: i32, work: usize): void {
  for (let v = fromV; v <= toV; v += by) {
    for (let u = fromU; u <= toU; u += by) {
      const e = leftAt(b, stride, x0 + u, y0 + v, work);
      if (e >= nearest) continue;
      nearest = e;
      nearU = u;
      nearV = v;
    }
  }
}

/** Looks all around inside the frame, every second sample and then those beside the nearest. The best vector becomes that. */
function lookFar(b: usize, stride: i32, width: i32, height: i32, x0: i32, y0: i32, far: i32, work: usize): void {
  const right = width - SIDE - x0;
  const bottom = height - SIDE - y0;
  nearest = i32.MAX_VALUE;
  nearU = 0;
  nearV = 0;
  lookIn(b, stride, x0, y0, max(-far, -x0), min(far, right), max(-far, -y0), min(far, bottom), 2, work);
  const u = nearU;
  const v = nearV;
  lookIn(b, stride, x0, y0, max(u - 1, -x0), min(u + 1, right), max(v - 1, -y0), min(v + 1, bottom), 1, work);
  least = Infinity;
  better(b, stride, width, height, x0, y0, nearU, nearV, 0, work);
}

/** Takes a patch for template, with its slopes. */
function take(a: usize, stride: i32, x0: i32, y0: i32, work: usize): void {
  let xx = i32x4.splat(0);
  let xy = i32x4.splat(0);
  let yy = i32x4.splat(0);
  let sx = i32x4.splat(0);
  let sy = i32x4.splat(0);
  const ones = i16x8.splat(1);
  for (let j = 0; j < SIDE; j++) {
    const at = a + <usize>((y0 + j) * stride + x0);
    const gx = i16x8.sub(v128.load8x8_u(at, 1), v128.load8x8_u(at - 1));
    const gy = i16x8.sub(v128.load8x8_u(at + <usize>stride), v128.load8x8_u(at - <usize>stride));
    const row = work + ((<usize>j) << 4);
    v128.store(row, i16x8.shl(v128.load8x8_u(at), 4));
    v128.store(row, gx, SLOPES_X);
    v128.store(row, gy, SLOPES_Y);
    xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
    xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
    yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
    sx = i32x4.add(sx, i32x4.dot_i16x8_s(gx, ones));
    sy = i32x4.add(sy, i32x4.dot_i16x8_s(gy, ones));
  }
  sumX = <f64>total(sx);
  sumY = <f64>total(sy);
  gxx = (<f64>total(xx) - (sumX * sumX) / 64) / 4;
  gxy = (<f64>total(xy) - (sumX * sumY) / 64) / 4;
  gyy = (<f64>total(yy) - (sumY * sumY) / 64) / 4;
}

/** Lays the template at a vector; it becomes the best where less is left than there was. */
function better(b: usize, stride: i32, width: i32, height: i32, x0: i32, y0: i32, u: f64, v: f64, price: f64, work: usize): bool {
  lay(b, stride, width, height, <f64>x0 + u, <f64>y0 + v, work);
  if (errors + price >= least) return false;
  least = errors + price;
  bestU = u;
  bestV = v;
  downX = alongX;
  downY = alongY;
  return true;
}

/** Goes down from the best vector while less is left. */
function descend(b: usize, stride: i32, width: i32, height: i32, x0: i32, y0: i32, work: usize): void {
  const damping = DAMPING + STIFF * (gxx + gyy);
  const det = (gxx + damping) * (gyy + damping) - gxy * gxy;
  const fromU = bestU;
  const fromV = bestV;
  for (let i = 0; i < ITERATIONS; i++) {
    const du = ((gyy + damping) * downX - gxy * downY) / det;
    const dv = ((gxx + damping) * downY - gxy * downX) / det;
    const u = bestU - du;
    const v = bestV - dv;
    // So small a step is taken on trust.
    if (Math.abs(du) + Math.abs(dv) < TRUSTED) {
      bestU = u;
      bestV = v;
      return;
    }
    if (Math.abs(u - fromU) > SIDE || Math.abs(v - fromV) > SIDE) return;
    if (!better(b, stride, width, height, x0, y0, u, v, 0, work)) return;
  }
}

/** Whether a vector as good as this was tried already; else it is remembered. */
function known(u: f64, v: f64, tried: i32, work: usize): bool {
  for (let i = 0; i < tried; i++) {
    const at = work + TRIED + ((<usize>i) << 4);
    if (Math.abs(load<f64>(at) - u) < 0.5 && Math.abs(load<f64>(at, 8) - v) < 0.5) return true;
  }
  const at = work + TRIED + ((<usize>tried) << 4);
  store<f64>(at, u);
  store<f64>(at, v, 8);
  return false;
}

/**
 * @param a, b first samples of the planes, width by height, same stride
 * @param u, v, err, detail f32, columns * rows, written: vectors, mean squared error and mean squared slope of each patch
 * @param before f32: columns * rows vectors across of the coarser level, then as many down; 0 at the coarsest
 * @param common f64 pairs: vectors that many patches of the coarser level have, in this level's pixels
 * @param far how far to look for what nothing explains, in samples; 0 not at all. One patch in sixteen at most, but at the coarsest level
 * @param work 384 bytes and 16 for each vector tried
 */
export function searchPatches(
  a: usize,
  b: usize,
  width: i32,
  height: i32,
  stride: i32,
  columns: i32,
  rows: i32,
  u: usize,
  v: usize,
  err: usize,
  detail: usize,
  before: usize,
  beforeColumns: i32,
  beforeRows: i32,
  common: usize,
  commons: i32,
  work: usize,
  far: i32,
): void {
  let searches = far === 0 ? 0 : before === 0 ? columns * rows : (columns * rows) >> 4;
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const x0 = max(0, min(width - SIDE, c * 4));
      const y0 = max(0, min(height - SIDE, r * 4));
      const own = (<usize>(r * columns + c)) << 2;
      take(a, stride, x0, y0, work);
      least = Infinity;
      let tried = 0;
      let price: f64 = 0;
      let paid: f64 = 0;
      // Candidates: 0 to 4 the coarser level's, 5 to 8 the neighbours' that stand already, then the common ones.
      const last = 9 + commons;
      for (let k = before === 0 ? 4 : 0; k < last && least >= GOOD; k++) {
        let cu: f64 = 0;
        let cv: f64 = 0;
        price = 0;
        if (k < 5) {
          if (before !== 0) {
            const x = min(beforeColumns - 1, (x0 + 4) >> 3) + (k === 1 ? -1 : k === 2 ? 1 : 0);
            const y = min(beforeRows - 1, (y0 + 4) >> 3) + (k === 3 ? -1 : k === 4 ? 1 : 0);
            if (x < 0 || y < 0 || x >= beforeColumns || y >= beforeRows) continue;
            const at = before + ((<usize>(y * beforeColumns + x)) << 2);
            cu = 2 * <f64>load<f32>(at);
            cv = 2 * <f64>load<f32>(at + ((<usize>(beforeColumns * beforeRows)) << 2));
          }
        } else if (k < 9) {
          const x = c + (k === 5 || k === 8 ? -1 : k === 7 ? 1 : 0);
          const y = r - (k === 5 ? 0 : 1);
          if (x < 0 || y < 0 || x >= columns) continue;
          const at = (<usize>(y * columns + x)) << 2;
          cu = <f64>load<f32>(u + at);
          cv = <f64>load<f32>(v + at);
        } else {
          const at = common + ((<usize>(k - 9)) << 4);
          cu = load<f64>(at);
          cv = load<f64>(at, 8);
          price = STRANGER;
        }
        if (known(cu, cv, tried, work)) continue;
        tried++;
        if (better(b, stride, width, height, x0, y0, cu, cv, price, work)) paid = price;
      }
      // What it cost to be a stranger counts no more.
      least -= paid;
      descend(b, stride, width, height, x0, y0, work);
      // What nothing explains is looked for all around: small things that go their own way.
      if (searches > 0 && least >= UNEXPLAINED && least >= 0.25 * (gxx + gyy)) {
        searches--;
        const was = least;
        const wasU = bestU;
        const wasV = bestV;
        lookFar(b, stride, width, height, x0, y0, far, work);
        descend(b, stride, width, height, x0, y0, work);
        if (least > FOUND * was) {
          least = was;
          bestU = wasU;
          bestV = wasV;
        }
      }
      store<f32>(u + own, <f32>bestU);
      store<f32>(v + own, <f32>bestV);
      store<f32>(err + own, <f32>(least / 64));
      store<f32>(detail + own, <f32>((gxx + gyy) / 64));
    }
  }
}
