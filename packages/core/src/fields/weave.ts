import { type PixelLayout, planeSizes } from '../picture/index.js';
import type { Rate } from '../time/index.js';
import { planesOf, type Samples } from './planes.js';
import type { FieldOrder } from './reading.js';

/** Frames of two fields a second at most: above it, what counts frames counts moments. */
const FRAMES_MOST = 30;

/** Whether frames of a rate can be of two fields, each at its own moment. */
export function allowsFields(frames: Rate): boolean {
  return frames.num <= FRAMES_MOST * frames.den;
}

/** How much of the finest detail from line to line is taken out before a picture's lines go into fields, where it would flicker. */
export const LOW_PASSES = ['off', 'light', 'strong'] as const;
export type LowPass = (typeof LOW_PASSES)[number];

/** Sixteenths of a line that each neighbour has; the line itself has the rest. Of detail that changes from each line to the next a half is left, or nothing. */
const NEIGHBOURS: Record<LowPass, number> = { off: 0, light: 2, strong: 4 };

/**
 * Puts lines of two pictures into one frame: the first picture's into the field that comes first in time.
 * @param first, second packed pictures of the layout, not written to; the same twice gives that picture (but for the low-pass)
 * @param out one picture's bytes, written
 */
export function weaveFields(
  layout: PixelLayout,
  {
    width,
    height,
    first,
    second,
    order,
    lowPass,
    out,
  }: {
    readonly width: number;
    readonly height: number;
    readonly first: Uint8Array;
    readonly second: Uint8Array;
    readonly order: FieldOrder;
    readonly lowPass: LowPass;
    readonly out: Uint8Array;
  },
): void {
  const planes = [first, second, out].map((picture) => planesOf(layout, picture, width, height)) as [
    Samples[],
    Samples[],
    Samples[],
  ];
  const share = NEIGHBOURS[lowPass];
  planeSizes(layout, width, height).forEach((size, i) => {
    const [a, b, to] = planes.map((own) => own[i]) as [Samples, Samples, Samples];
    for (let y = 0; y < size.height; y++) {
      const from = (y % 2 === 0) === (order === 'top') ? a : b;
      const line = y * size.width;
      if (share === 0) {
        to.set(from.subarray(line, line + size.width), line);
        continue;
      }
      const above = y > 0 ? line - size.width : line;
      const below = y + 1 < size.height ? line + size.width : line;
      for (let x = 0; x < size.width; x++) {
        const beside = from[above + x] + from[below + x];
        to[line + x] = (share * beside + (16 - 2 * share) * from[line + x] + 8) >> 4;
      }
    }
  });
}

/** Of film spread over fields by 2:3: the picture that a field shows, counted from the first. */
export function filmOfField(field: number): number {
  return 2 * Math.floor(field / 5) + (field % 5 < 2 ? 0 : 1);
}

/** Frames that so many pictures of film fill by 2:3; what is left of a last field is left out. */
export function framesOfFilm(pictures: number): number {
  const fields = 5 * Math.floor(pictures / 2) + (pictures % 2 === 1 ? 2 : 0);
  return Math.floor(fields / 2);
}
