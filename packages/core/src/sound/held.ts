// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** A window onto interleaved sound that comes in blocks: what is no longer needed is forgotten, before and after it lies silence. */
export class HeldSound {
  samples: Float32Array = new Float32Array(0);
  /** Number of the first sample that is held, and of the one after the last. */
  base = 0;
  end = 0;

  constructor(readonly channels: number) {}

  append(block: Float32Array): void {
    const joined = new Float32Array(this.samples.length + block.length);
    joined.set(this.samples);
    joined.set(block, this.samples.length);
    this.samples = joined;
    this.end += block.length / this.channels;
  }

  at(n: number, channel: number): number {
    return n < this.base || n >= this.end ? 0 : this.samples[(n - this.base) * this.channels + channel];
  }

  /** Drops what lies before a sample. */
  forget(before: number): void {
    const drop = min(max(0, before - this.base), this.end - this.base);
    if (drop <= 0) return;
    this.samples = this.samples.slice(drop * this.channels);
    this.base += drop;
  }
}
