/**
 * The loops over samples of a check. Samples are i16 and all products are summed as whole numbers, so that the sums equal
 * those of core/truth/steps.ts to the last digit. Eight samples are read from each place: memory must go on for 16 bytes
 * after a picture.
 */

/** Rows of a block after which 32-bit sums are emptied into 64-bit ones: 4 rows of 31 samples of 4080 steps each fit. */
const ROWS_A_FLUSH = 4;
/** Sums a block: d, x, y, dd, dx, dy, xx, xy, yy, ff. */
const SUMS = 10;

/** 8-bit samples to i16. */
export function widen(from: usize, to: usize, length: i32): void {
  for (let i = 0; i < length; i += 8) v128.store(to + ((<usize>i) << 1), v128.load8x8_u(from + i));
}

/** Sums of 4 x 4 samples; the rest at the right and bottom is left out. */
export function shrink4(from: usize, width: i32, to: usize, w: i32, h: i32): void {
  for (let j = 0; j < h; j++) {
    for (let i = 0; i < w; i++) {
      let sum: i32 = 0;
      for (let y = j << 2; y < (j + 1) << 2; y++) {
        const at = from + ((<usize>(y * width + (i << 2))) << 1);
        sum += <i32>load<i16>(at) + <i32>load<i16>(at, 2) + <i32>load<i16>(at, 4) + <i32>load<i16>(at, 6);
      }
      store<i16>(to + ((<usize>(j * w + i)) << 1), <i16>sum);
    }
  }
}

function flush(sum: v128, more: v128): v128 {
  return i64x2.add(sum, i64x2.add(i64x2.extend_low_i32x4_s(more), i64x2.extend_high_i32x4_s(more)));
}

function total(sum: v128): f64 {
  return <f64>(i64x2.extract_lane(sum, 0) + i64x2.extract_lane(sum, 1));
}

/**
 * For each block the sums of difference, slopes and their products between pictures a and b.
 * @param edges i32: lefts and rights of the columns of blocks, then tops and bottoms of the rows
 * @param sums f64, SUMS a block, written
 */
export function stepSums(a: usize, b: usize, width: i32, edges: usize, columns: i32, rows: i32, sums: usize): void {
  const lefts = edges;
  const rights = lefts + ((<usize>columns) << 2);
  const tops = rights + ((<usize>columns) << 2);
  const bottoms = tops + ((<usize>rows) << 2);
  const line = (<usize>width) << 1;
  const lanes = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  const ones = i16x8.splat(1);
  const zero = i32x4.splat(0);
  for (let row = 0; row < rows; row++) {
    const top = load<i32>(tops + ((<usize>row) << 2));
    const bottom = load<i32>(bottoms + ((<usize>row) << 2));
    for (let column = 0; column < columns; column++) {
      const left = load<i32>(lefts + ((<usize>column) << 2));
      const right = load<i32>(rights + ((<usize>column) << 2));
      let dSum = zero;
      let xSum = zero;
      let ySum = zero;
      let ddSum = zero;
      let dxSum = zero;
      let dySum = zero;
      let xxSum = zero;
      let xySum = zero;
      let yySum = zero;
      let ffSum = zero;
      let j = top;
      while (j < bottom) {
        const stop = min(bottom, j + ROWS_A_FLUSH);
        let d = zero;
        let x = zero;
        let y = zero;
        let dd = zero;
        let dx = zero;
        let dy = zero;
        let xx = zero;
        let xy = zero;
        let yy = zero;
        let ff = zero;
        for (; j < stop; j++) {
          let at = (<usize>(j * width + left)) << 1;
          for (let rest = right - left; rest > 0; rest -= 8, at += 16) {
            const inside = i16x8.gt_s(i16x8.splat(<i16>rest), lanes);
            const pa = a + at;
            const pb = b + at;
            const b0 = v128.load(pb - 2);
            const b1 = v128.load(pb);
            const b2 = v128.load(pb, 2);
            const gx = v128.and(inside, i16x8.sub(i16x8.add(b2, v128.load(pa, 2)), i16x8.add(b0, v128.load(pa - 2))));
            const below = i16x8.add(v128.load(pb + line), v128.load(pa + line));
            const gy = v128.and(inside, i16x8.sub(below, i16x8.add(v128.load(pb - line), v128.load(pa - line))));
            const diff = v128.and(inside, i16x8.sub(b1, v128.load(pa)));
            const fine = v128.and(inside, i16x8.sub(i16x8.shl(b1, 1), i16x8.add(b0, b2)));
            d = i32x4.add(d, i32x4.dot_i16x8_s(diff, ones));
            x = i32x4.add(x, i32x4.dot_i16x8_s(gx, ones));
            y = i32x4.add(y, i32x4.dot_i16x8_s(gy, ones));
            dd = i32x4.add(dd, i32x4.dot_i16x8_s(diff, diff));
            dx = i32x4.add(dx, i32x4.dot_i16x8_s(diff, gx));
            dy = i32x4.add(dy, i32x4.dot_i16x8_s(diff, gy));
            xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
            xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
            yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
            ff = i32x4.add(ff, i32x4.dot_i16x8_s(fine, fine));
          }
        }
        dSum = flush(dSum, d);
        xSum = flush(xSum, x);
        ySum = flush(ySum, y);
        ddSum = flush(ddSum, dd);
        dxSum = flush(dxSum, dx);
        dySum = flush(dySum, dy);
        xxSum = flush(xxSum, xx);
        xySum = flush(xySum, xy);
        yySum = flush(yySum, yy);
        ffSum = flush(ffSum, ff);
      }
      const to = sums + <usize>(row * columns + column) * SUMS * 8;
      store<f64>(to, total(dSum), 0);
      store<f64>(to, total(xSum), 8);
      store<f64>(to, total(ySum), 16);
      store<f64>(to, total(ddSum), 24);
      store<f64>(to, total(dxSum), 32);
      store<f64>(to, total(dySum), 40);
      store<f64>(to, total(xxSum), 48);
      store<f64>(to, total(xySum), 56);
      store<f64>(to, total(yySum), 64);
      store<f64>(to, total(ffSum), 72);
    }
  }
}

/** Sums over whole pictures for the best mix: (m − n)(b − n), (b − n)², (m − n)², with b before, m in the middle, n next. */
export function mixSums(before: usize, middle: usize, next: usize, length: i32, sums: usize): void {
  const lanes = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  let crossSum = i64x2.splat(0);
  let spanSum = i64x2.splat(0);
  let ownSum = i64x2.splat(0);
  let i = 0;
  while (i < length) {
    const stop = min(length, i + 8 * 1024);
    let cross = i32x4.splat(0);
    let span = i32x4.splat(0);
    let own = i32x4.splat(0);
    for (; i < stop; i += 8) {
      const at = (<usize>i) << 1;
      const inside = i16x8.gt_s(i16x8.splat(<i16>min(8, length - i)), lanes);
      const n = v128.load(next + at);
      const e = v128.and(inside, i16x8.sub(v128.load(before + at), n));
      const d = v128.and(inside, i16x8.sub(v128.load(middle + at), n));
      cross = i32x4.add(cross, i32x4.dot_i16x8_s(d, e));
      span = i32x4.add(span, i32x4.dot_i16x8_s(e, e));
      own = i32x4.add(own, i32x4.dot_i16x8_s(d, d));
    }
    crossSum = flush(crossSum, cross);
    spanSum = flush(spanSum, span);
    ownSum = flush(ownSum, own);
  }
  store<f64>(sums, total(crossSum));
  store<f64>(sums, total(spanSum), 8);
  store<f64>(sums, total(ownSum), 16);
}
