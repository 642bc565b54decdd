import { REACH, TAPS, tapsAt } from '../sound/sinc.js';
import { Fft, powerOfTwo } from './fft.js';
import { OUTLINE_RATE } from './outline.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, hypot, max, min, round, sqrt } = Math;

/** Frequencies that count, in Hz: below lies rumble that is everywhere the same, above the filter's edge. */
const LOWEST = 100;
const HIGHEST = 3600;
/** A second peak nearer than this to the highest belongs to it, in seconds. */
const SKIRT = 0.0015;
/** Further peaks are looked for within so much of the highest: where two bursts overlap at all, they do so over this. */
const NEIGHBOURHOOD = 0.04;

export interface Lag {
  /** How much later the second sound has it, in seconds. */
  readonly seconds: number;
  /** Height of the peak over what there is of noise, in its standard deviations. */
  readonly height: number;
  /** Height of the peak over the next best one near it. */
  readonly alone: number;
}

/**
 * Where two windows of sound are alike: generalised cross-correlation with phase transform (Knapp and Carter, "The Generalized
 * Correlation Method for Estimation of Time Delay", 1976). Loudness and colour of either play no part, so that microphones may differ.
 */
export class PhaseCorrelator {
  private readonly rooms = new Map<number, Room>();

  /**
   * @param a window at OUTLINE_RATE; its middle is what is looked for
   * @param b of the same length
   * @param reach how far apart they may be, in seconds
   * @returns null where either is silent
   */
  lag(a: Float32Array, b: Float32Array, reach: number): Lag | null {
    const size = 2 * powerOfTwo(a.length);
    const { fft, re, im, outRe, outIm } = this.room(size);
    for (const part of [re, im, outRe, outIm]) part.fill(0);
    // Both at once, as the real and the imaginary part of one transform.
    if (!shaped(a, re) || !shaped(b, im)) return null;
    fft.forward(re, im);
    const [from, to] = [Math.ceil((LOWEST * size) / OUTLINE_RATE), floor((HIGHEST * size) / OUTLINE_RATE)];
    for (let k = from; k <= to; k++) {
      const m = size - k;
      const [zr, zi, yr, yi] = [re[k] as number, im[k] as number, re[m] as number, im[m] as number];
      const [ar, ai] = [zr + yr, zi - yi];
      const [br, bi] = [zi + yi, yr - zr];
      // conj(A) * B: its phase alone.
      const [cr, ci] = [ar * br + ai * bi, ar * bi - ai * br];
      const size2 = hypot(cr, ci);
      if (size2 === 0) continue;
      outRe[k] = cr / size2;
      outIm[k] = ci / size2;
      outRe[m] = cr / size2;
      outIm[m] = -ci / size2;
    }
    fft.back(outRe, outIm);
    return peakOf(outRe, min(floor(reach * OUTLINE_RATE), size / 4), sqrt(2 * (to - from + 1)));
  }

  private room(size: number): Room {
    const known = this.rooms.get(size);
    if (known) return known;
    const part = () => new Float64Array(size);
    const made = { fft: new Fft(size), re: part(), im: part(), outRe: part(), outIm: part() };
    this.rooms.set(size, made);
    return made;
  }
}

/** What a transform works in, kept from one pair of windows to the next. */
interface Room {
  readonly fft: Fft;
  readonly re: Float64Array;
  readonly im: Float64Array;
  readonly outRe: Float64Array;
  readonly outIm: Float64Array;
}

/** Copies a window under a cosine's rise and fall at its ends; false for silence. */
function shaped(from: Float32Array, to: Float64Array): boolean {
  const edge = floor(from.length / 8);
  let any = false;
  for (let n = 0; n < from.length; n++) {
    const end = min(n, from.length - 1 - n);
    const weight = end >= edge ? 1 : 0.5 - 0.5 * Math.cos((Math.PI * end) / edge);
    const value = from[n] as number;
    if (abs(value) > 3e-5) any = true;
    to[n] = value * weight;
  }
  return any;
}

/** @param noise standard deviation that phases by chance would give */
function peakOf(correlation: Float64Array, reach: number, noise: number): Lag | null {
  const { length } = correlation;
  const at = (lag: number): number => correlation[(lag + length) % length] as number;
  let best = 0;
  for (let lag = -reach; lag <= reach; lag++) if (at(lag) > at(best)) best = lag;
  const skirt = SKIRT * OUTLINE_RATE;
  const around = NEIGHBOURHOOD * OUTLINE_RATE;
  let next = 0;
  for (let lag = best - around; lag <= best + around; lag++) if (abs(lag - best) > skirt) next = max(next, at(lag));
  // A parabola through three samples gives the place between them.
  const [before, top, after] = [at(best - 1), at(best), at(best + 1)];
  const bend = before - 2 * top + after;
  const shift = bend < 0 ? max(-0.5, min(0.5, (0.5 * (before - after)) / bend)) : 0;
  return { seconds: (best + shift) / OUTLINE_RATE, height: top / noise, alone: top / max(next, 1e-12) };
}

const weights = new Float64Array(TAPS);

/**
 * Reads a stretch at another pace: sample n is that at `start + n * pace`.
 * @param samples what lies there, its first one at sample `base`; silence beyond
 */
export function readAtPace(
  samples: Float32Array,
  { base, start, pace, count }: { readonly base: number; readonly start: number; readonly pace: number; readonly count: number },
): Float32Array {
  const out = new Float32Array(count);
  for (let n = 0; n < count; n++) {
    const place = start + n * pace - base;
    const whole = floor(place);
    tapsAt(place - whole, weights);
    const first = whole - REACH + 1;
    const from = max(0, -first);
    const to = min(TAPS, samples.length - first);
    let sum = 0;
    for (let j = from; j < to; j++) sum += (weights[j] as number) * (samples[first + j] as number);
    out[n] = sum;
  }
  return out;
}

/** Samples before and after a stretch that reading between samples needs. */
export const MARGIN = REACH + 1;

/** Seconds as a whole sample of OUTLINE_RATE. */
export function sampleAt(seconds: number): number {
  return round(seconds * OUTLINE_RATE);
}
