import { type PixelLayout, planeShifts, planeSizes } from './format.js';

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** A box without rounding: of a picture, in shares of its width and height, say. */
export type Shape = Box;

export interface Size {
  readonly width: number;
  readonly height: number;
}

/**
 * inside: all of the picture, as large as it goes. fill: no edge is left empty, what stands out is cut. as-is: pixel for pixel. stretch: all of it in
 * all of the frame, its shape changed.
 */
export type FramingWay = 'inside' | 'fill' | 'as-is' | 'stretch';

/**
 * The box of the source's shape in the frame, centred; whole pixels, even so that halved chroma fits, but where the frame or the picture itself is odd.
 * Unless it is stretched, the shape is right to within the rounding. Filling and as-is boxes may reach over the frame's edges: x and y are negative then.
 */
export function placeBox(source: Size, frame: Size, framing: FramingWay = 'inside'): Box {
  if (framing === 'stretch') return { x: 0, y: 0, width: frame.width, height: frame.height };
  const middle = (whole: number, part: number): number => Math.floor((whole - part) / 4) * 2;
  const placed = (width: number, height: number): Box => ({
    x: middle(frame.width, width),
    y: middle(frame.height, height),
    width,
    height,
  });
  if (framing === 'as-is') return placed(Math.max(1, Math.round(source.width)), Math.max(1, Math.round(source.height)));
  const [across, down] = [frame.width / source.width, frame.height / source.height];
  const scale = framing === 'fill' ? Math.max(across, down) : Math.min(across, down);
  const scaled = (n: number, whole: number): number => {
    const exact = n * scale;
    if (Math.round(exact) === whole) return whole;
    return Math.max(2, Math.min(framing === 'inside' ? whole : Number.MAX_SAFE_INTEGER, Math.round(exact / 2) * 2));
  };
  return placed(scaled(source.width, frame.width), scaled(source.height, frame.height));
}

/** Fills a picture with one colour. Alpha is 0: nothing is there. */
export function fillWith(
  layout: PixelLayout,
  {
    width,
    height,
    out,
    over,
  }: {
    readonly width: number;
    readonly height: number;
    readonly out: Uint8Array;
    /** Samples of the colour, one for each plane but alpha's. */
    readonly over: readonly number[];
  },
): void {
  const samples = samplesOf(layout, out);
  let at = 0;
  planeSizes(layout, width, height).forEach((size, plane) => {
    const n = size.width * size.height;
    samples.fill(over[plane] ?? 0, at, at + n);
    at += n;
  });
}

/**
 * Copies a picture of box's size into a frame at the box's place; what reaches over the frame's edges is cut. Box x, y
 * and sizes even where chroma is halved.
 */
export function placePicture(
  layout: PixelLayout,
  {
    picture,
    box,
    frame,
    out,
  }: { readonly picture: Uint8Array; readonly box: Box; readonly frame: Size; readonly out: Uint8Array },
): void {
  const from = planeSizes(layout, box.width, box.height);
  const to = planeSizes(layout, frame.width, frame.height);
  const shifts = planeShifts(layout);
  const { bytes } = layout;
  let source = 0;
  let target = 0;
  for (let plane = 0; plane < from.length; plane++) {
    const small = from[plane] as Size;
    const large = to[plane] as Size;
    const { shiftX, shiftY } = shifts[plane] as { shiftX: number; shiftY: number };
    const [x, y] = [box.x >> shiftX, box.y >> shiftY];
    const skip = Math.max(0, -x);
    const wide = Math.min(small.width, large.width - x) - skip;
    const first = Math.max(0, -y);
    const last = Math.min(small.height, large.height - y);
    for (let row = first; row < last && wide > 0; row++) {
      const at = (source + row * small.width + skip) * bytes;
      out.set(picture.subarray(at, at + wide * bytes), (target + (y + row) * large.width + x + skip) * bytes);
    }
    source += small.width * small.height;
    target += large.width * large.height;
  }
}

/** A packed picture's bytes as its samples. */
export function samplesOf(layout: PixelLayout, bytes: Uint8Array): Uint8Array | Uint16Array {
  return layout.bytes === 2 ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1) : bytes;
}
