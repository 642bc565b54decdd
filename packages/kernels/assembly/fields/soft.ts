/** Fields as whole soft pictures, in which motion is looked for; core/fields/fieldPlane.ts has the same in readable TypeScript. */

/** Margin of a soft plane, in samples. */
const PAD: usize = 64;

function sampleAt(row: usize, x: i32, bytes: i32, shift: i32): i32 {
  return bytes === 1 ? <i32>load<u8>(row + <usize>x) : min<i32>(255, <i32>load<u16>(row + ((<usize>x) << 1)) >> shift);
}

/** Eight samples from a place on, in 16 bits, narrowed to 8. */
function eightAt(row: usize, x: i32, bytes: i32, shift: i32): v128 {
  if (bytes === 1) return v128.load_ext<u8>(row + <usize>x);
  return i16x8.min_u(i16x8.splat(255), i16x8.shr_u(v128.load(row + ((<usize>x) << 1)), shift));
}

function lineOf(from: usize, y: i32, parity: i32, last: i32, line: usize): usize {
  return from + <usize>max(parity, min(last, y)) * line;
}

function cubic8(a: v128, b: v128, c: v128, d: v128): v128 {
  const near = i16x8.mul(i16x8.add(b, c), i16x8.splat(9));
  const sum = i16x8.shr_s(i16x8.add(i16x8.sub(i16x8.sub(near, a), d), i16x8.splat(8)), 4);
  return i16x8.max_s(i16x8.splat(0), i16x8.min_s(i16x8.splat(255), sum));
}

function cubic(a: i32, b: i32, c: i32, d: i32): i32 {
  return max(0, min(255, (9 * (b + c) - a - d + 8) >> 4));
}

/** A field as a whole soft picture with its margin. @param to its first sample; stride in samples */
export function softField(
  from: usize,
  width: i32,
  height: i32,
  parity: i32,
  bytes: i32,
  shift: i32,
  to: usize,
  stride: i32,
): void {
  const line = <usize>(width * bytes);
  const last = height - 1 - ((height - 1 - parity) & 1);
  for (let y = 0; y < height; y++) {
    const out = to + <usize>(y * stride);
    // Own lines from the third above to the third below, or from the fourth to the fourth where this one is there itself.
    const own = (y & 1) === parity;
    const near = own ? y : y - 1;
    const r0 = lineOf(from, near - 4, parity, last, line);
    const r1 = lineOf(from, near - 2, parity, last, line);
    const r2 = lineOf(from, near, parity, last, line);
    const r3 = lineOf(from, near + 2, parity, last, line);
    const r4 = lineOf(from, near + 4, parity, last, line);
    let x = 0;
    for (; x + 8 <= width; x += 8) {
      const b = eightAt(r1, x, bytes, shift);
      const c = eightAt(r2, x, bytes, shift);
      const d = eightAt(r3, x, bytes, shift);
      const e = eightAt(r4, x, bytes, shift);
      let sum: v128;
      if (own) {
        const a = eightAt(r0, x, bytes, shift);
        sum = i16x8.add(i16x8.add(cubic8(a, b, c, d), i16x8.shl(c, 1)), cubic8(b, c, d, e));
      } else sum = i16x8.add(i16x8.add(c, i16x8.shl(cubic8(b, c, d, e), 1)), d);
      const soft = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2);
      v128.store64_lane(out + <usize>x, i8x16.narrow_i16x8_u(soft, soft), 0);
    }
    for (; x < width; x++) {
      const b = sampleAt(r1, x, bytes, shift);
      const c = sampleAt(r2, x, bytes, shift);
      const d = sampleAt(r3, x, bytes, shift);
      const e = sampleAt(r4, x, bytes, shift);
      const sum = own ? cubic(sampleAt(r0, x, bytes, shift), b, c, d) + 2 * c + cubic(b, c, d, e) : c + 2 * cubic(b, c, d, e) + d;
      store<u8>(out + <usize>x, <u8>((sum + 2) >> 2));
    }
  }
  repeatEdges(to, width, height, stride);
}

/** Half the size each way, rounded down, by the mean of four, with its margin. */
export function halveSoft(from: usize, width: i32, height: i32, stride: i32, to: usize, toStride: i32): void {
  const w = max(1, width >> 1);
  const h = max(1, height >> 1);
  for (let y = 0; y < h; y++) {
    const a = from + <usize>(2 * y * stride);
    const b = a + <usize>stride;
    for (let x = 0; x < w; x += 8) {
      const at = <usize>(2 * x);
      const sum = i16x8.add(i16x8.extadd_pairwise_i8x16_u(v128.load(a + at)), i16x8.extadd_pairwise_i8x16_u(v128.load(b + at)));
      const mean = i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2);
      v128.store64_lane(to + <usize>(y * toStride + x), i8x16.narrow_i16x8_u(mean, mean), 0);
    }
  }
  repeatEdges(to, w, h, toStride);
}

function repeatEdges(at: usize, width: i32, height: i32, stride: i32): void {
  for (let y = 0; y < height; y++) {
    const row = at + <usize>(y * stride);
    memory.fill(row - PAD, load<u8>(row), PAD);
    memory.fill(row + <usize>width, load<u8>(row + <usize>(width - 1)), <usize>(stride - width) - PAD);
  }
  const first = at - PAD;
  const last = first + <usize>((height - 1) * stride);
  for (let y = 1; y <= <i32>PAD; y++) {
    memory.copy(first - <usize>(y * stride), first, stride);
    memory.copy(last + <usize>(y * stride), last, stride);
  }
}
