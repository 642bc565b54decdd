// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { cos, imul, log, sqrt } = Math;

/** Mulberry32: a small seeded generator, uniform in [0, 1). The same seed gives the same pictures on every machine. */
export function random(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = imul(t ^ (t >>> 15), t | 1);
    t ^= t + imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A standard normal number (Box and Muller). */
export function normal(next: () => number): number {
  return sqrt(-2 * log(1 - next())) * cos(2 * Math.PI * next());
}
