import { TruePeak } from './truePeak.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { log10, max } = Math;

/** Rate at which loudness is measured. */
export const LOUDNESS_RATE = 48_000;
/** Steps of a tenth of a second: four are a gating block, and blocks overlap by three. */
export const LOUDNESS_STEP = 0.1;
const STEP_SAMPLES = LOUDNESS_RATE * LOUDNESS_STEP;
const BLOCK_STEPS = 4;
/** Blocks below this are no part of the programme, in LUFS. */
const ABSOLUTE_GATE = -70;
/** Nor are those so far below the rest's mean, in LU. */
const RELATIVE_GATE = -10;

/** Samples after which nothing rises any more. */
const TRAIL = 12;

/** A filter of second order, direct form. */
interface Section {
  readonly b: readonly [number, number, number];
  readonly a: readonly [number, number];
}

/** K weighting at 48 kHz: a head's shelf, and a high pass (ITU-R BS.1770-4, tables 1 and 2). */
const K_WEIGHTING: readonly Section[] = [
  { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [-1.69065929318241, 0.73248077421585] },
  { b: [1, -2, 1], a: [-1.99004745483398, 0.99007225036621] },
];

/** What channels count for by their place, in the order of WAV files: deep sounds not at all, those at the sides more (ITU-R BS.1770-4, table 3). */
const WEIGHTS: Readonly<Record<number, readonly number[]>> = {
  5: [1, 1, 1, 1.41, 1.41],
  6: [1, 1, 1, 0, 1.41, 1.41],
  8: [1, 1, 1, 0, 1, 1, 1.41, 1.41],
};

/** The loudness of a tenth of a second of sound. */
export interface LoudnessSteps {
  /** Mean square of each step, K-weighted, channels added up by their weights. */
  readonly energy: Float32Array;
  /** True peak of each step, either way: between the samples, too; 1 is full scale. */
  readonly peak: Float32Array;
}

/** Measures interleaved sound at LOUDNESS_RATE, block by block, in steps from which the loudness of any stretch follows. */
export class LoudnessMeter {
  private readonly memory: Float64Array;
  private readonly energies: number[] = [];
  private readonly peaks: number[] = [];
  private square = 0;
  private largest = 0;
  private filled = 0;
  private readonly between: readonly TruePeak[];
  private readonly weights: readonly number[];

  constructor(private readonly channels: number) {
    this.between = Array.from({ length: channels }, () => new TruePeak());
    this.memory = new Float64Array(channels * K_WEIGHTING.length * 2);
    this.weights = WEIGHTS[channels] ?? Array.from({ length: channels }, () => 1);
  }

  push(block: Float32Array): void {
    const { channels } = this;
    for (let n = 0; n < block.length; n += channels) {
      for (let c = 0; c < channels; c++) {
        const value = block[n + c];
        this.largest = (this.between[c] as TruePeak).push(value, this.largest);
        const weighted = this.weigh(value, c);
        this.square += this.weights[c] * weighted * weighted;
      }
      if (++this.filled === STEP_SAMPLES) this.step();
    }
  }

  finish(): LoudnessSteps {
    // The filter looks half a dozen samples ahead.
    for (let k = 0; k < TRAIL; k++) for (const one of this.between) this.largest = one.push(0, this.largest);
    if (this.filled === 0 && this.largest > 0 && this.peaks.length > 0)
      this.peaks[this.peaks.length - 1] = max(this.peaks.at(-1) as number, this.largest);
    if (this.filled > 0) this.step();
    return { energy: Float32Array.from(this.energies), peak: Float32Array.from(this.peaks) };
  }

  private step(): void {
    this.energies.push(this.square / STEP_SAMPLES);
    this.peaks.push(this.largest);
    this.square = 0;
    this.largest = 0;
    this.filled = 0;
  }

  private weigh(value: number, channel: number): number {
    let x = value;
    let at = channel * K_WEIGHTING.length * 2;
    for (const { b, a } of K_WEIGHTING) {
      const [s, t] = [this.memory[at], this.memory[at + 1]];
      const y = b[0] * x + s;
      this.memory[at] = b[1] * x - a[0] * y + t;
      this.memory[at + 1] = b[2] * x - a[1] * y;
      x = y;
      at += 2;
    }
    return x;
  }
}

/** Integrated loudness in LUFS (EBU R 128, ITU-R BS.1770-4); null where nothing rises above the gate. */
export function integratedLoudness(energy: Float32Array): number | null {
  const blocks: number[] = [];
  for (let i = 0; i + BLOCK_STEPS <= energy.length; i++) {
    let sum = 0;
    for (let k = 0; k < BLOCK_STEPS; k++) sum += energy[i + k];
    blocks.push(sum / BLOCK_STEPS);
  }
  const loud = blocks.filter((e) => e > fromLoudness(ABSOLUTE_GATE));
  if (loud.length === 0) return null;
  const gate = mean(loud) * 10 ** (RELATIVE_GATE / 10);
  return toLoudness(mean(loud.filter((e) => e > gate)));
}

/** True peak in dB of full scale (dBTP); null for silence. */
export function peakLevel(peak: Float32Array): number | null {
  const most = peak.reduce((a, b) => max(a, b), 0);
  return most > 0 ? 20 * log10(most) : null;
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, x) => sum + x, 0) / values.length;
}

function toLoudness(energy: number): number {
  return -0.691 + 10 * log10(energy);
}

function fromLoudness(loudness: number): number {
  return 10 ** ((loudness + 0.691) / 10);
}
