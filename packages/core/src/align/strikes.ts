// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, log10, max } = Math;

/** A detected clap or knock: a sharp rise over the local noise. */
export interface Strike {
  /** Where it begins, from the sound's first sample. */
  readonly seconds: number;
  /** How far its first milliseconds rise over what was before, in dB. */
  readonly strength: number;
}

/** Least rise over the 20 ms before, and over the third of a second before, in dB. */
const RISE = 9;
/** A strike's own echoes and those so near count with it. */
const APART_SECONDS = 0.12;
/** Strongest ones kept. */
const KEPT = 400;
/** Energy of samples that counts as silence: 96 dB below full scale. */
const QUIET = 2.5e-10;

interface Candidate {
  readonly sample: number;
  readonly strength: number;
}

/**
 * Finds strikes in mono sound, block by block: energy of the first difference (claps have their energy high, wind and engines low) in
 * steps of a millisecond, the next four against the twenty before and against a slow mean.
 */
export class StrikeFinder {
  private readonly step: number;
  private readonly ring = new Float64Array(64);
  private steps = 0;
  private filled = 0;
  private sum = 0;
  private last = 0;
  private slow = 0;
  private found: Candidate[] = [];

  constructor(private readonly rate: number) {
    this.step = max(1, floor(rate / 1000));
  }

  push(block: Float32Array): void {
    // In locals: this runs for every sample of an hour.
    let { last, sum, filled } = this;
    const { step } = this;
    for (let i = 0; i < block.length; i++) {
      const value = block[i] as number;
      sum += (value - last) * (value - last);
      last = value;
      if (++filled < step) continue;
      this.ring[this.steps % 64] = sum / step + QUIET;
      this.steps++;
      sum = 0;
      filled = 0;
      this.look();
    }
    this.last = last;
    this.sum = sum;
    this.filled = filled;
  }

  /** In order of time. */
  finish(): Strike[] {
    const strongest = this.found.sort((a, b) => b.strength - a.strength).slice(0, KEPT);
    return strongest
      .sort((a, b) => a.sample - b.sample)
      .map(({ sample, strength }) => ({ seconds: sample / this.rate, strength }));
  }

  /** Whether a strike begins in the fifth step before the newest. */
  private look(): void {
    const at = this.steps - 5;
    if (at < 24) {
      this.slow = this.mean(this.steps - 1, 1);
      return;
    }
    const now = this.mean(at, 4);
    const before = this.mean(at - 21, 20);
    const rise = 10 * log10(now / max(before, this.slow));
    this.slow += (this.mean(at, 1) - this.slow) / 330;
    if (rise < RISE || this.mean(at, 1) < 2 * this.mean(at - 1, 1)) return;
    const candidate = { sample: at * this.step, strength: rise };
    const previous = this.found.at(-1);
    if (!previous || candidate.sample - previous.sample > APART_SECONDS * this.rate) {
      this.found.push(candidate);
      if (this.found.length > 8 * KEPT)
        this.found = this.found
          .sort((a, b) => b.strength - a.strength)
          .slice(0, 4 * KEPT)
          .sort((a, b) => a.sample - b.sample);
    } else if (candidate.strength > previous.strength + 3) this.found[this.found.length - 1] = candidate;
  }

  private mean(from: number, count: number): number {
    let sum = 0;
    for (let k = from; k < from + count; k++) sum += this.ring[k % 64] as number;
    return sum / count;
  }
}
