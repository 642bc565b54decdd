import type { Rate } from '../time/index.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, cos, floor, max, min, sin } = Math;

/** Zero crossings of the sinc on each side of a sample. */
const REACH = 16;

/**
 * Reads interleaved sound at exact rational positions: output sample m is source sample m * step.num / step.den.
 * With step 1/1 samples pass through untouched. Otherwise a sinc under a Hann window, narrowed when the step is
 * larger than 1 so that nothing folds back (Smith, "Digital Audio Resampling", 1984/2002). Feed blocks in order.
 */
export class Resampler {
  private held: Float32Array = new Float32Array(0);
  /** Source sample of held[0]. */
  private base = 0;
  private received = 0;
  private next = 0;

  /**
   * @param step source samples for one output sample, lowest terms or not
   * @param channels interleaved
   * @param from first output sample wanted is at source sample `from` (whole, may be negative: silence before the start)
   */
  constructor(
    private readonly step: Rate,
    private readonly channels: number,
    private readonly from: number,
  ) {}

  /** Takes a block and gives the output that is now complete. */
  push(block: Float32Array): Float32Array {
    const joined = new Float32Array(this.held.length + block.length);
    joined.set(this.held);
    joined.set(block, this.held.length);
    this.held = joined;
    this.received += block.length / this.channels;
    return this.make(this.received - (this.direct ? 0 : this.reach));
  }

  /** The rest, with silence after the end, until `until` output samples have been given in all. */
  finish(until: number): Float32Array {
    const out = new Float32Array(max(0, until - this.next) * this.channels);
    for (let m = 0; this.next < until; m++, this.next++) this.one(this.next, out, m * this.channels);
    return out;
  }

  private get direct(): boolean {
    return this.step.num === this.step.den;
  }

  private get reach(): number {
    return ceil(REACH * max(1, this.step.num / this.step.den)) + 1;
  }

  private make(limit: number): Float32Array {
    const { num, den } = this.step;
    // Output m needs source up to from + floor(m * num / den), not included limit.
    const last = floor(((limit - this.from) * den - 1) / num);
    const count = max(0, last - this.next + 1);
    const out = new Float32Array(count * this.channels);
    for (let m = 0; m < count; m++, this.next++) this.one(this.next, out, m * this.channels);
    this.forget();
    return out;
  }

  /** Drops what no further output reads. */
  private forget(): void {
    const needed = this.from + floor((this.next * this.step.num) / this.step.den) - this.reach;
    const drop = min(max(0, needed - this.base), this.held.length / this.channels);
    if (drop > 0) {
      this.held = this.held.slice(drop * this.channels);
      this.base += drop;
    }
  }

  private one(m: number, out: Float32Array, at: number): void {
    const scaled = m * this.step.num;
    const whole = floor(scaled / this.step.den);
    const fraction = (scaled - whole * this.step.den) / this.step.den;
    const centre = this.from + whole;
    if (this.direct || (fraction === 0 && this.step.num <= this.step.den)) {
      for (let c = 0; c < this.channels; c++) out[at + c] = this.sample(centre, c);
      return;
    }
    const narrow = min(1, this.step.den / this.step.num);
    const span = REACH / narrow;
    const first = ceil(centre + fraction - span);
    const end = floor(centre + fraction + span);
    for (let k = first; k <= end; k++) {
      const x = (k - centre - fraction) * narrow;
      const sinc = abs(x) < 1e-9 ? 1 : sin(Math.PI * x) / (Math.PI * x);
      const weight = narrow * sinc * (0.5 + 0.5 * cos((Math.PI * x) / REACH));
      for (let c = 0; c < this.channels; c++) out[at + c] = (out[at + c] as number) + weight * this.sample(k, c);
    }
  }

  private sample(n: number, channel: number): number {
    return this.held[(n - this.base) * this.channels + channel] ?? 0;
  }
}
