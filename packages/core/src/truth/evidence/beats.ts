import { rateToNumber, STANDARD_RATES } from '../../time/index.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, log, max, min, sqrt } = Math;

/** The beat of two rates in what pictures keep of their detail: for mixes and for pictures that motion made. */

/** Shorter stretches do not show a rhythm. */
export const LEAST_PICTURES = 14;
/** Detrended over so many pictures on each side. */
const TREND = 13;

/** Rates that pictures are mixed or made from, the usual ones before their rarer neighbours. */
export const SOURCES = [...STANDARD_RATES.map(rateToNumber), 12, 12.5, 15, 20].filter((r) => r <= 60);

/** Logarithms of the share of detail that mixing leaves, without their mean; entry i belongs to the i-th picture of a piece. */
export class Models {
  /** Pieces of a long clip have one of two lengths: what was computed for one serves them all. */
  private readonly known = new Map<string, { readonly model: Float64Array; readonly swing: number }>();

  constructor(readonly storedRate: number) {}

  at(step: number, phase: number, length: number): { readonly model: Float64Array; readonly swing: number } {
    const key = `${step} ${phase} ${length}`;
    const known = this.known.get(key);
    if (known) return known;
    const model = detrended(
      Float64Array.from({ length }, (_, i) => {
        const f = fraction(phase + i * step);
        return log(f * f + (1 - f) * (1 - f));
      }),
    );
    const made = { model, swing: swingOf(model) };
    this.known.set(key, made);
    return made;
  }
}

/** Standard deviation of a model, 0 to about 0.35. */
function swingOf(model: Float64Array): number {
  return sqrt(model.reduce((sum, x) => sum + x * x, 0) / model.length);
}

export function fraction(x: number): number {
  return x - floor(x);
}

/** How much better a signal is explained with the model than without: n / 2 * ln(1 / (1 - r^2)); 0 where its swing is too small. */
export function gainOf(signal: Float64Array, model: Float64Array, leastSlope: number): number {
  let [n, xx, xy, yy] = [0, 0, 0, 0];
  for (let i = 0; i < signal.length; i++) {
    const y = signal[i] as number;
    if (Number.isNaN(y)) continue;
    const x = model[i] as number;
    n++;
    xx += x * x;
    xy += x * y;
    yy += y * y;
  }
  // A model that hardly swings explains nothing, however well it fits.
  if (n < LEAST_PICTURES || xx / n < 0.01 || yy === 0 || xy / xx < leastSlope) return 0;
  // Codecs and content make neighbours alike: each picture is worth half.
  return (n / 4) * log(1 / max(1e-3, 1 - (xy * xy) / (xx * yy)));
}

/**
 * Takes the mean of the pictures around away; what is not known stays so.
 * @param within the shot that entry i lies in: pictures of another one do not count as around it; all are one where it is left out
 */
export function detrended(
  values: Float64Array,
  within: (i: number) => readonly [first: number, end: number] = () => [0, values.length],
): Float64Array {
  const sums = new Float64Array(values.length + 1);
  const counts = new Int32Array(values.length + 1);
  for (let i = 0; i < values.length; i++) {
    const known = !Number.isNaN(values[i] as number);
    sums[i + 1] = (sums[i] as number) + (known ? (values[i] as number) : 0);
    counts[i + 1] = (counts[i] as number) + (known ? 1 : 0);
  }
  return values.map((value, i) => {
    const [start, end] = within(i);
    const [first, last] = [max(0, start, i - TREND), min(values.length, end, i + TREND + 1)];
    const count = (counts[last] as number) - (counts[first] as number);
    return count > 0 ? value - ((sums[last] as number) - (sums[first] as number)) / count : value;
  });
}
