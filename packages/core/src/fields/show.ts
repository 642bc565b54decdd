import { type PixelLayout, planeSizes } from '../picture/index.js';
import { planesOf } from './planes.js';
import type { FieldOrder } from './reading.js';
import type { FieldDoubts } from './rebuild.js';
import { BLOCK } from './vectors.js';

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Share of the range at which lines that are not there are drawn. */
const EMPTY = 0.4;

/** A frame with one field's lines alone; those of the other are grey. */
export function fieldAlone(
  layout: PixelLayout,
  { width, height, picture, keeps }: Size & { readonly picture: Uint8Array; readonly keeps: FieldOrder },
): Uint8Array {
  const out = picture.slice();
  const most = 2 ** layout.bits - 1;
  const grey = [Math.round(most * EMPTY), (most + 1) / 2, (most + 1) / 2];
  planesOf(layout, out, width, height).forEach((plane, i) => {
    const size = planeSizes(layout, width, height)[i] as Size;
    for (let y = keeps === 'top' ? 1 : 0; y < size.height; y += 2) plane.fill(grey[i], y * size.width, (y + 1) * size.width);
  });
  return out;
}

/** What is multiplied before it is shown: differences of a few steps are seen then. */
const SHOWN_TIMES = 4;

/** Where two pictures differ, and by how much: luma's difference, enlarged, around the middle grey. */
export function fieldDifference(
  layout: PixelLayout,
  { width, height, a, b }: Size & { readonly a: Uint8Array; readonly b: Uint8Array },
): Uint8Array {
  const out = a.slice();
  const most = 2 ** layout.bits - 1;
  const middle = (most + 1) / 2;
  const [[one], [other], shown] = [a, b, out].map((picture) => planesOf(layout, picture, width, height));
  shown.forEach((plane, i) => {
    if (i > 0) plane.fill(middle);
    else
      for (let k = 0; k < plane.length; k++) {
        const d = (other[k] - one[k]) * SHOWN_TIMES;
        plane[k] = Math.max(0, Math.min(most, middle + d));
      }
  });
  return out;
}

/** What is left of a picture's light where its lines are sure, so that the others stand out. */
const FADED = 0.3;
/** Doubts of 255: up to the one a block fades, from the other on it is shown as it is. Fine detail that is met has some. */
const [SURE, UNSURE] = [40, 100];

/** A rebuilt picture in which what is sure has faded, and what is not has its own light and colour. */
export function unsureParts(
  layout: PixelLayout,
  { width, height, picture, doubts }: Size & { readonly picture: Uint8Array; readonly doubts: FieldDoubts },
): Uint8Array {
  const out = picture.slice();
  const middle = 2 ** (layout.bits - 1);
  planesOf(layout, out, width, height).forEach((plane, i) => {
    const size = planeSizes(layout, width, height)[i] as Size;
    const [across, down] = [width / size.width, height / size.height];
    for (let y = 0; y < size.height; y++) {
      const row = Math.min(doubts.rows - 1, Math.floor((y * down) / BLOCK)) * doubts.columns;
      for (let x = 0; x < size.width; x++) {
        const doubt = doubts.doubt[row + Math.min(doubts.columns - 1, Math.floor((x * across) / BLOCK))];
        const kept = FADED + (1 - FADED) * Math.max(0, Math.min(1, (doubt - SURE) / (UNSURE - SURE)));
        const at = y * size.width + x;
        // Light fades to the middle, colour to none.
        plane[at] = Math.round(middle + (plane[at] - middle) * (i === 0 ? kept : (kept - FADED) / (1 - FADED)));
      }
    }
  });
  return out;
}
