import { type Lag, OUTLINE_RATE, PhaseCorrelator } from '@thawline/core/align';
import { integratedLoudness, LoudnessMeter, peakLevel, Resampler } from '@thawline/core/sound';
import { rate } from '@thawline/core/time';
import { SOUND_RATE } from '../audio/stretch.js';
import type { Loudness } from '../audio/waveform.js';

/** Stretches at the start and the end that two sounds are compared by, in seconds. */
const WINDOW_SECONDS = 2;
const WINDOW = WINDOW_SECONDS * OUTLINE_RATE;
/** A tenth of a second counts as sounding from this root mean square on: -60 dB. */
const SOUNDING = 0.001;
const STEP = OUTLINE_RATE / 10;
/** Further apart than this two sounds are not looked for, in seconds. */
const REACH = 0.5;
/** A peak stands out of chance from so many standard deviations on. */
const CLEAR = 8;

/** A stretch of sound, mono at OUTLINE_RATE. */
export interface Stretch {
  /** Its first sample. */
  readonly from: number;
  readonly samples: Float32Array;
}

/** The measures of a sound, taken in one pass. */
export interface Listened extends Loudness {
  /** Samples at 48 kHz. */
  readonly samples: number;
  /** Where it sounds first and last; null where it never does. */
  readonly first: Stretch | null;
  readonly last: Stretch | null;
}

/**
 * Listens to sound of 48 kHz.
 * @param at where its stretches are to be taken, at OUTLINE_RATE; where it sounds when left out
 */
export async function listen(
  sound: AsyncIterable<Float32Array>,
  channels: number,
  at?: { readonly first: number; readonly last: number },
): Promise<Listened> {
  const meter = new LoudnessMeter(channels);
  const thin = new Resampler(rate(SOUND_RATE / OUTLINE_RATE), 1, 0);
  const taker = new Taker(at ?? null);
  let samples = 0;
  for await (const block of sound) {
    meter.push(block);
    samples += block.length / channels;
    taker.push(thin.push(mono(block, channels)));
  }
  taker.push(thin.finish(Math.floor((samples * OUTLINE_RATE) / SOUND_RATE)));
  const { energy, peak } = meter.finish();
  return { samples, loudness: integratedLoudness(energy), peak: peakLevel(peak), ...taker.finish() };
}

/** How much later a written sound is than the one asked for, in seconds; null where they are not alike. */
export function lagBetween(asked: Stretch, written: Stretch): number | null {
  const lag: Lag | null = new PhaseCorrelator().lag(asked.samples, written.samples, REACH);
  return lag && lag.height >= CLEAR ? lag.seconds : null;
}

function mono(block: Float32Array, channels: number): Float32Array {
  const out = new Float32Array(block.length / channels);
  for (let n = 0; n < out.length; n++) {
    let sum = 0;
    for (let c = 0; c < channels; c++) sum += block[n * channels + c] as number;
    out[n] = sum / channels;
  }
  return out;
}

/** Keeps two stretches of what passes by, whatever its length. */
class Taker {
  /** The newest samples, up to a window and a step. */
  private held = new Float32Array(0);
  private heldFrom = 0;
  private end = 0;
  private stepSquares = 0;
  private first: { from: number; samples: Float32Array } | null = null;
  private last: Stretch | null = null;

  constructor(private readonly at: { readonly first: number; readonly last: number } | null) {}

  push(block: Float32Array): void {
    for (let from = 0; from < block.length; ) {
      const count = Math.min(STEP - (this.end % STEP), block.length - from);
      this.step(block.subarray(from, from + count));
      from += count;
    }
  }

  /** A piece that does not reach over the border of a step. */
  private step(piece: Float32Array): void {
    const start = this.end;
    for (const value of piece) this.stepSquares += value * value;
    this.end += piece.length;
    const whole = this.end % STEP === 0;
    const loud = whole && Math.sqrt(this.stepSquares / STEP) >= SOUNDING;
    if (whole) this.stepSquares = 0;
    this.hold(piece, start);
    if (this.at) {
      this.first = this.taken(this.first, this.at.first, piece, start);
      this.last = this.taken(this.last, this.at.last, piece, start);
      return;
    }
    if (loud && !this.first) this.first = { from: Math.max(0, this.end - STEP), samples: new Float32Array(WINDOW) };
    if (this.first) this.fill(this.first, this.held, this.heldFrom);
    // The last stretch ends where it last sounds.
    if (loud) this.last = { from: this.heldFrom, samples: this.held.slice() };
  }

  private taken(known: Stretch | null, from: number, piece: Float32Array, start: number): Stretch {
    const stretch = known ?? { from, samples: new Float32Array(WINDOW) };
    this.fill(stretch, piece, start);
    return stretch;
  }

  private fill({ from, samples }: Stretch, piece: Float32Array, start: number): void {
    const begin = Math.max(from, start);
    const end = Math.min(from + WINDOW, start + piece.length);
    if (end > begin) samples.set(piece.subarray(begin - start, end - start), begin - from);
  }

  private hold(piece: Float32Array, start: number): void {
    const keep = Math.min(this.held.length, WINDOW - piece.length);
    const next = new Float32Array(keep + piece.length);
    next.set(this.held.subarray(this.held.length - keep));
    next.set(piece, keep);
    this.held = next;
    this.heldFrom = start - keep;
  }

  finish(): { first: Stretch | null; last: Stretch | null } {
    const { last } = this;
    if (!last || last.samples.length === WINDOW) return { first: this.first, last };
    // Shorter than a window in all: filled up with silence.
    const samples = new Float32Array(WINDOW);
    samples.set(last.samples);
    return { first: this.first, last: { from: last.from, samples } };
  }
}
