import { HeldSound } from './held.js';
import { outputOf, type SoundMap } from './map.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, cos, floor, max, min, round, sqrt } = Math;

/** Half a grain in samples of 48 kHz: 15 ms. Grains follow each other at this distance. */
const HALF = 720;
/** How far from its own place a grain may be taken to join smoothly: 10 ms. */
const SEARCH = 480;
/** What a place at the end of the search has to be better by. */
const NEARNESS = 0.002;
/** The search looks at every so many places and samples first. */
const COARSE = 4;
/** Grains given for one block at most: a map that stands still would go on for ever. */
const MOST_GRAINS = 256;
/** Slower than this share of its own speed, a sound is silent. */
const STANDING = 1e-3;
/** An onset's milliseconds rise over those before by more than this, in energy. */
const RISE = 8;
const STEP = 48;
const BEFORE_STEPS = 12;
const AFTER_STEPS = 3;
/** Energy below which nothing counts as one: 60 dB below full scale. */
const QUIET = 1e-6;
/** An onset is placed where the sound reaches this share of the peak of its first milliseconds. */
const SETS_IN = 0.3;

/**
 * Another speed at the same pitch: grains of the sound, each where it joins the one before best (waveform similarity overlap-add; Verhelst and
 * Roelands, 1993). Onsets stand exactly where the map puts them, whole and once: around them grains are taken as they are, before and
 * after them so that they are not heard twice. What lies between them is off by 10 ms at most, beside an onset by 25.
 */
export class Stretcher {
  private readonly held: HeldSound;
  private readonly shape = Float64Array.from({ length: 2 * HALF }, (_, n) => 0.5 - 0.5 * cos((Math.PI * n) / HALF));
  private readonly onsets: OnsetFinder;
  /** The falling half of the grain before. */
  private falling: Float32Array;
  /** Output sample at the next grain's middle. */
  private middle = 0;
  /** Source sample at the middle of the grain before; null before the first. */
  private last: number | null = null;
  private given = 0;

  constructor(
    private readonly map: SoundMap,
    private readonly channels: number,
  ) {
    this.held = new HeldSound(channels);
    this.onsets = new OnsetFinder(channels);
    this.falling = new Float32Array(HALF * channels);
  }

  push(block: Float32Array): Float32Array {
    this.held.append(block);
    this.onsets.push(block);
    const parts: Float32Array[] = [];
    // An onset that a grain must not touch may lie two halves after it.
    while (
      parts.length < MOST_GRAINS &&
      this.map.at(this.middle + 3 * HALF) + HALF + SEARCH + (AFTER_STEPS + 2) * STEP < this.held.end
    )
      parts.push(this.grain());
    this.held.forget(floor(min(this.map.least(this.middle), this.last ?? 0)) - 4 * HALF - SEARCH);
    return joined(parts);
  }

  /** The rest, with silence after the end, until `until` output samples have been given in all. */
  finish(until: number): Float32Array {
    const wanted = max(0, until - this.given);
    const parts: Float32Array[] = [];
    while (this.given < until) parts.push(this.grain());
    return joined(parts).subarray(0, wanted * this.channels);
  }

  /** Adds the next grain; gives the output up to its middle, which is complete then. */
  private grain(): Float32Array {
    const { channels, held, shape, falling, last } = this;
    const pace = (this.map.at(this.middle + HALF) - this.map.at(this.middle - HALF)) / (2 * HALF);
    const gain = pace > STANDING ? 1 : 0;
    // Where nothing is heard, nothing has to join.
    const place = gain > 0 ? this.place(this.middle) : round(this.map.at(this.middle));
    const next = new Float32Array(HALF * channels);
    for (let n = 0; n < HALF; n++) {
      for (let c = 0; c < channels; c++) {
        const i = n * channels + c;
        falling[i] = falling[i] + gain * shape[n] * held.at(place - HALF + n, c);
        next[i] = gain * shape[HALF + n] * held.at(place + n, c);
      }
    }
    this.falling = next;
    this.last = place;
    this.middle += HALF;
    // What is before the first grain's middle is before the start.
    if (last === null) return new Float32Array(0);
    this.given += HALF;
    return falling;
  }

