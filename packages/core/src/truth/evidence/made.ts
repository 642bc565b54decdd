import type { Changes } from '../measure/changes.js';
import { detrended, gainOf, Models, SOURCES } from './beats.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, floor, max, min, round } = Math;

/** Pictures some of which may be made between those of another rate. */
export interface MaybeMade {
  /** First picture. */
  readonly from: number;
  /** Last picture, not included. */
  readonly to: number;
  /** Real pictures a second. */
  readonly sourceRate: number;
  /** 0 to 1. */
  readonly certainty: number;
}

/**
 * Ratios of source rate to stored rate at which made pictures can be detected. Encoders have beats of 2, 3, 4 and 8, so a doubled rate
 * is not detected; a beat of 25 cannot be distinguished from ordinary changes of the picture.
 */
const STEPS: readonly (readonly [number, number])[] = [
  [4, 5],
  [5, 6],
  [2, 5],
  [3, 5],
];
/** Rates that differ by a thousandth have the same beat over some hundreds of pictures. */
const ALIKE = 0.003;
const PHASES = 40;
/** As long a piece is looked at as one: two rates' beat is kept over it, and one that stops is still found. */
const PIECE = 1000;
const LEAST = 48;
/**
 * Natural logarithm of what a beat has to be better than none. Before rhythms were taken away, none of 35 all-new trial clips of 100
 * to 140 pictures came above 1.1, and made ones reached 0 to 34; it grows with the length.
 */
const LEAST_GAIN = 4;
/** How often encoders treat pictures alike: what repeats so is theirs. */
const RHYTHMS = [8, 3];
/** Key pictures come every so many beats, or a multiple of that: what their class of beats does not explain has to swing as well. */
const KEY_BEATS = [2, 3, 5, 7];
const LEFT_WITHOUT = 0.5;

/**
 * Looks for pictures that may be interpolated by motion. Such a picture is mixed from two real ones, so it loses fine detail and noise,
 * most of all half-way between them, however accurate the motion is. The loss repeats at the beat of the two rates.
 * @param from, to changes of a run in which nothing holds, `to` not included
 * @param storedRate pictures a second
 */
export function findMade(changes: Changes, from: number, to: number, storedRate: number): MaybeMade[] {
  const found: MaybeMade[] = [];
  const sources = SOURCES.flatMap((rate) => {
    const step = STEPS.find(([real, stored]) => abs(rate / storedRate - real / stored) < ALIKE);
    return step ? [{ rate, beat: step[1] }] : [];
  });
  if (sources.length === 0) return found;
  const models = new Models(storedRate);
  const pieces = max(1, round((to - from) / PIECE));
  for (let i = 0; i < pieces; i++) {
    const start = from + floor((i * (to - from)) / pieces);
    const end = from + floor(((i + 1) * (to - from)) / pieces);
    const made = end - start < LEAST ? null : pieceOf(changes, { from: start, to: end, sources, models });
    if (!made) continue;
    const last = found.at(-1);
    // Change k belongs to picture k + 1.
    const [first, past] = [start === 0 ? 0 : start + 1, end + 1];
    if (last && last.to === first && abs(last.sourceRate / made.sourceRate - 1) < ALIKE)
      found[found.length - 1] = { ...last, to: past, certainty: min(last.certainty, made.certainty) };
    else found.push({ from: first, to: past, ...made });
  }
  return found;
}

function pieceOf(
  changes: Changes,
  {
    from,
    to,
    sources,
    models,
  }: {
    readonly from: number;
    readonly to: number;
    readonly sources: readonly { readonly rate: number; readonly beat: number }[];
    readonly models: Models;
  },
): Pick<MaybeMade, 'sourceRate' | 'certainty'> | null {
  const soft = detrended(
    Float64Array.from({ length: to - from }, (_, i) => changes.at('soft', from + i)),
    (i) => {
      const [first, end] = changes.within(from + i);
      return [first - from, end - from];
    },
  );
  const left = withoutRhythms(soft);
  let best: { rate: number; beat: number; model: Float64Array } | null = null;
  let gain = LEAST_GAIN;
  for (const { rate, beat } of sources) {
    for (let i = 0; i < PHASES; i++) {
      const { model } = models.at(rate / models.storedRate, i / PHASES, to - from);
      const own = gainOf(left, withoutRhythms(model), 0);
      if (own <= gain) continue;
      best = { rate, beat, model };
      gain = own;
    }
  }
  if (!best || !goesOn(soft, best.model, best.beat)) return null;
  return { sourceRate: best.rate, certainty: min(0.99, 1 / (1 + exp(-(gain - LEAST_GAIN / 2) / 1.5))) };
}

/** Takes away the mean of the pictures that an encoder treats alike. */
function withoutRhythms(values: Float64Array): Float64Array {
  const left = values.slice();
  for (const rhythm of RHYTHMS) {
    const sums = new Float64Array(rhythm);
    left.forEach((value, i) => {
      sums[i % rhythm] = (sums[i % rhythm] as number) + value;
    });
    for (let i = 0; i < left.length; i++) left[i] = (left[i] as number) - ((sums[i % rhythm] as number) * rhythm) / left.length;
  }
  return left;
}

/**
 * Whether the swing is that of all beats. A key picture every second falls on the same place of every fifth or sixth beat, and would look like a
 * weak swing of them all.
 */
function goesOn(soft: Float64Array, model: Float64Array, beat: number): boolean {
  const beats = Float64Array.from({ length: floor(soft.length / beat) }, (_, b) => {
    let sum = 0;
    for (let i = b * beat; i < (b + 1) * beat; i++) sum += (soft[i] as number) * (model[i] as number);
    return sum;
  });
  const total = beats.reduce((sum, one) => sum + one, 0);
  return KEY_BEATS.every((every) => {
    const classes = new Float64Array(every);
    beats.forEach((one, b) => {
      classes[b % every] = (classes[b % every] as number) + one;
    });
    return total - max(...classes) > LEFT_WITHOUT * total * (1 - 1 / every);
  });
}
