import { KEPT_HALVES, PRODUCTS, ReferenceHalves } from './halves.js';
import { KernelHalves } from './halves.wasm.js';
import { random } from './landscape.fixture.js';

const noise = (seed: number, length: number): Uint8Array => {
  const next = random(seed);
  return Uint8Array.from({ length }, () => 256 * next());
};

test.each([
  [256, 146],
  [254, 142],
  [160, 96],
])('over %i x %i the kernels give the reference to the last digit', (width, height) => {
  const [reference, kernels] = [new ReferenceHalves(width, height), new KernelHalves(width, height)];
  const extremes = [0, 255].map((luma) => new Uint8Array(width * height).fill(luma));
  for (const picture of [noise(1, width * height), ...extremes, noise(2, width * height)]) {
    reference.push(picture);
    kernels.push(picture);
  }
  expect(kernels.grid).toEqual(reference.grid);
  for (const [a, b, dx, dy] of [
    [0, 3, 0, 0],
    [0, 3, -12, 8],
    [3, 0, 12, -8],
    [1, 2, 5, 1],
  ] as const)
    expect(Array.from(kernels.products(a, b, dx, dy))).toEqual(Array.from(reference.products(a, b, dx, dy)));
  expect(kernels.levelAt(3, 17, 9)).toBe(reference.levelAt(3, 17, 9));
  expect(kernels.levelAt(2, 12, 8)).toBe(255);
});

test('a picture that takes the place of an old one is halved anew', () => {
  const kernels = new KernelHalves(64, 64);
  const [first, last] = [noise(3, 64 * 64), noise(4, 64 * 64)];
  kernels.push(first);
  const old = Array.from(kernels.products(0, 0, 0, 0));
  for (let k = 1; k < KEPT_HALVES; k++) kernels.push(first);
  kernels.push(last);
  const now = Array.from(kernels.products(KEPT_HALVES, KEPT_HALVES, 0, 0));
  expect(now).toHaveLength(kernels.grid.blocks.length * PRODUCTS);
  expect(now).not.toEqual(old);
});

test('a picture too small for a block has none', () => {
  const kernels = new KernelHalves(32, 16);
  kernels.push(noise(5, 32 * 16));
  expect(kernels.grid.blocks).toEqual([]);
  expect(kernels.products(0, 0, 0, 0)).toHaveLength(0);
});
