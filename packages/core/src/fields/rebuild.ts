import { type PixelLayout, pictureBytes, planeSizes } from '../picture/index.js';
import type { FieldOrder } from './reading.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min } = Math;

/** Stored frames around one field, packed planes of the layout, not written to; null beyond the clip's ends. */
export interface FieldWindow {
  readonly before: Uint8Array | null;
  readonly own: Uint8Array;
  readonly after: Uint8Array | null;
  /** Which lines of `own` are kept: its top field's (0, 2, 4 …) or its bottom field's (1, 3, 5 …). */
  readonly keeps: FieldOrder;
  /** Which field comes first in time. */
  readonly first: FieldOrder;
}

/** Makes whole pictures of one field each. */
export interface FieldRebuilder {
  /**
   * Lines that the field has stay bit for bit, of every plane; the others are made.
   * @param out one picture's bytes, written
   * @returns how sure the made lines are, 0 to 1: the mean over all of their samples
   */
  rebuild(window: FieldWindow, out: Uint8Array): number;
}

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

/** Planes around a field in time: those with lines of the other kind half a frame away, and those with lines of its own a frame away. */
export interface PlanesAround {
  /** The field a half frame before and after: they have the lines that are to be made. */
  readonly earlier: Samples | null;
  readonly later: Samples | null;
  /** The field a whole frame before and after: they have the lines that are kept. */
  readonly previous: Samples | null;
  readonly next: Samples | null;
  readonly own: Samples;
}

/** Which of the stored frames holds each of the fields around one. */
export function aroundField<T>({
  before,
  own,
  after,
  keeps,
  first,
}: {
  readonly before: T | null;
  readonly own: T;
  readonly after: T | null;
  readonly keeps: FieldOrder;
  readonly first: FieldOrder;
}) {
  const isFirst = keeps === first;
  return {
    ...{ previous: before, own, next: after },
    ...{ earlier: isFirst ? before : own, later: isFirst ? own : after },
  };
}

/** The rebuilder as it reads best. Slow. */
export class ReferenceRebuilder implements FieldRebuilder {
  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
  ) {}

  rebuild(window: FieldWindow, out: Uint8Array): number {
    const { layout, width, height } = this;
    out.set(window.own.subarray(0, pictureBytes(layout, width, height)));
    const planes = (picture: Uint8Array | null): Samples[] | null => picture && planesOf(layout, picture, width, height);
    const around = aroundField({
      ...{ before: planes(window.before), own: planes(window.own) as Samples[], after: planes(window.after) },
      ...{ keeps: window.keeps, first: window.first },
    });
    const most = 2 ** layout.bits - 1;
    const made = planesOf(layout, out, width, height);
    planeSizes(layout, width, height).forEach((size, i) => {
      const plane = (of: Samples[] | null): Samples | null => of?.[i] ?? null;
      const fields = {
        ...{ earlier: plane(around.earlier), later: plane(around.later), previous: plane(around.previous) },
        ...{ next: plane(around.next), own: around.own[i] as Samples },
      };
      rebuildPlane(fields, { ...size, keeps: window.keeps, most, out: made[i] as Samples });
    });
    return 1;
  }
}

function rebuildPlane(
  { earlier, later, previous, next, own }: PlanesAround,
  {
    width,
    height,
    keeps,
    most,
    out,
  }: {
    readonly width: number;
    readonly height: number;
    readonly keeps: FieldOrder;
    readonly most: number;
    readonly out: Samples;
  },
): void {
  const parity = keeps === 'top' ? 0 : 1;
  const line = (y: number): number => (y < 0 ? parity : y >= height ? y - 2 * Math.ceil((y - height + 1) / 2) : y) * width;
  for (let y = 1 - parity; y < height; y += 2) {
    const [far, up, down, farther] = [line(y - 3), line(y - 1), line(y + 1), line(y + 3)];
    for (let x = 0; x < width; x++) {
      const [a, b] = [own[up + x] as number, own[down + x] as number];
      const spatial = (9 * (a + b) - (own[far + x] as number) - (own[farther + x] as number) + 8) >> 4;
      const at = y * width + x;
      const e = (earlier ?? later ?? own)[at] as number;
      const l = (later ?? earlier ?? own)[at] as number;
      const still = (e + l) >> 1;
      const apart = (of: Samples | null): number =>
        of ? (abs((of[up + x] as number) - a) + abs((of[down + x] as number) - b)) >> 1 : 0;
      const moved = earlier && later ? max(abs(e - l) >> 1, apart(previous), apart(next)) : most;
      out[at] = max(0, min(most, max(still - moved, min(still + moved, spatial))));
    }
  }
}
