/** How the samples of a packed raw picture lie in one buffer: planes one after the other, rows without padding. */
export interface PixelLayout {
  /** Bytes a sample: 1 for 8 bit, 2 (little endian) for more. */
  readonly bytes: 1 | 2;
  /**
   * The second and third plane are ceil(width / 2^x) by ceil(height / 2^y); null when there is luma only. With `rgb` they are blue and red, at
   * full size.
   */
  readonly chroma: { readonly shiftX: number; readonly shiftY: number } | null;
  /** Sample bits: 8, 10, 12 … */
  readonly bits: number;
  /** Planes are green, blue and red. */
  readonly rgb: boolean;
  /** A last plane, as large as the first, says how opaque each pixel is: from 0 to all bits. */
  readonly alpha: boolean;
}

const CHROMA = { '420': { shiftX: 1, shiftY: 1 }, '422': { shiftX: 1, shiftY: 0 }, '444': { shiftX: 0, shiftY: 0 } } as const;

/** Bits of a format's name. */
const BITS = '(?:(9|10|12|14|16)le)?';
const GREY = new RegExp(`^gray${BITS}$`);
const YUV = new RegExp(`^yuv(a)?j?(420|422|444)p${BITS}$`);
const RGB = new RegExp(`^gbr(a)?p${BITS}$`);

/**
 * Layout of a planar format by its usual name ("yuv420p", "yuvj422p", "yuva444p10le", "gbrap16le", "gray"); null when it is not one of
 * these.
 */
export function pixelLayout(name: string): PixelLayout | null {
  const of = (said: string | undefined): Pick<PixelLayout, 'bytes' | 'bits'> => {
    const bits = said ? Number(said) : 8;
    return { bytes: bits > 8 ? 2 : 1, bits };
  };
  const grey = GREY.exec(name);
  if (grey) return { ...of(grey[1]), chroma: null, rgb: false, alpha: false };
  const yuv = YUV.exec(name);
  if (yuv) {
    const [, alpha, chroma, bits] = yuv;
    return { ...of(bits), chroma: CHROMA[chroma as keyof typeof CHROMA], rgb: false, alpha: alpha !== undefined };
  }
  const rgb = RGB.exec(name);
  return rgb ? { ...of(rgb[2]), chroma: CHROMA['444'], rgb: true, alpha: rgb[1] !== undefined } : null;
}

/** Bytes of one picture. */
export function pictureBytes(layout: PixelLayout, width: number, height: number): number {
  const planes = planeSizes(layout, width, height);
  return planes.reduce((sum, plane) => sum + plane.width * plane.height, 0) * layout.bytes;
}

export interface PlaneSize {
  readonly width: number;
  readonly height: number;
}

/** Sizes of the planes in their order in the buffer. */
export function planeSizes(layout: PixelLayout, width: number, height: number): PlaneSize[] {
  return planeShifts(layout).map(({ shiftX, shiftY }) => ({
    width: ceilShift(width, shiftX),
    height: ceilShift(height, shiftY),
  }));
}

/** How often each plane is halved across and down, in their order in the buffer. */
export function planeShifts({ chroma, alpha }: PixelLayout): { readonly shiftX: number; readonly shiftY: number }[] {
  const whole = { shiftX: 0, shiftY: 0 };
  return [whole, ...(chroma ? [chroma, chroma] : []), ...(alpha ? [whole] : [])];
}

function ceilShift(n: number, shift: number): number {
  return (n + (1 << shift) - 1) >> shift;
}
