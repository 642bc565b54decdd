import { BLOCK, emptyStep, fitStep, gridOf } from './blocks.js';
import { COARSE, ReferenceSteps } from './steps.js';

const [width, height] = [64, 48];
const grid = gridOf(width, height);

/** A soft texture moved by (u, v) samples, brighter by `light`. */
function texture(u: number, v: number, light = 0): Uint8Array {
  return Uint8Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [(i % width) - u, Math.floor(i / width) - v];
    return Math.round(120 + light + 50 * Math.sin(x / 3.1 + y / 7) + 40 * Math.cos(y / 4.3 - x / 9));
  });
}

function step(a: Uint8Array, b: Uint8Array) {
  const steps = new ReferenceSteps(grid, gridOf(width / COARSE, height / COARSE, 8));
  steps.push(a);
  steps.push(b);
  const out = emptyStep(grid.blocks);
  return { ...out, square: fitStep(steps.fine(), grid, 1, out) };
}

const mean = (values: Float32Array): number => values.reduce((sum, value) => sum + value, 0) / values.length;

test('blocks tile the picture without its outermost samples, whatever the size', () => {
  for (const [w, h] of [
    [256, 144],
    [250, 142],
    [16, 16],
    [33, 95],
  ] as const) {
    const some = gridOf(w, h);
    const across = Array.from(some.lefts, (left, i) => (some.rights[i] as number) - left).reduce((a, b) => a + b);
    const down = Array.from(some.tops, (top, i) => (some.bottoms[i] as number) - top).reduce((a, b) => a + b);
    expect([across, down]).toEqual([w - 2, h - 2]);
    expect(Math.max(...Array.from(some.lefts, (left, i) => (some.rights[i] as number) - left))).toBeLessThan(2 * BLOCK);
  }
});

test.each([
  [0.15, 0],
  [-0.5, 0.3],
  [0.9, -0.7],
])('a texture moved by %f, %f is found to have moved by that, and the motion explains the change', (u, v) => {
  const { explained, noise, u: us, v: vs } = step(texture(0, 0), texture(u, v));
  expect(mean(us)).toBeCloseTo(-u, 1);
  expect(mean(vs)).toBeCloseTo(-v, 1);
  expect(mean(explained)).toBeGreaterThan(10 * mean(noise));
});

test('light that changes is no change of a block, though it is one of the whole', () => {
  const { energy, square } = step(texture(0, 0), texture(0, 0, 9));
  expect(mean(energy)).toBeLessThan(0.05);
  expect(square).toBeGreaterThan(60);
});

test('noise is left over as its own variance, and motion explains no more than chance gives', () => {
  let state = 7;
  // Evenly spread over -4 … 4: variance 20/3, twice that in a difference.
  const next = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state >>> 8) % 9;
  };
  const noisy = (): Uint8Array => texture(0, 0).map((value) => value + next() - 4);
  const { noise, explained } = step(noisy(), noisy());
  expect(mean(noise) / (40 / 3)).toBeGreaterThan(0.9);
  expect(mean(noise) / (40 / 3)).toBeLessThan(1.1);
  expect(mean(explained) / (40 / 3)).toBeLessThan(1.8);
});
