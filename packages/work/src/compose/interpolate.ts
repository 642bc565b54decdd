import { SHARES } from '@thawline/core/cadence';
import { type MadePicture, type MotionEngine, openMotion } from '@thawline/core/motion';
import {
  isStraight,
  type Mix,
  mix8,
  mix16,
  mixLight,
  multipliedLayout,
  multiply,
  type PictureKind,
  type PixelLayout,
  pictureBytes,
  type Size,
  unmultiply,
} from '@thawline/core/picture';

/** A picture of a source and its number. */
export interface Numbered {
  readonly k: number;
  readonly picture: Uint8Array;
}

/** Makes a picture between two. */
export interface Between {
  /** @param share of the second picture, in SHARES; above 0 and below all */
  make(a: Numbered, b: Numbered, share: number, out: Uint8Array): void;
}

/** Mixing counts in these: finer would not show in 8 bit. */
const MIX_PARTS = 256;

const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1);

/** Both pictures mixed, as stored or in linear light; colour beside alpha as far as it is seen. */
export function mixing(layout: PixelLayout, size: Size, mix: Mix = 'stored', kind: PictureKind = {}): Between {
  const { width, height } = size;
  const weightOf = (share: number): number => Math.round((share * MIX_PARTS) / SHARES);
  // Multiplied colour is no light of its own: it is mixed as it is stored.
  if (mix === 'light' && (!layout.alpha || isStraight(layout, kind))) {
    const light = kind.light ? { light: kind.light } : {};
    return {
      make: ({ picture: a }, { picture: b }, share, out) =>
        mixLight(layout, { width, height, a, b, share: weightOf(share), out, ...light }),
    };
  }
  if (!isStraight(layout, kind))
    return {
      make: ({ picture: a }, { picture: b }, share, out) =>
        layout.bytes === 2 ? mix16(words(a), words(b), weightOf(share), words(out)) : mix8(a, b, weightOf(share), out),
    };
  const [first, second] = [0, 0].map(() => new Uint8Array(pictureBytes(multipliedLayout(layout), width, height))) as [
    Uint8Array,
    Uint8Array,
  ];
  return {
    make: ({ picture: a }, { picture: b }, share, out) => {
      multiply(layout, size, a, first);
      multiply(layout, size, b, second);
      mix16(words(first), words(second), weightOf(share), words(first));
      unmultiply(layout, size, first, out);
    },
  };
}

/** Both pictures moved to the moment. */
export class Moving implements Between {
  /** Made when it is first needed: a pool makes pictures elsewhere. */
  private engine: MotionEngine | null = null;
  /** Numbers of the pictures that were pushed last, older and newer. */
  private pushed: readonly [number, number] = [-1, -1];
  /** What is known of the picture that was made last. */
  last: MadePicture | null = null;

  constructor(
    private readonly layout: PixelLayout,
    private readonly size: Size,
    private readonly kind: PictureKind = {},
  ) {}

  make(a: Numbered, b: Numbered, share: number, out: Uint8Array): void {
    this.engine ??= openMotion(this.layout, this.size, this.kind);
    const [older, newer] = this.pushed;
    if (older !== a.k || newer !== b.k) {
      if (newer !== a.k) this.engine.push(a.picture);
      this.engine.push(b.picture);
      this.pushed = [a.k, b.k];
    }
    this.last = this.engine.make(share / SHARES, out);
  }
}
