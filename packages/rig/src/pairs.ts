import { Resampler } from '@thawline/core/sound';
import { type Rate, rate, rateToNumber } from '@thawline/core/time';
import { normal, random } from './random.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { exp, floor, max, min, sin, sqrt } = Math;

/** Rate at which the event itself is made. */
const EVENT_RATE = 48_000;
/** The event begins so long before either recorder. */
const BEFORE = 1;

/** One of two recorders: what it does to the sound that reaches it. */
export interface Recorder {
  readonly sampleRate: number;
  /** Noise of its own against the event, in dB; 0 is as loud as the event. */
  readonly noiseDb: number;
  /** Its microphone's colour. */
  readonly colour: 'flat' | 'dull' | 'thin';
  readonly gain: number;
  /** What is louder than this is cut off on the upper side; 1 for nothing. */
  readonly clipsAt: number;
}

/** Two recordings of one event, or of two. b = offsetSeconds + ratio * a for any moment, in seconds of each recording. */
export interface PairPlan {
  readonly name: string;
  readonly seed: number;
  readonly secondsA: number;
  readonly secondsB: number;
  readonly offsetSeconds: number;
  readonly ratio: Rate;
  readonly a: Recorder;
  readonly b: Recorder;
  /** What both hear: all of it, its claps alone, or nothing. */
  readonly shared: 'all' | 'claps' | 'nothing';
  /** Ends of the event with claps. */
  readonly claps: 'both' | 'start' | 'end' | 'none';
}

/** Moments of the claps in seconds of A: three at an end, unevenly apart, well inside what both hear. */
export function clapsOf(plan: PairPlan): number[] {
  const ratio = rateToNumber(plan.ratio);
  const from = max(0, -plan.offsetSeconds / ratio);
  const to = min(plan.secondsA, (plan.secondsB - plan.offsetSeconds) / ratio);
  const next = random(plan.seed * 7 + 3);
  const three = (at: number): number[] => [at, at + 0.6 + 0.3 * next(), at + 1.6 + 0.4 * next()];
  const start = three(from + 2 + 2 * next());
  const end = three(to - 6 - 2 * next());
  return [
    ...(plan.claps === 'both' || plan.claps === 'start' ? start : []),
    ...(plan.claps === 'both' || plan.claps === 'end' ? end : []),
  ];
}

/** Makes a recording, mono, block by block: the same plan gives the same samples. */
export function* pairSound(plan: PairPlan, side: 'a' | 'b'): Generator<Float32Array> {
  const recorder = plan[side];
  const ratio = rateToNumber(plan.ratio);
  const startB = max(0, plan.offsetSeconds / ratio);
  const [startA, lateB] = [startB + BEFORE, startB + BEFORE - plan.offsetSeconds / ratio];
  // Whole samples of the event, so that the truth is exact.
  const from = Math.round((side === 'a' ? startA : lateB) * EVENT_RATE);
  const clock = side === 'a' ? rate(1) : plan.ratio;
  const step = rate(EVENT_RATE * clock.den, recorder.sampleRate * clock.num);
  const samples = floor((side === 'a' ? plan.secondsA : plan.secondsB) * recorder.sampleRate);
  const resampler = new Resampler(step, 1, from);
  const ears = new Ears(recorder, plan.seed * 11 + (side === 'a' ? 1 : 2));
  const claps = clapsOf(plan).map((s) => Math.round((startA + s) * EVENT_RATE));
  let given = 0;
  const ambience = plan.shared === 'all' || side === 'a' ? plan.seed : plan.seed + 5000;
  const clapSeed = plan.shared === 'nothing' && side === 'b' ? plan.seed + 6000 : plan.seed;
  for (const block of event(ambience, clapSeed, claps)) {
    const out = ears.hear(resampler.push(block));
    const take = out.subarray(0, min(out.length, samples - given));
    given += take.length;
    if (take.length > 0) yield take;
    if (given >= samples) return;
  }
}

/** Wind, water, knocks and somebody talking, for ever; and claps. About 0.1 in the mean. */
function* event(seed: number, clapSeed: number, claps: readonly number[]): Generator<Float32Array> {
  const next = random(seed * 3 + 1);
  const nextClap = random(clapSeed * 5 + 2);
  let [low, breath, phase] = [0, 0, 0];
  let [word, wordEnd, wordPeak, pitch] = [1, 1.2, 0.5, 120];
  let [knock, knocked] = [2, 0];
  const BLOCK = EVENT_RATE / 4;
  for (let first = 0; ; first += BLOCK) {
    const out = new Float32Array(BLOCK);
    for (let i = 0; i < BLOCK; i++) {
      const t = (first + i) / EVENT_RATE;
      // Never the same twice: what repeats would be found.
      const noise = 2.4 * (next() + next() - 1);
      low += 0.02 * (noise - low);
      let value = 0.25 * low * (1 + 0.5 * sin(t * 1.7 + seed));
      if (t >= wordEnd) {
        word = t + (next() < 0.15 ? 0.3 + next() : 0.01 + 0.05 * next());
        wordEnd = word + 0.1 + 0.18 * next();
        wordPeak = 0.4 + 0.6 * next();
        pitch = 95 + 70 * next();
      }
      if (t >= word) {
        const envelope = wordPeak * sin((Math.PI * (t - word)) / (wordEnd - word));
        phase += (2 * Math.PI * pitch * (1 + 0.1 * (t - word))) / EVENT_RATE;
        const s = sin(phase);
        breath += 0.3 * (noise - breath);
        // A sum of harmonics, as a power of one sine gives them.
        value += envelope * (0.22 * s * s * s + 0.12 * s + 0.1 * sin(5 * phase) + 0.06 * breath);
      }
      if (t >= knock) {
        knocked = 1;
        knock = t + 0.7 + 5 * next();
      }
      if (knocked > 0.001) {
        knocked *= 0.9985;
        value += 0.12 * knocked * noise;
      }
      out[i] = value;
    }
    for (const at of claps) addClap(out, at - first, nextClap);
    yield out;
  }
}

