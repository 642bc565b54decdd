/**
 * The loops of a check over the steps around one step. Rows are f32, one entry a block, `stride` bytes apart, a multiple of 16;
 * a ring of `slots` rows is read from row `first` on and goes round. Equal to core/truth/ring.ts to the last digit.
 */

/**
 * Of `count` rows, entry by entry: the largest before and after row number `at` (-1 of none), the least, the largest, second and
 * third largest of all; written one row after the other, six in all.
 */
export function extremes(rows: usize, stride: usize, slots: i32, first: i32, count: i32, at: i32, out: usize): void {
  const none = f32x4.splat(-1);
  for (let x: usize = 0; x < stride; x += 16) {
    let before = none;
    let after = none;
    let least = f32x4.splat(Infinity);
    let most = none;
    let second = none;
    let third = none;
    let slot = first;
    for (let i = 0; i < count; i++) {
      const value = v128.load(rows + <usize>slot * stride + x);
      if (i < at) before = f32x4.pmax(before, value);
      else if (i > at) after = f32x4.pmax(after, value);
      least = f32x4.pmin(least, value);
      const low = f32x4.pmin(most, value);
      most = f32x4.pmax(most, value);
      const lower = f32x4.pmin(second, low);
      second = f32x4.pmax(second, low);
      third = f32x4.pmax(third, lower);
      slot = slot + 1 === slots ? 0 : slot + 1;
    }
    v128.store(out + x, before);
    v128.store(out + stride + x, after);
    v128.store(out + 2 * stride + x, least);
    v128.store(out + 3 * stride + x, most);
    v128.store(out + 4 * stride + x, second);
    v128.store(out + 5 * stride + x, third);
  }
}

/** Mean of `count` rows, entry by entry, added up in f64; f32. */
export function means(rows: usize, stride: usize, slots: i32, first: i32, count: i32, out: usize): void {
  const share = f64x2.splat(1 / <f64>count);
  for (let x: usize = 0; x < stride; x += 16) {
    let low = f64x2.splat(0);
    let high = f64x2.splat(0);
    let slot = first;
    for (let i = 0; i < count; i++) {
      const value = v128.load(rows + <usize>slot * stride + x);
      low = f64x2.add(low, f64x2.promote_low_f32x4(value));
      high = f64x2.add(
        high,
        f64x2.promote_low_f32x4(i8x16.shuffle(value, value, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15)),
      );
      slot = slot + 1 === slots ? 0 : slot + 1;
    }
    const l = f32x4.demote_f64x2_zero(f64x2.mul(low, share));
    const h = f32x4.demote_f64x2_zero(f64x2.mul(high, share));
    v128.store(out + x, i8x16.shuffle(l, h, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23));
  }
}
