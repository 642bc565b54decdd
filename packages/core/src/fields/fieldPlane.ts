import type { Samples } from './planes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** Width of the margin of repeated edges around a plane in which motion is looked for, in samples. */
export const FIELD_PAD = 64;
/** Sizes at which it is looked for: all, a half, a quarter, an eighth. */
export const FIELD_LEVELS = 4;

/**
 * A field as a whole picture, a little soft, for finding motion: 8 bit, sample (x, y) at data[at + y * stride + x], with a margin of FIELD_PAD.
 */
export interface FieldPlane {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly at: number;
  readonly data: Uint8Array;
}

export const fieldStride = (width: number): number => (width + 2 * FIELD_PAD + 15) & ~15;

export function emptyPlane(width: number, height: number): FieldPlane {
  const stride = fieldStride(width);
  return {
    width,
    height,
    stride,
    at: FIELD_PAD * stride + FIELD_PAD,
    data: new Uint8Array(stride * (height + 2 * FIELD_PAD)),
  };
}

/** Sizes of the levels, finest first. */
export function fieldLevels(width: number, height: number): { width: number; height: number }[] {
  return Array.from({ length: FIELD_LEVELS }, (_, k) => ({
    width: max(1, width >> k),
    height: max(1, height >> k),
  }));
}

/**
 * A field's lines with those between them by a cubic, then each with its neighbours by (1, 2, 1) / 4: fields of both kinds are as soft and lie at one
 * height then.
 * @param samples of the frame, row-major, width * height
 * @param parity of the field's lines: 0 or 1
 * @param shift brings its samples to 8 bits
 */
export function softField(
  samples: Samples,
  {
    width,
    height,
    parity,
    shift,
  }: { readonly width: number; readonly height: number; readonly parity: number; readonly shift: number },
): FieldPlane {
  const out = emptyPlane(width, height);
  const last = height - 1 - ((height - 1 - parity) & 1);
  const own = (y: number): number => min(last, max(parity, y)) * width;
  const at = (row: number, x: number): number => min(255, samples[row + x] >> shift);
  const between = (y: number, x: number): number => {
    const [a, b, c, d] = [own(y - 3), own(y - 1), own(y + 1), own(y + 3)];
    return min(255, max(0, (9 * (at(b, x) + at(c, x)) - at(a, x) - at(d, x) + 8) >> 4));
  };
  for (let y = 0; y < height; y++) {
    const to = out.at + y * out.stride;
    const isOwn = (y & 1) === parity;
    for (let x = 0; x < width; x++) {
      const sum = isOwn
        ? between(y - 1, x) + 2 * at(own(y), x) + between(y + 1, x)
        : at(own(y - 1), x) + 2 * between(y, x) + at(own(y + 1), x);
      out.data[to + x] = (sum + 2) >> 2;
    }
  }
  repeatEdges(out);
  return out;
}

/** Half the size each way, rounded down, by the mean of four. */
export function halvedPlane({ width, height, stride, at, data }: FieldPlane): FieldPlane {
  const out = emptyPlane(max(1, width >> 1), max(1, height >> 1));
  for (let y = 0; y < out.height; y++)
    for (let x = 0; x < out.width; x++) {
      const i = at + 2 * y * stride + 2 * x;
      const sum = data[i] + data[i + 1] + data[i + stride] + data[i + stride + 1];
      out.data[out.at + y * out.stride + x] = (sum + 2) >> 2;
    }
  repeatEdges(out);
  return out;
}

function repeatEdges({ width, height, stride, at, data }: FieldPlane): void {
  for (let y = 0; y < height; y++) {
    const row = at + y * stride;
    data.fill(data[row], row - FIELD_PAD, row);
    data.fill(data[row + width - 1], row + width, row - FIELD_PAD + stride);
  }
  const first = at - FIELD_PAD;
  for (let y = 1; y <= FIELD_PAD; y++) {
    data.copyWithin(first - y * stride, first, first + stride);
    data.copyWithin(first + (height - 1 + y) * stride, first + (height - 1) * stride, first + height * stride);
  }
}
