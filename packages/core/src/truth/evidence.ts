import type { Change } from './change.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { log, max, min, sqrt } = Math;

/** Pictures on each side that a picture's change is compared with: wide enough to hold new ones at 8 times padding. */
const REACH = 12;
/** One picture alone may not convince by more than this (natural logarithm of the odds). */
const MOST = 6;
/** motionRatio of noise alone lies below this. */
const NOISE_RATIO = 7;

/**
 * How much each picture looks held rather than new: log odds, positive for held, within ±6. Nothing is compared with a
 * fixed change: the yardstick is what pictures around it do, and the noise measured in the picture itself.
 * @returns one number a change; index 0 is picture 1
 */
export function heldEvidence(changes: readonly Change[]): Float64Array {
  const evidence = new Float64Array(changes.length);
  const energies = Float64Array.from(changes, (c) => c.energy);
  const ratios = Float64Array.from(changes, (c) => c.motionRatio);
  const usualEnergy = upper(energies);
  const usualRatio = upper(ratios);
  for (let k = 0; k < changes.length; k++) {
    const usual = usualEnergy[k] as number;
    const own = energies[k] as number;
    // Log of how far below the moving pictures on both sides: 0 at a quarter of their energy. Worth less where their own
    // energies differ widely (a talking head): there a calm picture is no wonder.
    const spread = spreadAbove(energies, k, sqrt((own + 0.02) * (usual + 0.02)));
    const byEnergy = (1.5 * (log(usual + 0.02) - log(own + 0.02) - log(4))) / (1 + 2 * spread * spread);
    // Motion that goes on as around it speaks for new however small the change; none where the others move, for held.
    const { coherence, motionRatio } = changes[k] as Change;
    const still = (0.22 - max(0, coherence)) * 20;
    const atAnEnd = k < 2 || k > changes.length - 3;
    const byMotion = coherence > 0.55 ? -8 : atAnEnd ? min(still, 1) : still;
    // Nothing but noise in the picture's own terms, while pictures around it do move.
    const byNoise = motionRatio < NOISE_RATIO ? 3 : 0;
    const moving = (usualRatio[k] as number) > NOISE_RATIO * 1.5;
    const sum = moving ? byEnergy + byMotion + byNoise : byEnergy > 2.5 ? byEnergy : 0;
    // At the clip's ends one side is missing: enough to follow a pattern, not to claim a freeze.
    evidence[k] = max(-MOST, min(atAnEnd ? 2.5 : MOST, sum));
  }
  return evidence;
}

/** 1 for each change around which nothing moves beyond noise: no telling held from new there. */
export function stillPlaces(changes: readonly Change[]): Uint8Array {
  const usual = upper(Float64Array.from(changes, (c) => c.motionRatio));
  return Uint8Array.from(usual, (ratio) => (ratio <= NOISE_RATIO * 1.5 ? 1 : 0));
}

/**
 * What moving pictures around each place reach, on the quieter of its two sides: a burst of motion on one side does not
 * make the calm before it held. On each side the largest within REACH.
 */
function upper(values: Float64Array): Float64Array {
  const out = new Float64Array(values.length);
  const side = (from: number, to: number): number | null => {
    const sorted = values.slice(max(0, from), min(values.length, to)).sort();
    if (sorted.length < 4) return null;
    return sorted[sorted.length - 1] as number;
  };
  for (let k = 0; k < values.length; k++) {
    const own = values[k] as number;
    const before = side(k - REACH, k);
    const after = side(k + 1, k + 1 + REACH);
    out[k] = max(own, min(before ?? after ?? own, after ?? before ?? own));
  }
  return out;
}

/** Standard deviation of the log energies around k that lie above a level: how evenly new pictures change here. */
function spreadAbove(energies: Float64Array, k: number, level: number): number {
  let count = 0;
  let sum = 0;
  let squares = 0;
  for (let i = max(0, k - REACH); i < min(energies.length, k + REACH + 1); i++) {
    const energy = energies[i] as number;
    if (i === k || energy <= level) continue;
    const logarithm = log(energy + 0.02);
    count++;
    sum += logarithm;
    squares += logarithm * logarithm;
  }
  return count > 1 ? sqrt(max(0, squares / count - (sum / count) ** 2)) : 0;
}
