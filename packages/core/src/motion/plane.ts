// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** Width of the margin of repeated edges around a plane, in samples. */
export const PAD = 32;

/**
 * A plane of samples with a margin of PAD repeated samples on every side, so that loops need not look where they are.
 * Sample (x, y) is data[at + y * stride + x], for -PAD <= x < width + PAD and -PAD <= y < height + PAD.
 */
export interface Plane {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly at: number;
  readonly data: Uint8Array | Uint16Array;
}

export const strideOf = (width: number): number => (width + 2 * PAD + 15) & ~15;

/** @param samples packed, row-major, width * height */
export function padded(samples: Uint8Array | Uint16Array, width: number, height: number): Plane {
  const stride = strideOf(width);
  const size = stride * (height + 2 * PAD);
  const data = samples instanceof Uint8Array ? new Uint8Array(size) : new Uint16Array(size);
  for (let y = -PAD; y < height + PAD; y++) {
    const row = min(height - 1, max(0, y)) * width;
    const to = (y + PAD) * stride + PAD;
    for (let x = -PAD; x < stride - PAD; x++) data[to + x] = samples[row + min(width - 1, max(0, x))];
  }
  return { width, height, stride, at: PAD * stride + PAD, data };
}

/** Half the size each way, rounded up, by (1, 3, 3, 1) / 8 across and down: little is left of what the smaller one could not show. */
export function halved({ width, height, stride, at, data }: Plane): Plane {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const out = new Uint8Array(w * h);
  const weights = [1, 3, 3, 1];
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      let sum = 32;
      for (let j = 0; j < 4; j++) {
        const row = at + (2 * y - 1 + j) * stride + 2 * x - 1;
        for (let i = 0; i < 4; i++) sum += weights[i] * weights[j] * data[row + i];
      }
      out[y * w + x] = sum >> 6;
    }
  }
  return padded(out, w, h);
}

/** Eight bits of a plane of deeper samples. */
export function narrowed({ width, height, stride, at, data }: Plane, bits: number): Plane {
  const out = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) out[y * width + x] = min(255, data[at + y * stride + x] >> (bits - 8));
  }
  return padded(out, width, height);
}

/**
 * A stretch of a row between whole places, in 12 bits: linear across and down with weights of 15 bits, rounded as
 * WebAssembly's q15mulr does, so that kernels give the very same numbers.
 */
export function between(plane: Plane, x: number, y: number, fx: number, fy: number): number {
  const i = plane.at + y * plane.stride + x;
  const { data, stride } = plane;
  const a = data[i] << 4;
  const c = data[i + stride] << 4;
  const top = a + q15((data[i + 1] << 4) - a, fx);
  const bottom = c + q15((data[i + stride + 1] << 4) - c, fx);
  return top + q15(bottom - top, fy);
}

function q15(value: number, weight: number): number {
  return (value * weight + 0x4000) >> 15;
}

/** A fraction as a weight of 15 bits. */
export function weight15(fraction: number): number {
  return min(32767, (fraction * 32768) | 0);
}
