import { nothingIn } from './alpha.js';
import { type PixelLayout, planeShifts, planeSizes } from './format.js';
import { inverted, type Laid } from './lay.js';
import { type Size, samplesOf } from './place.js';

const { floor, max, min, round } = Math;

/**
 * What is seen of a picture, turned by quarters: the same samples at other places.
 * @param laid with quarters; sides and places of what is kept even where chroma is halved
 * @param picture packed, of the raster's size
 * @param out packed, of the bounds' size, written
 */
export function turnQuarters(
  layout: PixelLayout,
  { raster, kept, quarters, bounds }: Laid,
  picture: Uint8Array,
  out: Uint8Array,
): void {
  const [from, to] = [samplesOf(layout, picture), samplesOf(layout, out)];
  const shifts = planeShifts(layout);
  const targets = planeSizes(layout, bounds.width, bounds.height);
  let [source, target] = [0, 0];
  planeSizes(layout, raster.width, raster.height).forEach((own, plane) => {
    const { shiftX, shiftY } = shifts[plane] as { shiftX: number; shiftY: number };
    const { width, height } = targets[plane] as Size;
    const first = source + (kept.y >> shiftY) * own.width + (kept.x >> shiftX);
    // Along a row of what comes out, and from row to row, steps in what goes in.
    const [across, down] = [
      [1, own.width],
      [-own.width, 1],
      [-1, -own.width],
      [own.width, -1],
    ][quarters ?? 0] as [number, number];
    const begin = first + (across < 0 ? -across * (width - 1) : 0) + (down < 0 ? -down * (height - 1) : 0);
    for (let y = 0; y < height; y++) {
      let at = begin + y * down;
      for (let x = 0; x < width; x++, at += across) to[target + y * width + x] = from[at];
    }
    source += own.width * own.height;
    target += width * height;
  });
}

/** Steps between two samples that weights are worked out for. */
const STEPS = 256;

/** Weights of the four samples around a place, by its share of the way from the second to the third (Keys 1981, a = -1/2). */
const CUBIC = Float32Array.from({ length: 4 * (STEPS + 1) }, (_, i) => {
  const t = floor(i / 4) / STEPS;
  const near = (x: number): number => 1.5 * x ** 3 - 2.5 * x ** 2 + 1;
  const far = (x: number): number => -0.5 * x ** 3 + 2.5 * x ** 2 - 4 * x + 2;
  return [far(1 + t), near(t), near(1 - t), far(2 - t)][i % 4] as number;
});

/**
 * What is seen of a picture, turned by any angle: each pixel by a cubic of the sixteen around it; edges are soft over a pixel.
 * @param layout luma and chroma for each pixel (or three colours), and alpha; colour multiplied
 * @param picture packed, of the raster's size
 * @param full luma goes from 0, not from black at 16 of 255
 * @param out packed, of the bounds' size, written
 */
export function turnFreely(
  layout: PixelLayout,
  { raster, kept, matrix, bounds }: Laid,
  picture: Uint8Array,
  { full, out }: { readonly full: boolean; readonly out: Uint8Array },
): void {
  const [from, to] = [samplesOf(layout, picture), samplesOf(layout, out)];
  const planes = planeShifts(layout).length;
  const [n, most] = [raster.width * raster.height, 2 ** layout.bits - 1];
  const made = bounds.width * bounds.height;
  const nothing = Array.from({ length: planes }, (_, p) => (p === planes - 1 ? 0 : nothingIn(layout, p, full)));
  const back = inverted(matrix);
  const [left, top, right, bottom] = [kept.x, kept.y, kept.x + kept.width, kept.y + kept.height];
  const wide = raster.width;
  for (let y = 0; y < bounds.height; y++) {
    // Middles of pixels, in samples of the raster.
    const middle = bounds.y + y + 0.5;
    const [rowU, rowV] = [back.c * middle + back.e - 0.5, back.d * middle + back.f - 0.5];
    for (let x = 0; x < bounds.width; x++) {
      const at = y * bounds.width + x;
      const u = back.a * (bounds.x + x + 0.5) + rowU;
      const v = back.b * (bounds.x + x + 0.5) + rowV;
      const [i, j] = [floor(u), floor(v)];
      if (i < left - 2 || j < top - 2 || i > right || j > bottom) {
        for (let p = 0; p < planes; p++) to[p * made + at] = nothing[p] as number;
        continue;
      }
      const [wx, wy] = [4 * round((u - i) * STEPS), 4 * round((v - j) * STEPS)];
      if (i > left && j > top && i + 2 < right && j + 2 < bottom) {
        const [x0, x1, x2, x3] = [CUBIC[wx], CUBIC[wx + 1], CUBIC[wx + 2], CUBIC[wx + 3]];
        const [y0, y1, y2, y3] = [CUBIC[wy], CUBIC[wy + 1], CUBIC[wy + 2], CUBIC[wy + 3]];
        let k = (j - 1) * wide + i - 1;
        for (let p = 0; p < planes; p++, k += n) {
          const [k1, k2, k3] = [k + wide, k + 2 * wide, k + 3 * wide];
          const value =
            y0 * (x0 * from[k] + x1 * from[k + 1] + x2 * from[k + 2] + x3 * from[k + 3]) +
            y1 * (x0 * from[k1] + x1 * from[k1 + 1] + x2 * from[k1 + 2] + x3 * from[k1 + 3]) +
            y2 * (x0 * from[k2] + x1 * from[k2 + 1] + x2 * from[k2 + 2] + x3 * from[k2 + 3]) +
            y3 * (x0 * from[k3] + x1 * from[k3 + 1] + x2 * from[k3 + 2] + x3 * from[k3 + 3]);
          to[p * made + at] = value < 0 ? 0 : value > most ? most : value + 0.5;
        }
        continue;
      }
      // At its edges what lies outside is nothing.
      const [firstRow, lastRow] = [max(0, top - j + 1), min(4, bottom - j + 1)];
      const [firstColumn, lastColumn] = [max(0, left - i + 1), min(4, right - i + 1)];
      for (let p = 0; p < planes; p++) {
        const none = nothing[p] as number;
        let sum = 0;
        for (let r = firstRow; r < lastRow; r++) {
          const row = p * n + (j + r - 1) * wide + i - 1;
          let across = 0;
          for (let c = firstColumn; c < lastColumn; c++) across += CUBIC[wx + c] * (from[row + c] - none);
          sum += CUBIC[wy + r] * across;
        }
        to[p * made + at] = max(0, min(most, round(none + sum)));
      }
    }
  }
}

/**
 * A picture without alpha with one: all of it is there.
 * @param out packed, of the same layout with alpha, written
 */
export function withAlpha(layout: PixelLayout, picture: Uint8Array, out: Uint8Array): void {
  out.set(picture);
  samplesOf(layout, out).fill(2 ** layout.bits - 1, samplesOf(layout, picture).length);
}
