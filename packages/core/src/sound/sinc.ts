// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, cos, floor, sin } = Math;

/** Zero crossings of the sinc on each side of a sample. */
export const REACH = 16;
/** Taps of one reading between samples. */
export const TAPS = 2 * REACH;
/** Places between two samples that the table holds; between them it is read in a straight line (error below 1e-5). */
const PHASES = 512;

/** A sinc under a Hann window; 0 from REACH on. */
function windowedSinc(x: number): number {
  if (abs(x) >= REACH) return 0;
  const sinc = abs(x) < 1e-9 ? 1 : sin(Math.PI * x) / (Math.PI * x);
  return sinc * (0.5 + 0.5 * cos((Math.PI * x) / REACH));
}

let half: Float64Array | null = null;

/** The same from the table, for a positive x. */
function looked(x: number): number {
  half ??= Float64Array.from({ length: REACH * PHASES + 2 }, (_, k) => windowedSinc(k / PHASES));
  const place = x * PHASES;
  const p = floor(place);
  if (p > REACH * PHASES) return 0;
  const here = half[p];
  return here + (place - p) * (half[p + 1] - here);
}

let table: Float64Array | null = null;

function phases(): Float64Array {
  if (table) return table;
  table = new Float64Array((PHASES + 1) * TAPS);
  for (let p = 0; p <= PHASES; p++) for (let j = 0; j < TAPS; j++) table[p * TAPS + j] = windowedSinc(j - REACH + 1 - p / PHASES);
  return table;
}

/**
 * Weights of the samples around a place between two of them.
 * @param fraction place after the sample at or before it, 0 to 1
 * @param weights takes TAPS weights: of the samples from REACH - 1 before that sample to REACH after it
 */
export function tapsAt(fraction: number, weights: Float64Array): void {
  const all = phases();
  const place = fraction * PHASES;
  const p = floor(place);
  const later = place - p;
  const at = p * TAPS;
  if (p >= PHASES) {
    for (let j = 0; j < TAPS; j++) weights[j] = all[PHASES * TAPS + j];
    return;
  }
  for (let j = 0; j < TAPS; j++) {
    const here = all[at + j];
    weights[j] = here + later * (all[at + TAPS + j] - here);
  }
}

/**
 * The same where more than one sample passes for each that is wanted: a wider sinc, so that nothing folds back.
 * @param narrow share of the frequencies that stays, below 1
 * @returns weights of the samples from ceil(fraction - REACH / narrow) on, counted from the sample at or before the place
 */
export function wideTaps(fraction: number, narrow: number): Float64Array {
  const span = REACH / narrow;
  const first = Math.ceil(fraction - span);
  const weights = new Float64Array(floor(fraction + span) - first + 1);
  for (let k = 0; k < weights.length; k++) weights[k] = narrow * looked(abs(first + k - fraction) * narrow);
  return weights;
}
