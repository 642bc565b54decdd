import { Fft } from './fft.js';
import { type Strike, StrikeFinder } from './strikes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { cos, log, max, min, sqrt } = Math;

/** Sound is analysed in mono at this many samples a second: what distinguishes moments is below 4 kHz. */
export const OUTLINE_RATE = 8000;
/** Samples from one frame of the outline to the next: 40 ms. */
export const HOP = 320;
const WINDOW = 512;
/** Edges of the bands, in Hz. */
const EDGES = [90, 230, 450, 800, 1300, 2100, 3700];
export const BANDS = EDGES.length - 1;
/** Frames on each side over which a band's usual level is taken: 1.4 s. */
const AROUND = 35;
/** Levels count up to so many standard deviations: no single knock outweighs the rest. */
const MOST = 3;
/** Least energy of a band that counts: that of white noise 93 dB below full scale. */
const FLOOR = 1e-7;

/** Features by which a place in a sound is recognised: the rise and fall of each band, and its strikes. Some 2 MB an hour. */
export interface SoundOutline {
  /** At OUTLINE_RATE. */
  readonly samples: number;
  /** Band by band, a value every HOP samples: level against its surroundings, in standard deviations, -3 to 3. */
  readonly bands: readonly Float32Array[];
  /** In order of time. */
  readonly strikes: readonly Strike[];
  /** Nothing in it rises above the least that counts. */
  readonly silent: boolean;
}

/** Takes mono sound at OUTLINE_RATE block by block. */
export class Outliner {
  private readonly fft = new Fft(WINDOW);
  private readonly shape = Float64Array.from({ length: WINDOW }, (_, n) => 0.5 - 0.5 * cos((2 * Math.PI * n) / WINDOW));
  private readonly re = new Float64Array(WINDOW);
  private readonly im = new Float64Array(WINDOW);
  /** The window's samples, silence before the start; and those that come after it. */
  private readonly line = new Float32Array(WINDOW);
  private readonly fresh = new Float32Array(HOP);
  private readonly levels: number[][] = Array.from({ length: BANDS }, () => []);
  private readonly strikes = new StrikeFinder(OUTLINE_RATE);
  private samples = 0;
  private heard = false;
  /** One window is there that wants another beside it. */
  private waiting = false;

  push(block: Float32Array): void {
    this.strikes.push(block);
    for (let at = 0; at < block.length; ) {
      const filled = this.samples % HOP;
      const count = min(HOP - filled, block.length - at);
      this.fresh.set(block.subarray(at, at + count), filled);
      this.samples += count;
      at += count;
      if (filled + count < HOP) return;
      this.line.copyWithin(0, HOP);
      this.line.set(this.fresh, WINDOW - HOP);
      this.frame();
    }
  }

  finish(): SoundOutline {
    if (this.waiting) this.measure(1);
    this.waiting = false;
    const bands = this.levels.map((levels) => standing(levels));
    return { samples: this.samples, bands, strikes: this.strikes.finish(), silent: !this.heard };
  }

  /** Takes the window that ends here. Two windows share a transform, as real and imaginary part. */
  private frame(): void {
    const { re, im, shape, line } = this;
    const into = this.waiting ? im : re;
    for (let n = 0; n < WINDOW; n++) into[n] = (line[n] as number) * (shape[n] as number);
    if (this.waiting) this.measure(2);
    this.waiting = !this.waiting;
  }

  private measure(windows: 1 | 2): void {
    const { re, im } = this;
    if (windows === 1) im.fill(0);
    this.fft.forward(re, im);
    for (let window = 0; window < windows; window++)
      for (let band = 0; band < BANDS; band++) {
        const from = Math.ceil(((EDGES[band] as number) * WINDOW) / OUTLINE_RATE);
        const to = Math.ceil(((EDGES[band + 1] as number) * WINDOW) / OUTLINE_RATE);
        let energy = 0;
        for (let k = from; k < to; k++) {
          const xr = re[k] as number;
          const xi = im[k] as number;
          const yr = re[WINDOW - k] as number;
          const yi = im[WINDOW - k] as number;
          energy += window === 0 ? (xr + yr) ** 2 + (xi - yi) ** 2 : (xi + yi) ** 2 + (yr - xr) ** 2;
        }
        const level = energy / (4 * (to - from));
        if (level > 100 * FLOOR) this.heard = true;
        (this.levels[band] as number[]).push(log(level + FLOOR));
      }
  }
}

/** Each level against those around it, in standard deviations of the whole. */
function standing(levels: readonly number[]): Float32Array {
  const sums = new Float64Array(levels.length + 1);
  for (let i = 0; i < levels.length; i++) sums[i + 1] = (sums[i] as number) + (levels[i] as number);
  const out = new Float32Array(levels.length);
  let square = 0;
  for (let i = 0; i < levels.length; i++) {
    const [from, to] = [max(0, i - AROUND), min(levels.length, i + AROUND + 1)];
    const value = (levels[i] as number) - ((sums[to] as number) - (sums[from] as number)) / (to - from);
    out[i] = value;
    square += value * value;
  }
  const deviation = sqrt(square / max(1, levels.length)) || 1;
  for (let i = 0; i < out.length; i++) out[i] = max(-MOST, min(MOST, (out[i] as number) / deviation));
  return out;
}
