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

/** Luma at a place, smooth, going round after SIDE samples. */
export type Landscape = (x: number, y: number) => number;

export function landscape(seed: number): Landscape {
  const next = random(seed);
  const layers = OCTAVES.map(([size, weight]) => {
    const count = Math.round(SIDE / size);
    return { size: SIDE / count, weight, count, values: Float32Array.from({ length: count * count }, () => next() * 2 - 1) };
  });
  return (x, y) => {
    let sum = 0;
    for (const { size, weight, count, values } of layers) {
      const [gx, gy] = [x / size, y / size];
      const [x0, y0] = [Math.floor(gx), Math.floor(gy)];
      const at = (i: number, j: number): number =>
        values[((((j % count) + count) % count) * count + (((i % count) + count) % count)) as number] as number;
      const ease = (t: number): number => t * t * (3 - 2 * t);
      const [tx, ty] = [ease(gx - x0), ease(gy - y0)];
      const above = at(x0, y0) * (1 - tx) + at(x0 + 1, y0) * tx;
      const below = at(x0, y0 + 1) * (1 - tx) + at(x0 + 1, y0 + 1) * tx;
      sum += weight * (above * (1 - ty) + below * ty);
    }
    return 128 + 50 * sum;
  };
}

/** What is seen of it from (x, y) on. */
export function seen(from: Landscape, x: number, y: number, noise: () => number): Uint8Array {
  return Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
    Math.max(0, Math.min(255, from(x + (i % WIDTH), y + Math.floor(i / WIDTH)) + 4 * (noise() - 0.5))),
  );
}
