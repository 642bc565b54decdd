import { type Rate, rate } from '../time/index.js';
import { HeldSound } from './held.js';
import { REACH, TAPS, tapsAt, wideTaps } from './sinc.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { ceil, floor, max, min } = Math;

/** For a step only slightly above 1, aliases fall at the edge of hearing. */
const ALMOST = 0.995;
/** Steps of so many places between samples keep the weights of each. */
const KEPT = 1024;

/**
 * Reads interleaved sound at exact rational positions: output sample m is source sample m * step.num / step.den.
 * With step 1/1 samples pass through untouched. Otherwise a sinc under a Hann window, narrowed when the step is
 * larger than 1 so that nothing folds back (Smith, "Digital Audio Resampling", 1984/2002). Feed blocks in order.
 */
export class Resampler {
  private readonly held: HeldSound;
  private next = 0;
  private readonly step: Rate;
  private readonly scratch = new Float64Array(TAPS);
  private readonly kept = new Map<number, Float64Array>();

  /**
   * @param step source samples for one output sample, lowest terms or not
   * @param channels interleaved
   * @param from first output sample wanted is at source sample `from` (whole, may be negative: silence before the start)
   */
  constructor(
    step: Rate,
    private readonly channels: number,
    private readonly from: number,
  ) {
    this.step = rate(step.num, step.den);
    this.held = new HeldSound(channels);
  }

  /** Takes a block and gives the output that is now complete. */
  push(block: Float32Array): Float32Array {
    this.held.append(block);
    return this.make(this.held.end - (this.direct ? 0 : this.reach));
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
    this.held.forget(this.from + floor((this.next * num) / den) - this.reach);
    return out;
  }

  private one(m: number, out: Float32Array, at: number): void {
    const scaled = m * this.step.num;
    const whole = floor(scaled / this.step.den);
    const fraction = (scaled - whole * this.step.den) / this.step.den;
    const centre = this.from + whole;
    if (this.direct || (fraction === 0 && this.step.num <= this.step.den)) {
      for (let c = 0; c < this.channels; c++) out[at + c] = this.held.at(centre, c);
      return;
    }
    const phase = scaled - whole * this.step.den;
    const narrow = this.step.den / this.step.num;
    const first = narrow >= ALMOST ? 1 - REACH : ceil(fraction - REACH / narrow);
    this.sum(centre + first, this.weightsAt(phase, fraction, narrow), out, at);
  }

  /** Few places between samples come again and again: their weights are kept. */
  private weightsAt(phase: number, fraction: number, narrow: number): Float64Array {
    const known = this.kept.get(phase);
    if (known) return known;
    const keep = this.step.den <= KEPT;
    const weights = narrow < ALMOST ? wideTaps(fraction, narrow) : keep ? new Float64Array(TAPS) : this.scratch;
    if (narrow >= ALMOST) tapsAt(fraction, weights);
    if (keep) this.kept.set(phase, weights);
    return weights;
  }

  /** Adds up the samples from one on, each with its weight. */
  private sum(first: number, weights: Float64Array, out: Float32Array, at: number): void {
    const { channels } = this;
    const { samples, base, end: ends } = this.held;
    const from = (first - base) * channels;
    // Before the start and after the end lies silence.
    const start = max(0, base - first);
    const end = min(weights.length, ends - first);
    for (let c = 0; c < channels; c++) {
      let sum = 0;
      for (let j = start; j < end; j++) sum += weights[j] * samples[from + j * channels + c];
      out[at + c] = sum;
    }
  }
}
