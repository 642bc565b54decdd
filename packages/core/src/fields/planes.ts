import { type PixelLayout, planeSizes } from '../picture/index.js';

/** A plane of 8 or 16 bit samples in a packed picture. */
export type Samples = Uint8Array | Uint16Array;

/** The planes of a packed picture, row-major, without padding. */
export function planesOf(layout: PixelLayout, picture: Uint8Array, width: number, height: number): Samples[] {
  let at = 0;
  return planeSizes(layout, width, height).map((size) => {
    const bytes = size.width * size.height * layout.bytes;
    const part = picture.subarray(at, at + bytes);
    at += bytes;
    if (layout.bytes === 1) return part;
    return part.byteOffset % 2 === 0
      ? new Uint16Array(part.buffer, part.byteOffset, bytes >> 1)
      : new Uint16Array(part.slice().buffer);
  });
}
