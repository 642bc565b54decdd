/** Vectors carried to a moment between two pictures. See core/motion/moment.ts. */
/** Cost of a vector that the other picture does not confirm: it stands behind every one that is. */
const BEHIND: f32 = 1000;
/** A vector counts for samples this near to where it was carried, across and down. */
const NEAR: f32 = 0.75;
/** A vector that costs less than this leaves hardly anything over: no other one is looked at. */
const GOOD: f32 = 1;
const THREES: u64 = ((<u64>0x03030303) << 32) | 0x03030303;

/** Four samples that land side by side lay their vectors over four places, where they cost less than what is there. */
function layFour(cost: usize, toU: usize, toV: usize, who: usize, price: v128, near: v128, u: v128, v: v128, whose: u32): void {
  const was = v128.load(cost);
  const less = v128.and(near, f32x4.lt(price, was));
  if (!v128.any_true(less)) return;
  v128.store(cost, v128.bitselect(price, was, less));
  v128.store(toU, v128.bitselect(u, v128.load(toU), less));
  v128.store(toV, v128.bitselect(v, v128.load(toV), less));
  const words = i16x8.narrow_i32x4_s(less, less);
  const mask = <u32>i32x4.extract_lane(i8x16.narrow_i16x8_s(words, words), 0);
  store<u32>(who, (load<u32>(who) & ~mask) | (whose & mask));
}

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
  const step4 = f32x4.splat(step);
  const sign4 = f32x4.splat(sign);
  const far = f32x4.splat(1 - NEAR);
  const ramp = i32x4(0, 1, 2, 3);
  for (let y = 0; y < height; y++) {
    const ownY = f32x4.splat(<f32>y);
    for (let x = 0; x < width; x += 4) {
      const at = (<usize>(y * stride + x)) << 2;
      const own = marks + <usize>(y * width + x);
      let left = x + 4 > width ? (1 << (width - x)) - 1 : 15;
      if (left === 15) {
        const du = v128.load(u + at);
        const dv = v128.load(v + at);
        const px = f32x4.add(f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(x), ramp)), f32x4.mul(step4, du));
        const py = f32x4.add(ownY, f32x4.mul(step4, dv));
        // A place counts for the sample left of it and above it from a quarter before to three quarters behind it.
        const floorX = f32x4.floor(f32x4.add(px, far));
        const floorY = f32x4.floor(f32x4.add(py, far));
        const from4 = i32x4.sub(i32x4.trunc_sat_f32x4_s(floorX), ramp);
        const iy4 = i32x4.trunc_sat_f32x4_s(floorY);
        const mark = i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(own)));
        const sure = i32x4.eq(mark, i32x4.splat(0));
        const told = f32x4.div(f32x4.convert_i32x4_s(v128.load16x4_u(err + (at >> 1))), f32x4.splat(100));
        const base = v128.bitselect(told, f32x4.splat(BEHIND), sure);
        const seen = v128.bitselect(i32x4.splat(4), i32x4.splat(bit), i32x4.eq(mark, i32x4.splat(3)));
        const whose = v128.bitselect(i32x4.splat(3), seen, sure);
        const words = i16x8.narrow_i32x4_s(whose, whose);
        const names = <u32>i32x4.extract_lane(i8x16.narrow_i16x8_u(words, words), 0);
        const fx = f32x4.sub(px, floorX);
        const fy = f32x4.sub(py, floorY);
        const su = f32x4.mul(du, sign4);
        const sv = f32x4.mul(dv, sign4);
        // Most samples land as their neighbours do: those that land beside the first one at once, then those beside the last.
        for (let turn = 0; turn < 2 && left !== 0; turn++) {
          const ix = turn === 0 ? i32x4.extract_lane(from4, 0) : i32x4.extract_lane(from4, 3);
          const iy = turn === 0 ? i32x4.extract_lane(iy4, 0) : i32x4.extract_lane(iy4, 3);
          if (ix < 0 || iy < 0 || ix + 5 > width || iy + 2 > height) continue;
          const beside = v128.and(i32x4.eq(from4, i32x4.splat(ix)), i32x4.eq(iy4, i32x4.splat(iy)));
          const those = i32x4.bitmask(beside) & left;
          if (those === 0) continue;
          left ^= those;
          carryFour(beside, ix, iy, fx, fy, base, su, sv, names, width, stride, sign, toU, toV, cost, who);
        }
      }
      for (let k = 0; left !== 0; k++, left >>= 1) {
        if ((left & 1) === 0) continue;
        const mark = load<u8>(own + <usize>k);
        const from = at + ((<usize>k) << 2);
        const base: f32 = mark !== 0 ? BEHIND : <f32>load<u16>(err + (from >> 1)) / 100;
        const whose: u8 = mark === 0 ? 3 : mark === 3 ? 4 : bit;
        const du = load<f32>(u + from);
        const dv = load<f32>(v + from);
        carryOne(x + k, y, du, dv, base, whose, width, height, stride, step, sign, toU, toV, cost, who);
      }
    }
  }
}

