// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { min } = Math;

/** Which source sample each output sample is taken from. */
export interface SoundMap {
  /** Source sample, with its fraction, of output sample m; rising wherever there is sound. */
  at(m: number): number;
}

/** From one sample on at one speed. */
export function evenMap(from: number, num: number, den: number): SoundMap {
  return { at: (m) => from + (m * num) / den };
}

/**
 * Straight between given places.
 * @param outputs rising output samples, the first one 0
 * @param sources the source sample of each
 */
export function bentMap(outputs: ArrayLike<number>, sources: ArrayLike<number>): SoundMap {
  const last = outputs.length - 1;
  let kept = 0;
  return {
    at(m) {
      // Asked in order almost always.
      let k = kept;
      while (k < last - 1 && (outputs[k + 1] as number) <= m) k++;
      while (k > 0 && (outputs[k] as number) > m) k--;
      kept = k;
      const [m0, m1] = [outputs[k] as number, outputs[min(last, k + 1)] as number];
      const [s0, s1] = [sources[k] as number, sources[min(last, k + 1)] as number];
      return m1 > m0 ? s0 + ((m - m0) * (s1 - s0)) / (m1 - m0) : s0;
    },
  };
}

/** The output sample that a source sample stands at, near a known one; the map rises there. */
export function outputOf(map: SoundMap, source: number, near: number, reach: number): number {
  let [low, high] = [near - reach, near + reach];
  for (let i = 0; i < 40 && high - low > 0.01; i++) {
    const middle = (low + high) / 2;
    if (map.at(middle) < source) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
