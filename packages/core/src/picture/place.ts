import { type PixelLayout, planeSizes } from './format.js';

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/**
 * The largest box of the source's shape inside the frame, centred; whole pixels, even so that halved chroma fits.
 * Never stretches: the shape is right to within the rounding.
 */
export function fitInside(source: { width: number; height: number }, frame: { width: number; height: number }): Box {
  const scale = Math.min(frame.width / source.width, frame.height / source.height);
  const even = (n: number, most: number): number => Math.max(2, Math.min(most, Math.round((n * scale) / 2) * 2));
  const width = even(source.width, frame.width);
  const height = even(source.height, frame.height);
  return { x: (((frame.width - width) / 2) >> 1) * 2, y: (((frame.height - height) / 2) >> 1) * 2, width, height };
}

/** Fills an 8-bit limited-range picture with black: luma 16, chroma 128. */
export function fillBlack(layout: PixelLayout, width: number, height: number, out: Uint8Array): void {
  out.fill(16, 0, width * height);
  if (layout.chroma) out.fill(128, width * height);
}

/** Copies an 8-bit picture of box's size into a frame at the box's place. Box x, y and sizes even where chroma is halved. */
export function placePicture(
  layout: PixelLayout,
  picture: Uint8Array,
  box: Box,
  frame: { width: number; height: number },
  out: Uint8Array,
): void {
  const from = planeSizes(layout, box.width, box.height);
  const to = planeSizes(layout, frame.width, frame.height);
  let source = 0;
  let target = 0;
  for (let plane = 0; plane < from.length; plane++) {
    const small = from[plane] as { width: number; height: number };
    const large = to[plane] as { width: number; height: number };
    const x = plane === 0 ? box.x : box.x >> (layout.chroma?.shiftX ?? 0);
    const y = plane === 0 ? box.y : box.y >> (layout.chroma?.shiftY ?? 0);
    for (let row = 0; row < small.height; row++) {
      const at = source + row * small.width;
      out.set(picture.subarray(at, at + small.width), target + (y + row) * large.width + x);
    }
    source += small.width * small.height;
    target += large.width * large.height;
  }
}
