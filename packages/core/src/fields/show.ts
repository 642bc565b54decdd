import { type PixelLayout, planeSizes } from '../picture/index.js';
import { planesOf } from './planes.js';
import type { FieldOrder } from './reading.js';

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
    for (let y = keeps === 'top' ? 1 : 0; y < size.height; y += 2)
      plane.fill(grey[i] as number, y * size.width, (y + 1) * size.width);
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
  const [one, other, shown] = [a, b, out].map((picture) => planesOf(layout, picture, width, height));
  shown?.forEach((plane, i) => {
    if (i > 0) plane.fill(middle);
    else
      for (let k = 0; k < plane.length; k++) {
        const d = ((other?.[0]?.[k] as number) - (one?.[0]?.[k] as number)) * SHOWN_TIMES;
        plane[k] = Math.max(0, Math.min(most, middle + d));
      }
  });
  return out;
}
