// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { min } = Math;

/** Which source sample each output sample is taken from. */
export interface SoundMap {
  /** Source sample, with its fraction, of output sample m; rising wherever there is sound. */
  at(m: number): number;
  /** The first source sample that is still wanted from output sample m on: a curve may run back. */
  least(m: number): number;
}

/** From one sample on at one speed. */
export function evenMap(from: number, num: number, den: number): SoundMap {
  const at = (m: number): number => from + (m * num) / den;
  return { at, least: at };
}

/**
 * Straight between given places; before the first and after the last it stands.
 * @param outputs rising output samples, the first one 0
 * @param sources the source sample of each
 */
export function bentMap(outputs: ArrayLike<number>, sources: ArrayLike<number>): SoundMap {
  const last = outputs.length - 1;
  const least = Float64Array.from(sources);
  for (let k = last - 1; k >= 0; k--) least[k] = min(least[k], least[k + 1]);
  let kept = 0;
  /** The place at or before an output sample: asked in order almost always. */
  const before = (m: number): number => {
    while (kept < last && outputs[kept + 1] <= m) kept++;
    while (kept > 0 && outputs[kept] > m) kept--;
    return kept;
  };
  const at = (m: number): number => {
    const k = before(m);
    const from = sources[k];
    if (k === last || m < outputs[0]) return from;
    const share = (m - outputs[k]) / (outputs[k + 1] - outputs[k]);
    return from + share * (sources[k + 1] - from);
  };
  return { at, least: (m) => min(at(m), least[min(last, before(m) + 1)]) };
}

/** The same map for a stream whose first sample is another of the source. */
export function shiftedMap(map: SoundMap, by: number): SoundMap {
  return { at: (m) => map.at(m) - by, least: (m) => map.least(m) - by };
}

/** The output sample at which a source sample is heard, near a known one; the map rises there. */
export function outputOf(map: SoundMap, source: number, near: number, reach: number): number {
  let [low, high] = [near - reach, near + reach];
  for (let i = 0; i < 40 && high - low > 0.01; i++) {
    const middle = (low + high) / 2;
    if (map.at(middle) < source) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
