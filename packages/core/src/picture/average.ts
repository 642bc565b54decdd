import { isStraight, multipliedLayout, multiply, type PictureKind, unmultiply } from './alpha.js';
import { type PixelLayout, pictureBytes } from './format.js';
import { type Size, samplesOf } from './place.js';

/**
 * Averages pictures of one layout and size sample by sample, as stored, each with its weight. Weights sum up to 1. Colour beside alpha counts as
 * far as it is seen.
 */
export class Average {
  private readonly sums: Float32Array;
  private readonly inside: PixelLayout;
  /** Where colour is multiplied by alpha; null where it need not be. */
  private readonly multiplied: Uint8Array | null;

  constructor(
    private readonly layout: PixelLayout,
    private readonly size: Size,
    kind: PictureKind = {},
  ) {
    const straight = isStraight(layout, kind);
    this.inside = straight ? multipliedLayout(layout) : layout;
    const bytes = pictureBytes(this.inside, size.width, size.height);
    this.multiplied = straight ? new Uint8Array(bytes) : null;
    this.sums = new Float32Array(bytes / this.inside.bytes);
  }

  add(picture: Uint8Array, weight: number): void {
    const { sums, multiplied } = this;
    if (multiplied) multiply(this.layout, this.size, picture, multiplied);
    const samples = samplesOf(this.inside, multiplied ?? picture);
    for (let i = 0; i < sums.length; i++) sums[i] = sums[i] + samples[i] * weight;
  }

  /** Gives the average, rounded, and begins anew. */
  take(out: Uint8Array): void {
    const { sums, multiplied } = this;
    const samples = samplesOf(this.inside, multiplied ?? out);
    for (let i = 0; i < sums.length; i++) samples[i] = sums[i] + 0.5;
    if (multiplied) unmultiply(this.layout, this.size, multiplied, out);
    sums.fill(0);
  }
}
