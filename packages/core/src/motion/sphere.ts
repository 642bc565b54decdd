import { type PixelLayout, pictureBytes, planeShifts, planeSizes } from '../picture/index.js';
import type { MadePicture, MotionEngine } from './engine.js';

/** Share of the width that is repeated on either side, and of the height beyond each pole. */
const BEYOND = 1 / 8;
/** What is repeated is a multiple of this: seven halvings and the patches of the coarsest level lie alike then. */
const STEP = 64;

/** Samples that an equirectangular picture of a size is continued by on each side. */
export function beyondOf(length: number): number {
  return Math.min(length & ~1, Math.max(STEP, Math.ceil((length * BEYOND) / STEP) * STEP));
}

/**
 * Pictures of all around (equirectangular): the left edge goes on at the right one, and what leads over a pole comes back down half a turn away. Each
 * picture is continued beyond its edges before motion is looked for, and what was made is cut to its size, so a seam is no edge.
 */
export class SphereMotion implements MotionEngine {
  private readonly engine: MotionEngine;
  private readonly wide: number;
  private readonly high: number;
  private readonly beyond: { readonly x: number; readonly y: number };
  private readonly large: Uint8Array;

  /** @param open an engine for pictures of the size that continued ones have */
  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
    open: (layout: PixelLayout, width: number, height: number) => MotionEngine,
  ) {
    this.beyond = { x: beyondOf(width), y: beyondOf(height) };
    this.wide = width + 2 * this.beyond.x;
    this.high = height + 2 * this.beyond.y;
    this.engine = open(layout, this.wide, this.high);
    this.large = new Uint8Array(pictureBytes(layout, this.wide, this.high));
  }

  get ready(): boolean {
    return this.engine.ready;
  }

  push(picture: Uint8Array): void {
    this.planes(({ small, large, width, height, wide, high, left, above, bytes }) => {
      const half = width >> 1;
      for (let y = 0; y < high; y++) {
        const own = y - above;
        // Beyond a pole: the same distance from it, on the other side.
        const over = own < 0 || own >= height;
        const row = own < 0 ? -1 - own : own >= height ? 2 * height - 1 - own : own;
        const from = Math.min(height - 1, Math.max(0, row)) * width;
        const to = y * wide;
        for (let x = 0; x < wide; ) {
          const at = (((x - left + (over ? half : 0)) % width) + width) % width;
          const run = Math.min(wide - x, width - at);
          large.set(picture.subarray(small + (from + at) * bytes, small + (from + at + run) * bytes), (to + x) * bytes);
          x += run;
        }
      }
    });
    this.engine.push(this.large);
  }

  make(t: number, out: Uint8Array): MadePicture {
    const made = this.engine.make(t, this.large);
    this.planes(({ small, large, width, height, wide, left, above, bytes }) => {
      for (let y = 0; y < height; y++) {
        const from = ((y + above) * wide + left) * bytes;
        out.set(large.subarray(from, from + width * bytes), small + y * width * bytes);
      }
    });
    return made;
  }

  /** Of the picture itself, without what it was continued by. */
  risk(): Float32Array {
    const all = this.engine.risk();
    const [across, down, wide] = [(this.width + 1) >> 1, (this.height + 1) >> 1, (this.wide + 1) >> 1];
    const out = new Float32Array(across * down);
    const first = (this.beyond.y >> 1) * wide + (this.beyond.x >> 1);
    for (let y = 0; y < down; y++) out.set(all.subarray(first + y * wide, first + y * wide + across), y * across);
    return out;
  }

  /** Calls with each plane: where it begins in a packed picture, and its place in the continued one. */
  private planes(each: (plane: PlaneOfBoth) => void): void {
    const { layout, beyond, large } = this;
    const { bytes } = layout;
    const small = planeSizes(layout, this.width, this.height);
    const wide = planeSizes(layout, this.wide, this.high);
    const shifts = planeShifts(layout);
    let [from, to] = [0, 0];
    small.forEach(({ width, height }, i) => {
      const size = wide[i] as { readonly width: number; readonly height: number };
      const { shiftX, shiftY } = shifts[i] as { readonly shiftX: number; readonly shiftY: number };
      const length = size.width * size.height * bytes;
      each({
        small: from,
        large: large.subarray(to, to + length),
        width,
        height,
        wide: size.width,
        high: size.height,
        left: beyond.x >> shiftX,
        above: beyond.y >> shiftY,
        bytes,
      });
      from += width * height * bytes;
      to += length;
    });
  }
}

interface PlaneOfBoth {
  /** Where it begins in a packed picture, in bytes. */
  readonly small: number;
  readonly large: Uint8Array;
  readonly width: number;
  readonly height: number;
  readonly wide: number;
  readonly high: number;
  readonly left: number;
  readonly above: number;
  readonly bytes: 1 | 2;
}
