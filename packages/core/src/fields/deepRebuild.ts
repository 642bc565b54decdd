import {
  isStraight,
  multipliedLayout,
  multiply,
  type PictureKind,
  type PixelLayout,
  pictureBytes,
  planeSizes,
  type Size,
  unmultiply,
} from '../picture/index.js';
import { planesOf } from './planes.js';
import { type FieldDoubts, type FieldRebuilder, type FieldWindow, FRAMES_BESIDE } from './rebuild.js';
import { KernelRebuilder } from './rebuild.wasm.js';

/** Bits that missing lines are made at, at most. */
const MADE_BITS = 12;

/** What pictures are whose lines are made. */
export interface RebuiltKind extends Pick<PictureKind, 'alpha'> {
  /** Luma goes from 0, not from black at 16 of 255. */
  readonly full?: boolean;
}

/** A rebuilder for pictures of any layout. Colour beside alpha counts as far as it is seen; lines of more than 12 bits are made at 12. */
export function openRebuilder(layout: PixelLayout, size: Size, kind: RebuiltKind = {}): FieldRebuilder {
  return layout.bits > MADE_BITS || isStraight(layout, kind)
    ? new DeepRebuilder(layout, size, kind)
    : new KernelRebuilder(layout, size.width, size.height);
}

/** Makes lines of pictures that were multiplied by alpha, at MADE_BITS, and puts them among the field's own. */
class DeepRebuilder implements FieldRebuilder {
  private readonly deep: PixelLayout;
  private readonly made: PixelLayout;
  private readonly inner: KernelRebuilder;
  /** Stored frames as they are made from. */
  private readonly known = new WeakMap<Uint8Array, Uint8Array>();
  private readonly lines: Uint8Array;
  private readonly wide: Uint8Array;

  constructor(
    private readonly layout: PixelLayout,
    private readonly size: Size,
    private readonly kind: RebuiltKind,
  ) {
    const { width, height } = size;
    this.deep = multipliedLayout(layout);
    this.made = { ...this.deep, bits: MADE_BITS };
    this.inner = new KernelRebuilder(this.made, width, height);
    this.lines = new Uint8Array(pictureBytes(this.made, width, height));
    this.wide = new Uint8Array(this.lines.length);
  }

  rebuild(window: FieldWindow, out: Uint8Array): number {
    const { layout, size, kind } = this;
    const met = this.inner.rebuild({ ...window, frames: window.frames.map((frame) => frame && this.from(frame)) }, this.lines);
    const [made, wide] = [new Uint16Array(this.lines.buffer), new Uint16Array(this.wide.buffer)];
    // All there is of twelve bits is all there is of sixteen.
    for (let i = 0; i < wide.length; i++) wide[i] = (made[i] << (16 - MADE_BITS)) | (made[i] >> (2 * MADE_BITS - 16));
    if (isStraight(layout, kind)) unmultiply(layout, { ...size, full: kind.full === true }, this.wide, out);
    else this.narrowed(wide, out);
    this.keep(window, out);
    return met;
  }

  doubts(): FieldDoubts {
    return this.inner.doubts();
  }

  private from(frame: Uint8Array): Uint8Array {
    const known = this.known.get(frame);
    if (known) return known;
    const { layout, size, kind } = this;
    const out = new Uint8Array(this.lines.length);
    const samples = new Uint16Array(out.buffer);
    if (isStraight(layout, kind)) multiply(layout, { ...size, full: kind.full === true }, frame, out);
    else samples.set(new Uint16Array(frame.buffer, frame.byteOffset, samples.length));
    const down = (isStraight(layout, kind) ? 16 : layout.bits) - MADE_BITS;
    for (let i = 0; i < samples.length; i++) samples[i] >>= down;
    this.known.set(frame, out);
    return out;
  }

  /** Samples of sixteen bits as the layout has them. */
  private narrowed(wide: Uint16Array, out: Uint8Array): void {
    const to = new Uint16Array(out.buffer, out.byteOffset, wide.length);
    const down = 16 - this.layout.bits;
    for (let i = 0; i < wide.length; i++) to[i] = wide[i] >> down;
  }

  /** Lines that the field has stay as they are. */
  private keep({ frames, keeps }: FieldWindow, out: Uint8Array): void {
    const { width, height } = this.size;
    const own = frames[FRAMES_BESIDE];
    if (!own) return;
    const [from, to] = [own, out].map((picture) => planesOf(this.layout, picture, width, height));
    planeSizes(this.layout, width, height).forEach((plane, i) => {
      for (let y = keeps === 'top' ? 0 : 1; y < plane.height; y += 2) {
        const line = y * plane.width;
        to[i].set(from[i].subarray(line, line + plane.width), line);
      }
    });
  }
}
