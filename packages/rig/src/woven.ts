import { weaveFields } from '@thawline/core/fields';
import { type PixelLayout, pixelLayout } from '@thawline/core/picture';

const LAYOUT = pixelLayout('yuv420p') as PixelLayout;

/** Lines of two pictures of 4:2:0 in turn: the upper one's 0, 2, 4 …, the lower one's 1, 3, 5 … */
export function woven(upper: Uint8Array, lower: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(upper.length);
  weaveFields(LAYOUT, { width, height, first: upper, second: lower, order: 'top', lowPass: 'off', out });
  return out;
}
