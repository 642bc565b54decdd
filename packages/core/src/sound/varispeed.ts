import { HeldSound } from './held.js';
import type { SoundMap } from './map.js';
import { REACH, TAPS, tapsAt, wideTaps } from './sinc.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { ceil, floor, max, min } = Math;

/** Widest the sinc grows: faster than this much, what is too high folds back. */
const WIDEST = 8;
/** Samples over which sound comes and goes where its map stands still or turns back: 4 ms. */
const FADE = 192;

/** Slower than this, in source samples for one of output, time stands still. */
const STANDING = 1e-6;

/** Sound at a speed that changes, its pitch going along. Where the map stands still or runs backward it is silent. */
export class Varispeed {
  private readonly held: HeldSound;
  private readonly weights = new Float64Array(TAPS);
  private next = 0;
  private gain = 0;

  constructor(
    private readonly map: SoundMap,
    private readonly channels: number,
  ) {
    this.held = new HeldSound(channels);
  }

  push(block: Float32Array): Float32Array {
    this.held.append(block);
    let until = this.next;
    while (this.map.at(until) + REACH * WIDEST + 2 < this.held.end && until - this.next < 48_000) until++;
    const out = this.make(until - this.next);
    this.held.forget(floor(this.map.least(this.next)) - REACH * WIDEST - 2);
    return out;
  }

  /** The rest, with silence after the end, until `until` output samples have been given in all. */
  finish(until: number): Float32Array {
    return this.make(max(0, until - this.next));
  }

  private make(count: number): Float32Array {
    const { channels, map, held } = this;
    const out = new Float32Array(count * channels);
    for (let m = 0; m < count; m++, this.next++) {
      const place = map.at(this.next);
      const pace = map.at(this.next + 1) - place;
      const sounds = pace > STANDING;
      this.gain = this.next === 0 ? Number(sounds) : max(0, min(1, this.gain + (sounds ? 1 : -1) / FADE));
      if (this.gain === 0) continue;
      const whole = floor(place);
      const narrow = pace > 1 ? max(1 / WIDEST, 1 / pace) : 1;
      let first = whole - REACH + 1;
      let weights: Float64Array = this.weights;
      if (narrow === 1) tapsAt(place - whole, weights);
      else {
        first = whole + ceil(place - whole - REACH / narrow);
        weights = wideTaps(place - whole, narrow);
      }
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let j = 0; j < weights.length; j++) sum += weights[j] * held.at(first + j, c);
        out[m * channels + c] = this.gain * sum;
      }
    }
    return out;
  }
}
