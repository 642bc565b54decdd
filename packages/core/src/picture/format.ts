/** How the samples of a packed raw picture lie in one buffer: planes one after the other, rows without padding. */
export interface PixelLayout {
  /** Bytes a sample: 1 for 8 bit, 2 (little endian) for more. */
  readonly bytes: 1 | 2;
  /** Chroma planes are ceil(width / 2^x) by ceil(height / 2^y); null when there is luma only. */
  readonly chroma: { readonly shiftX: number; readonly shiftY: number } | null;
  /** Sample bits: 8, 10, 12 … */
  readonly bits: number;
}

const CHROMA = { '420': { shiftX: 1, shiftY: 1 }, '422': { shiftX: 1, shiftY: 0 }, '444': { shiftX: 0, shiftY: 0 } } as const;

/** Layout of a planar format by its usual name ("yuv420p", "yuvj422p", "yuv444p10le", "gray"); null when it is not one of these. */
export function pixelLayout(name: string): PixelLayout | null {
  if (name === 'gray') return { bytes: 1, chroma: null, bits: 8 };
  const match = /^yuvj?(420|422|444)p(?:(10|12)le)?$/.exec(name);
  if (!match) return null;
  const bits = match[2] ? Number(match[2]) : 8;
  return { bytes: bits > 8 ? 2 : 1, chroma: CHROMA[match[1] as keyof typeof CHROMA], bits };
}

/** Bytes of one picture. */
export function pictureBytes(layout: PixelLayout, width: number, height: number): number {
  const luma = width * height;
  const { chroma } = layout;
  const one = chroma ? ceilShift(width, chroma.shiftX) * ceilShift(height, chroma.shiftY) : 0;
  return (luma + 2 * one) * layout.bytes;
}

/** Sizes of the planes in their order in the buffer. */
export function planeSizes(layout: PixelLayout, width: number, height: number): { width: number; height: number }[] {
  const sizes = [{ width, height }];
  if (layout.chroma) {
    const size = { width: ceilShift(width, layout.chroma.shiftX), height: ceilShift(height, layout.chroma.shiftY) };
    sizes.push(size, size);
  }
  return sizes;
}

function ceilShift(n: number, shift: number): number {
  return (n + (1 << shift) - 1) >> shift;
}
