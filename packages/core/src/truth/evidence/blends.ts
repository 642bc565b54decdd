import type { Changes } from '../measure/changes.js';
import { detrended, fraction, gainOf, LEAST_PICTURES, Models, SOURCES } from './beats.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, floor, log, max, min } = Math;

/** A picture that was mixed from two others. */
export interface Blend {
  readonly at: number;
  /** The later one's share, 0 to 1. */
  readonly share: number;
}

/** Pictures of one rate mixed into another over a stretch. */
export interface Mixing {
  /** First change. */
  readonly from: number;
  /** Last change, not included. */
  readonly to: number;
  /** Pictures a second that were mixed. */
  readonly sourceRate: number;
  readonly blends: readonly Blend[];
  /** 0 to 1. */
  readonly certainty: number;
}

/** Natural logarithm of what a rhythm has to be better than none, for trying so many. */
const LEAST_GAIN = 14;
/** Two moments of a mix nearer than this to a real picture are that picture. */
const REAL = 0.06;
const PHASES = 40;

/** Rhythms are looked for in pieces of so many pictures: over more, rates that differ by a thousandth run apart. */
const PIECE = 200;

/**
 * Looks for pictures of another rate mixed into this one, piece by piece; neighbouring pieces with the same rate are one.
 * @param from, to changes, `to` not included
 * @param storedRate pictures a second
 */
export function findMixings(changes: Changes, from: number, to: number, storedRate: number): Mixing[] {
  const found: Mixing[] = [];
  const pieces = max(1, Math.round((to - from) / PIECE));
  const models = new Models(storedRate);
  for (let i = 0; i < pieces; i++) {
    const start = from + floor((i * (to - from)) / pieces);
    const end = from + floor(((i + 1) * (to - from)) / pieces);
    const mixing = findMixing(changes, start, end, models);
    if (!mixing) continue;
    const last = found.at(-1);
    if (last && last.to === start && abs(last.sourceRate / mixing.sourceRate - 1) < 0.002)
      found[found.length - 1] = {
        ...last,
        to: end,
        blends: [...last.blends, ...mixing.blends],
        certainty: min(last.certainty, mixing.certainty),
      };
    else found.push(mixing);
  }
  return found;
}

/**
 * Stored picture n of a mix lies at n * from / to between two real ones;
 * the nearer it is to the middle, the more of its fine detail is averaged away (detail that differs between the two keeps
 * f^2 + (1 - f)^2 of its energy), and the better it is a mix of its own neighbours. Both rise and fall with the beat of the two rates,
 * which picture content does not.
 */
function findMixing(changes: Changes, from: number, to: number, models: Models): Mixing | null {
  const { storedRate } = models;
  if (to - from < LEAST_PICTURES) return null;
  // Shots differ in how fine their detail is: only within one is its rise and fall the beat's.
  const within = (i: number): [number, number] => {
    const [first, end] = changes.within(from + i);
    return [first - from, end - from];
  };
  const known = (k: number): boolean => !changes.at('broken', k);
  const soft = detrended(
    Float64Array.from({ length: to - from }, (_, i) => (known(from + i) ? changes.at('soft', from + i) : Number.NaN)),
    within,
  );
  const left = detrended(
    Float64Array.from({ length: to - from }, (_, i) => {
      const value = changes.at('mixLeft', from + i);
      return value < 1 && known(from + i) ? log(value + 0.01) : Number.NaN;
    }),
    within,
  );
  let best: { source: number; phase: number; gain: number } | null = null;
  for (const source of SOURCES) {
    const step = source / storedRate;
    // A whole step mixes nothing; a beat slower than the stretch cannot be seen.
    const beat = abs(step - Math.round(step));
    if (beat < 0.8 / (to - from) || step > 2.6 || abs(step - 1) < 0.002) continue;
    // A beat of two has only two positions. They cannot be determined, as any oscillation fits some pair: assume that one of them is real.
    const phases = abs(beat - 0.5) * (to - from) < 1 ? 2 : PHASES;
    for (let i = 0; i < phases; i++) {
      const phase = i / phases;
      const { model, swing } = models.at(step, phase, to - from);
      // Softness alone may be a codec's rhythm: only what is a mix of its neighbours, too, is a mix.
      // Codecs treat every second picture otherwise: a beat of two has to swing more.
      const mixed = gainOf(left, model, abs(beat - 0.5) < 0.02 ? 1.8 : 0.9);
      if (mixed < LEAST_GAIN / 3) continue;
      const gain = mixed + gainOf(soft, model, 0.12);
      // What is mixed from fewer pictures is commoner than what is mixed from more; of phases that fit alike the one that swings more is meant.
      const worth = gain - (step > 1 ? 2 : 0) + swing;
      if (worth > (best?.gain ?? LEAST_GAIN)) best = { source, phase, gain: worth };
    }
  }
  if (!best) return null;
  const blends: Blend[] = [];
  for (let i = 0; i < to - from; i++) {
    const share = fraction(best.phase + (i * best.source) / storedRate);
    if (share > REAL && share < 1 - REAL) blends.push({ at: from + i + 1, share });
  }
  return { from, to, sourceRate: best.source, blends, certainty: min(0.999, 1 / (1 + exp(-(best.gain - LEAST_GAIN / 2) / 4))) };
}
