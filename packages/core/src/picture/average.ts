import type { PixelLayout } from './format.js';
import { samplesOf } from './place.js';

/** Averages pictures of one layout and size sample by sample, as stored, each with its weight. Weights sum up to 1. */
export class Average {
  private readonly sums: Float32Array;

  constructor(
    private readonly layout: PixelLayout,
    bytes: number,
  ) {
    this.sums = new Float32Array(bytes / layout.bytes);
  }

  add(picture: Uint8Array, weight: number): void {
    const { sums } = this;
    const samples = samplesOf(this.layout, picture);
    for (let i = 0; i < sums.length; i++) sums[i] = sums[i] + samples[i] * weight;
  }

  /** Gives the average, rounded, and begins anew. */
  take(out: Uint8Array): void {
    const { sums } = this;
    const samples = samplesOf(this.layout, out);
    for (let i = 0; i < sums.length; i++) samples[i] = sums[i] + 0.5;
    sums.fill(0);
  }
}