/**
 * Carries those of four vectors that land side by side from (ix, iy) on.
 * @param those which of them
 * @param fx, fy how far behind their samples they land, a quarter before to three quarters
 */
function carryFour(
  those: v128,
  ix: i32,
  iy: i32,
  fx: v128,
  fy: v128,
  base: v128,
  su: v128,
  sv: v128,
  whose: u32,
  width: i32,
  stride: i32,
  sign: f32,
  toU: usize,
  toV: usize,
  cost: usize,
  who: usize,
): void {
  const far = f32x4.splat(1 - NEAR);
  const one = f32x4.splat(1);
  const line = (<usize>width) << 2;
  const to = iy * width + ix;
  const upper = cost + ((<usize>to) << 2);
  const lower = upper + line;
  let still = those;
  if (sign < 0) {
    // Where a good one stands already, the other field has nothing better to say.
    const half = f32x4.splat(0.5);
    const after = f32x4.ge(fx, half);
    const above = v128.bitselect(v128.load(upper, 4), v128.load(upper), after);
    const below = v128.bitselect(v128.load(lower, 4), v128.load(lower), after);
    still = v128.and(still, f32x4.ge(v128.bitselect(below, above, f32x4.ge(fy, half)), f32x4.splat(GOOD)));
    if (!v128.any_true(still)) return;
  }
  const right = v128.and(still, f32x4.ge(fx, far));
  const below = f32x4.ge(fy, far);
  const beside = f32x4.abs(fx);
  const besides = f32x4.sub(one, fx);
  const up = f32x4.add(base, f32x4.abs(fy));
  const down = f32x4.add(base, f32x4.sub(one, fy));
  const there = (<usize>(iy * stride + ix)) << 2;
  const next = there + ((<usize>stride) << 2);
  const names = who + <usize>to;
  layFour(upper, toU + there, toV + there, names, f32x4.add(up, beside), still, su, sv, whose);
  layFour(upper + 4, toU + there + 4, toV + there + 4, names + 1, f32x4.add(up, besides), right, su, sv, whose);
  const under = names + <usize>width;
  layFour(lower, toU + next, toV + next, under, f32x4.add(down, beside), v128.and(still, below), su, sv, whose);
  layFour(lower + 4, toU + next + 4, toV + next + 4, under + 1, f32x4.add(down, besides), v128.and(right, below), su, sv, whose);
}

/** Carries one vector. */
function carryOne(
  x: i32,
  y: i32,
  du: f32,
  dv: f32,
  base: f32,
  whose: u8,
  width: i32,
  height: i32,
  stride: i32,
  step: f32,
  sign: f32,
  toU: usize,
  toV: usize,
  cost: usize,
  who: usize,
): void {
  const px = <f32>x + step * du;
  const py = <f32>y + step * dv;
  if (!(px > -1 && py > -1 && px < <f32>width && py < <f32>height)) return;
  if (sign < 0) {
    const nx = <i32>Mathf.floor(px + 0.5);
    const ny = <i32>Mathf.floor(py + 0.5);
    const to = ny * width + nx;
    if (nx >= 0 && ny >= 0 && nx < width && ny < height && load<f32>(cost + ((<usize>to) << 2)) < GOOD) return;
  }
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
  let sums = f64x2.splat(0);
  const even = <u16>(<i32>(<f32>256 * t + <f32>0.5));
  for (let y = 0; y < height; y++) {
    const inner = y > 0 && y < height - 1;
    for (let x = 0; x < width; x++) {
      const own = y * width + x;
      // Threes all around, six across and three down: four samples that both pictures show.
      if (inner && x > 0 && x + 7 < width) {
        const at = who + <usize>(own - 1);
        const rows = (load<u64>(at - <usize>width) ^ THREES) | (load<u64>(at) ^ THREES) | (load<u64>(at + <usize>width) ^ THREES);
        if ((rows & 0xffffffffffff) === 0) {
          const e = v128.load(cost + ((<usize>own) << 2));
          const r = f32x4.mul(f32x4.mul(e, e), f32x4.splat(0.25));
          v128.store64_lane(share + ((<usize>own) << 1), i16x8.splat(even), 0);
          v128.store(risk + ((<usize>own) << 2), r);
          const high = i8x16.shuffle(r, r, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
          sums = f64x2.add(sums, f64x2.add(f64x2.promote_low_f32x4(r), f64x2.promote_low_f32x4(high)));
          x += 3;
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
  return total + f64x2.extract_lane(sums, 0) + f64x2.extract_lane(sums, 1);
}
