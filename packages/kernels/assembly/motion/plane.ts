import { PAD } from './sample';

/** Planes with a margin of repeated edges, PAD samples wide on every side, so that no other loop has to look where it is. */

/** Repeats the edges of a plane of 8-bit samples into its margin. `at` is its first sample. */
export function padEdges8(at: usize, width: i32, height: i32, stride: i32): void {
  for (let y = 0; y < height; y++) {
    const row = at + <usize>(y * stride);
    memory.fill(row - PAD, load<u8>(row), PAD);
    memory.fill(row + <usize>width, load<u8>(row + <usize>(width - 1)), stride - width - PAD);
  }
  const first = at - PAD;
  const last = first + <usize>((height - 1) * stride);
  for (let y = 1; y <= PAD; y++) {
    memory.copy(first - <usize>(y * stride), first, stride);
    memory.copy(last + <usize>(y * stride), last, stride);
  }
}

/** The same for 16-bit samples; stride in samples. */
export function padEdges16(at: usize, width: i32, height: i32, stride: i32): void {
  const line = (<usize>stride) << 1;
  for (let y = 0; y < height; y++) {
    const row = at + <usize>y * line;
    const left = load<u16>(row);
    const right = load<u16>(row + ((<usize>(width - 1)) << 1));
    for (let x = 1; x <= PAD; x++) store<u16>(row - ((<usize>x) << 1), left);
    for (let x = width; x < stride - PAD; x++) store<u16>(row + ((<usize>x) << 1), right);
  }
  const first = at - (PAD << 1);
  const last = first + <usize>(height - 1) * line;
  for (let y = 1; y <= PAD; y++) {
    memory.copy(first - <usize>y * line, first, line);
    memory.copy(last + <usize>y * line, last, line);
  }
}

/** Packed samples into a plane. `bytes` a sample. */
export function place(from: usize, width: i32, height: i32, bytes: i32, at: usize, stride: i32): void {
  for (let y = 0; y < height; y++)
    memory.copy(at + <usize>(y * stride * bytes), from + <usize>(y * width * bytes), width * bytes);
}

/** 16-bit samples to 8 bits by a shift. Strides in samples. */
export function narrow(from: usize, fromStride: i32, width: i32, height: i32, shift: i32, to: usize, stride: i32): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      store<u8>(to + <usize>(y * stride + x), <u8>min(255, load<u16>(from + ((<usize>(y * fromStride + x)) << 1)) >> <u16>shift));
    }
  }
}

/** Half the size each way by (1, 3, 3, 1) / 8 across and down. `to` is ceil(width / 2) by ceil(height / 2). */
export function halve(from: usize, width: i32, height: i32, stride: i32, to: usize, toStride: i32): void {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const line = <usize>stride;
  const even = i16x8.splat(0xff);
  const round = i16x8.splat(32);
  for (let y = 0; y < h; y++) {
    const row = from + <usize>(2 * y - 1) * line;
    for (let x = 0; x < w; x += 8) {
      let sum = i16x8.splat(0);
      let at = row + ((<usize>x) << 1) - 1;
      for (let j = 0; j < 4; j++, at += line) {
        // Samples 2x - 1 and 2x in one, 2x + 1 and 2x + 2 in the other.
        const a = v128.load(at);
        const b = v128.load(at, 2);
        const outer = i16x8.add(v128.and(a, even), i16x8.shr_u(b, 8));
        const inner = i16x8.add(i16x8.shr_u(a, 8), v128.and(b, even));
        const across = i16x8.add(outer, i16x8.add(inner, i16x8.shl(inner, 1)));
        sum = i16x8.add(sum, j === 0 || j === 3 ? across : i16x8.add(across, i16x8.shl(across, 1)));
      }
      const out = i16x8.shr_u(i16x8.add(sum, round), 6);
      v128.store64_lane(to + <usize>(y * toStride + x), i8x16.narrow_i16x8_u(out, out), 0);
    }
  }
}
