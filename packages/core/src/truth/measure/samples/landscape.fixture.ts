/** Made-up pictures for tests of what a check finds: a landscape without two places alike, seen from anywhere, with fresh noise. */

export const [WIDTH, HEIGHT] = [160, 96];
const SIDE = 512;
const OCTAVES = [
  [64, 1],
  [24, 0.7],
  [9, 0.5],
  [4, 0.3],
] as const;

/** Mulberry32: 0 to 1. */
export function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Light of WIDTH x HEIGHT samples from a place on, -2.5 to 2.5, smooth, going round after SIDE samples. */
export type Landscape = (x: number, y: number) => Float32Array;

/** Where a line of samples falls between the values of a layer: those on either side, and how far it is between them. */
function along(from: number, samples: number, size: number, count: number) {
  const [before, after, share] = [new Int32Array(samples), new Int32Array(samples), new Float64Array(samples)];
  for (let i = 0; i < samples; i++) {
    const at = (from + i) / size;
    const whole = Math.floor(at);
    const t = at - whole;
    before[i] = ((whole % count) + count) % count;
    after[i] = (((whole + 1) % count) + count) % count;
    share[i] = t * t * (3 - 2 * t);
  }
  return { before, after, share };
}

export function landscape(seed: number): Landscape {
  const next = random(seed);
  const layers = OCTAVES.map(([size, weight]) => {
    const count = Math.round(SIDE / size);
    return { size: SIDE / count, weight, count, values: Float32Array.from({ length: count * count }, () => next() * 2 - 1) };
  });
  // Most tests look from the same places: what was painted once is kept.
  const painted = new Map<string, Float32Array>();
  return (x, y) => {
    const place = `${x} ${y}`;
    const kept = painted.get(place);
    if (kept) return kept;
    const sum = new Float32Array(WIDTH * HEIGHT);
    painted.set(place, sum);
    for (const { size, weight, count, values } of layers) {
      const columns = along(x, WIDTH, size, count);
      const rows = along(y, HEIGHT, size, count);
      for (let j = 0; j < HEIGHT; j++) {
        const upper = (rows.before[j] as number) * count;
        const lower = (rows.after[j] as number) * count;
        const ty = rows.share[j] as number;
        for (let i = 0; i < WIDTH; i++) {
          const left = columns.before[i] as number;
          const right = columns.after[i] as number;
          const tx = columns.share[i] as number;
          const above = (values[upper + left] as number) * (1 - tx) + (values[upper + right] as number) * tx;
          const below = (values[lower + left] as number) * (1 - tx) + (values[lower + right] as number) * tx;
          sum[j * WIDTH + i] = (sum[j * WIDTH + i] as number) + weight * (above * (1 - ty) + below * ty);
        }
      }
    }
    return sum;
  };
}

/** What is seen of it from (x, y) on. */
export function seen(from: Landscape, x: number, y: number, noise: () => number): Uint8Array {
  const picture = new Uint8Array(WIDTH * HEIGHT);
  const light = from(x, y);
  for (let i = 0; i < picture.length; i++) {
    const luma = 128 + 50 * (light[i] as number) + 4 * (noise() - 0.5);
    picture[i] = Math.max(0, Math.min(255, luma));
  }
  return picture;
}