  /** The source sample that the middle of the grain at m is taken from. */
  private place(m: number): number {
    const { map } = this;
    const wanted = map.at(m);
    let [low, high] = [wanted - SEARCH, wanted + SEARCH];
    const pace = max(1, (map.at(m + HALF) - map.at(m - HALF)) / (2 * HALF));
    let nearest: number | null = null;
    for (const onset of this.onsets.between(wanted - 3 * HALF * pace, wanted + 3 * HALF * pace)) {
      const away = m - outputOf(map, onset, m, 4 * HALF);
      if (abs(away) < HALF) {
        if (nearest === null || abs(away) < abs(nearest - wanted)) nearest = onset + away;
      } else if (away < 0) high = min(high, onset - HALF);
      else low = max(low, onset + HALF);
    }
    if (nearest !== null) return round(nearest);
    // Beside an onset there may be no place of its own: one that is as near as may be, and not the same again.
    if (low >= high) [low, high] = wanted < low ? [low, low + SEARCH] : [high - SEARCH, high];
    return this.smoothest(ceil(low), floor(high), round(wanted));
  }

  /** The position between low and high that continues the previous grain best. */
  private smoothest(low: number, high: number, wanted: number): number {
    const { last } = this;
    if (last === null) return max(low, min(high, wanted));
    const goesOn = this.guide(last, HALF);
    let best = this.best(low, high, COARSE, goesOn, wanted, max(low, min(high, wanted)));
    best = this.best(max(low, best - COARSE), min(high, best + COARSE), 1, goesOn, wanted, best);
    return best;
  }

  private best(low: number, high: number, step: number, goesOn: Float32Array, wanted: number, otherwise: number): number {
    const around = this.guide(low - HALF, HALF + high - low + 1);
    let [best, most] = [otherwise, 0];
    for (let place = low; place <= high; place += step) {
      let [product, energy] = [0, 1e-9];
      const from = place - low;
      for (let n = 0; n < HALF; n += COARSE) {
        const value = around[from + n];
        product += value * goesOn[n];
        energy += value * value;
      }
      // Of places that are alike, in a tone say, the nearest.
      const alike = (product / sqrt(energy)) * (1 - (NEARNESS * abs(place - wanted)) / SEARCH);
      if (alike > most) [best, most] = [place, alike];
    }
    return best;
  }

  /** All channels added up. */
  private guide(from: number, count: number): Float32Array {
    const out = new Float32Array(count);
    for (let n = 0; n < count; n++) for (let c = 0; c < this.channels; c++) out[n] = out[n] + this.held.at(from + n, c);
    return out;
  }
}

/** Finds where sound sets in sharply, in steps of a millisecond; forgets onsets that are long past. */
class OnsetFinder {
  private readonly recent = new Float64Array(32);
  /** The last samples, either way up. */
  private readonly heights = new Float32Array(512);
  private samples = 0;
  private found: number[] = [];
  private steps = 0;
  private filled = 0;
  private sum = 0;

  constructor(private readonly channels: number) {}

  push(block: Float32Array): void {
    for (let n = 0; n < block.length; n += this.channels) {
      let height = 0;
      for (let c = 0; c < this.channels; c++) {
        const value = block[n + c];
        this.sum += value * value;
        height = max(height, abs(value));
      }
      this.heights[this.samples++ % 512] = height;
      if (++this.filled < STEP) continue;
      this.recent[this.steps % 32] = this.sum / (STEP * this.channels);
      this.steps++;
      this.filled = 0;
      this.sum = 0;
      this.look();
    }
  }

  /** Onsets in a stretch of source samples. */
  between(from: number, to: number): number[] {
    while ((this.found[0] ?? Number.POSITIVE_INFINITY) < from - 100 * HALF) this.found.shift();
    return this.found.filter((o) => o >= from && o <= to);
  }

  private look(): void {
    const at = this.steps - AFTER_STEPS;
    if (at < BEFORE_STEPS) return;
    const [now, before] = [this.mean(at, AFTER_STEPS), this.mean(at - BEFORE_STEPS, BEFORE_STEPS)];
    if (now < QUIET || now < RISE * before) return;
    const sample = this.exactly(at * STEP, AFTER_STEPS * STEP);
    const previous = this.found.at(-1);
    if (previous === undefined || sample - previous > 2 * HALF) this.found.push(sample);
  }

  /** The first sample of a stretch that comes near its highest. */
  private exactly(from: number, count: number): number {
    let most = 0;
    for (let n = from; n < from + count; n++) most = max(most, this.heights[n % 512]);
    for (let n = from; n < from + count; n++) if (this.heights[n % 512] > SETS_IN * most) return n;
    return from;
  }

  private mean(from: number, count: number): number {
    let sum = 0;
    for (let k = from; k < from + count; k++) sum += this.recent[(k + 32) % 32];
    return sum / count;
  }
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
