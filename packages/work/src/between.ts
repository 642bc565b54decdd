import { KernelMotion, type MadePicture } from '@thawline/core/motion';
import { mix8, mix16, type PixelLayout } from '@thawline/core/picture';

/** Makes a picture between picture k (a) and k + 1 (b). */
export interface Between {
  /** Shares of the second picture are counted in these parts of the whole. */
  readonly parts: number;
  /** @param share above 0 and below parts */
  make(k: number, a: Uint8Array, b: Uint8Array, share: number, out: Uint8Array): void;
}

/** Both pictures mixed as stored. */
export function mixing(layout: PixelLayout): Between {
  const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1);
  return {
    parts: 256,
    make: (_, a, b, share, out) => (layout.bytes === 2 ? mix16(words(a), words(b), share, words(out)) : mix8(a, b, share, out)),
  };
}

/** Both pictures moved to the moment. */
export class Moving implements Between {
  /** Fine enough that nothing moves by a tenth of a pixel between two shares. */
  readonly parts = 65536;
  /** Made when it is first needed: a pool makes pictures elsewhere. */
  private engine: KernelMotion | null = null;
  /** Number of the picture that was pushed last. */
  private newest = -2;
  /** What is known of the picture that was made last. */
  last: MadePicture | null = null;

  constructor(
    private readonly layout: PixelLayout,
    private readonly width: number,
    private readonly height: number,
  ) {}

  make(k: number, a: Uint8Array, b: Uint8Array, share: number, out: Uint8Array): void {
    this.engine ??= new KernelMotion(this.layout, this.width, this.height);
    if (this.newest !== k + 1) {
      if (this.newest !== k) this.engine.push(a);
      this.engine.push(b);
      this.newest = k + 1;
    }
    this.last = this.engine.make(share / this.parts, out);
  }
}