/** A quarter of a second of dying noise, sharp at its start. A clap over the border of two blocks goes on in the second. */
function addClap(out: Float32Array, at: number, next: () => number): void {
  const length = EVENT_RATE / 4;
  if (at >= out.length || at + length <= 0) return;
  for (let i = max(0, at); i < min(out.length, at + length); i++) {
    const since = (i - at) / EVENT_RATE;
    out[i] = (out[i] as number) + (since < 0.0001 ? 0.9 : 0.8 * normal(next) * exp(-since * 55));
  }
}

/** Hears as a recorder does: colour, noise, gain, clipping. */
class Ears {
  private readonly next: () => number;
  private low = 0;
  private slow = 0;

  constructor(
    private readonly recorder: Recorder,
    seed: number,
  ) {
    this.next = random(seed);
  }

  hear(block: Float32Array): Float32Array {
    const { colour, noiseDb, gain, clipsAt, sampleRate } = this.recorder;
    const noise = 0.1 * 10 ** (noiseDb / 20) * sqrt(3);
    const edge = 1 - exp((-2 * Math.PI * (colour === 'dull' ? 2200 : 350)) / sampleRate);
    const out = new Float32Array(block.length);
    for (let i = 0; i < block.length; i++) {
      const value = (block[i] as number) + noise * (2 * this.next() - 1);
      this.low += edge * (value - this.low);
      this.slow += 0.0005 * (value - this.slow);
      const heard = colour === 'dull' ? this.low : colour === 'thin' ? value - this.low : value - this.slow;
      out[i] = max(-1, min(clipsAt, heard * gain));
    }
    return out;
  }
}

/** Pairs to tune on (seeds 1, 2 …) and to test with (others): all that a pair may meet, each by itself and together. */
export function pairs(seed: number, minutes = 10): PairPlan[] {
  const next = random(seed * 101);
  const recorder = (change: Partial<Recorder> = {}): Recorder => ({
    sampleRate: 48_000,
    noiseDb: -30,
    colour: 'flat',
    gain: 1,
    clipsAt: 1,
    ...change,
  });
  const seconds = minutes * 60;
  const ppm = (x: number): Rate => rate(1_000_000 + Math.round(x), 1_000_000);
  let number = 0;
  const pair = (name: string, change: Partial<PairPlan>): PairPlan => ({
    name,
    seed: seed * 100 + ++number,
    secondsA: seconds,
    secondsB: seconds * (0.9 + 0.2 * next()),
    offsetSeconds: Math.round((next() * 2 - 1) * 120_000) / 1000,
    ratio: ppm((next() * 2 - 1) * 1000),
    a: recorder(),
    b: recorder({ colour: 'dull', noiseDb: -12, gain: 0.4 }),
    shared: 'all',
    claps: 'both',
    ...change,
  });
  return [
    pair('plain', {}),
    pair('noisy', { b: recorder({ noiseDb: 0, colour: 'thin' }) }),
    pair('noisy-both', { a: recorder({ noiseDb: -3, colour: 'dull' }), b: recorder({ noiseDb: 0, colour: 'thin', gain: 0.2 }) }),
    pair('rates', { a: recorder({ sampleRate: 44_100 }), b: recorder({ noiseDb: -6, colour: 'dull' }) }),
    pair('clipped', { b: recorder({ noiseDb: -15, gain: 3, clipsAt: 0.25 }) }),
    pair('ntsc', { ratio: rate(1001, 1000), b: recorder({ noiseDb: -6 }) }),
    pair('ntsc-back', { ratio: rate(1000, 1001), b: recorder({ noiseDb: -6, colour: 'thin' }) }),
    pair('no-claps', { claps: 'none', b: recorder({ noiseDb: -3, colour: 'dull' }) }),
    pair('claps-alone', { shared: 'claps', b: recorder({ noiseDb: -12, colour: 'dull' }) }),
    pair('claps-start', { shared: 'claps', claps: 'start', b: recorder({ noiseDb: -12 }) }),
    pair('claps-end', { shared: 'all', claps: 'end', b: recorder({ noiseDb: -3 }) }),
    pair('unrelated', { shared: 'nothing', claps: 'none' }),
    pair('unrelated-claps', { shared: 'nothing', claps: 'both' }),
    pair('unrelated-noisy', { shared: 'nothing', claps: 'start', b: recorder({ noiseDb: 0 }) }),
  ];
}
