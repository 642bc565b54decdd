// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min, round } = Math;

/** Seconds of one bin on each level of a waveform: 1, 8, 64 and 512 ms. */
export const WAVE_LEVELS: readonly number[] = [0.001, 0.008, 0.064, 0.512];
/** Bins of a level that make one of the next. */
const FOLD = 8;
/** Bins that travel at once. */
export const WAVE_CHUNK = 4096;

/**
 * Least and largest sample of each bin as 16-bit numbers, one after the other: [min, max, min, max …]. The finest level is given away as it
 * comes; only the coarser ones are held.
 */
export class WaveMaker {
  private readonly bin: number;
  private low = 0;
  private high = 0;
  private filled = 0;
  private readonly coarse: number[][] = WAVE_LEVELS.slice(1).map(() => []);
  private readonly open = WAVE_LEVELS.slice(1).map(() => ({ low: 0, high: 0, bins: 0 }));
  private out: number[] = [];

  /** @param rate samples a second: a multiple of 1000 */
  constructor(
    rate: number,
    private readonly channels: number,
  ) {
    this.bin = rate / 1000;
  }

  /** Takes interleaved samples; gives the bins of the finest level that are now complete. */
  push(block: Float32Array): Int16Array {
    const { channels } = this;
    for (let n = 0; n < block.length; n += channels) {
      for (let c = 0; c < channels; c++) {
        const value = block[n + c];
        this.low = min(this.low, value);
        this.high = max(this.high, value);
      }
      if (++this.filled === this.bin) this.close();
    }
    return this.take();
  }

  /** What is left of the finest level, and all of the coarser ones. */
  finish(): { readonly rest: Int16Array; readonly coarse: readonly Int16Array[] } {
    if (this.filled > 0) this.close();
    this.open.forEach((open, level) => {
      if (open.bins > 0) this.coarse[level]?.push(open.low, open.high);
    });
    return { rest: this.take(), coarse: this.coarse.map((bins) => Int16Array.from(bins)) };
  }

  private close(): void {
    const whole = (x: number): number => max(-32767, min(32767, round(x * 32767)));
    let [low, high] = [whole(this.low), whole(this.high)];
    this.out.push(low, high);
    this.low = 0;
    this.high = 0;
    this.filled = 0;
    for (const [level, open] of this.open.entries()) {
      open.low = min(open.low, low);
      open.high = max(open.high, high);
      if (++open.bins < FOLD) break;
      [low, high] = [open.low, open.high];
      this.coarse[level]?.push(low, high);
      Object.assign(open, { low: 0, high: 0, bins: 0 });
    }
  }

  private take(): Int16Array {
    const out = Int16Array.from(this.out);
    this.out = [];
    return out;
  }
}
