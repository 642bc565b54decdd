import { SHARES } from '@thawline/core/cadence';
import { KernelMotion, type MadePicture } from '@thawline/core/motion';
import { type Mix, mix8, mix16, mixLight, type PixelLayout } from '@thawline/core/picture';

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

/** Both pictures mixed, as stored or in linear light. */
export function mixing(layout: PixelLayout, width: number, height: number, mix: Mix = 'stored'): Between {
  const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1);
  return {
    make: ({ picture: a }, { picture: b }, share, out) => {
      const weight = Math.round((share * MIX_PARTS) / SHARES);
      if (mix === 'light') return mixLight(layout, { width, height, a, b, share: weight, out });
      return layout.bytes === 2 ? mix16(words(a), words(b), weight, words(out)) : mix8(a, b, weight, out);
    },
  };
}

/** Both pictures moved to the moment. */
export class Moving implements Between {
  /** Made when it is first needed: a pool makes pictures elsewhere. */
  private engine: KernelMotion | null = null;
  /** Numbers of the pictures that were pushed last, older and newer. */
  private pushed: readonly [number, number] = [-1, -1];
  /** What is known of the picture that was made last. */
  last: MadePicture | null = null;

  constructor(
    private readonly layout: PixelLayout,
    private readonly width: number,
    private readonly height: number,
  ) {}

  make(a: Numbered, b: Numbered, share: number, out: Uint8Array): void {
    this.engine ??= new KernelMotion(this.layout, this.width, this.height);
    const [older, newer] = this.pushed;
    if (older !== a.k || newer !== b.k) {
      if (newer !== a.k) this.engine.push(a.picture);
      this.engine.push(b.picture);
      this.pushed = [a.k, b.k];
    }
    this.last = this.engine.make(share / SHARES, out);
  }
}
