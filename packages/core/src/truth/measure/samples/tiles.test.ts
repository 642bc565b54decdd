import { random } from './landscape.fixture.js';
import { KEPT, ReferenceTiles, type TileStep, tileGridOf } from './tiles.js';
import { KernelTiles } from './tiles.wasm.js';

const noise = (seed: number, length: number): Uint8Array => {
  const next = random(seed);
  return Uint8Array.from({ length }, () => 256 * next());
};

/** A smooth landscape seen from (x, y): no two places alike. */
const seen = (width: number, height: number, x: number, y: number): Uint8Array =>
  Uint8Array.from({ length: width * height }, (_, i) => {
    const [a, b] = [(i % width) + x, Math.floor(i / width) + y];
    const waves = Math.sin(a / 11) + Math.sin(b / 9 + a / 41) + Math.sin((a * b) / 900) + Math.cos(a / 23 - b / 7);
    return 128 + 24 * waves;
  });

const plain = (step: TileStep) => Object.fromEntries(Object.entries(step).map(([k, v]) => [k, Array.from(v as Float32Array)]));

test.each([
  [256, 144],
  [254, 142],
  [60, 200],
  [16, 16],
])('over %i x %i the kernels give the reference to the last digit', (width, height) => {
  const reference = new ReferenceTiles(width, height);
  const kernels = new KernelTiles(width, height);
  const flat = [0, 255].map((luma) => new Uint8Array(width * height).fill(luma));
  const pictures = [
    noise(1, width * height),
    seen(width, height, 0, 0),
    seen(width, height, 7, 3),
    ...flat,
    noise(2, width * height),
  ];
  pictures.forEach((picture, n) => {
    reference.push(picture);
    kernels.push(picture);
    expect(kernels.moments()).toEqual(reference.moments());
    for (let back = 1; back <= Math.min(n, 2); back++) expect(plain(kernels.search(back))).toEqual(plain(reference.search(back)));
    for (let back = 1; back <= Math.min(n, KEPT - 1); back++) expect(kernels.apart(back)).toBe(reference.apart(back));
  });
});

test.each([
  [8, 0],
  [-20, 12],
  [3, -1],
  [40, 24],
])('content that moves by %i, %i samples is found there', (x, y) => {
  const tiles = new KernelTiles(256, 144);
  tiles.push(seen(256, 144, 100, 100));
  // What is looked at moves to the left: the place it is seen from to the right.
  tiles.push(seen(256, 144, 100 - x, 100 - y));
  const { u, v, left, own } = tiles.search(1);
  const sorted = (values: Float32Array) => Array.from(values).sort((a, b) => a - b)[values.length >> 1] as number;
  expect(sorted(u)).toBeCloseTo(x / 4, 0.5);
  expect(sorted(v)).toBeCloseTo(y / 4, 0.5);
  expect(sorted(left)).toBeLessThan(0.1 * sorted(own));
});

test('light alone moves nothing', () => {
  const tiles = new KernelTiles(256, 144);
  const picture = seen(256, 144, 0, 0);
  tiles.push(picture);
  tiles.push(picture.map((luma) => luma + 20));
  const { u, v, left } = tiles.search(1);
  expect([...u, ...v].every((d) => Math.abs(d) < 0.01)).toBe(true);
  expect(Math.max(...left)).toBeLessThan(0.2);
});

test('tiles lie in the middle, with a sample to spare on each side', () => {
  for (const [width, height] of [
    [256, 144],
    [240, 136],
    [34, 34],
  ] as const) {
    const grid = tileGridOf(width, height);
    expect(Math.min(grid.left, grid.top)).toBeGreaterThanOrEqual(1);
    expect(grid.left + 8 * grid.columns).toBeLessThan(grid.width);
    expect(grid.top + 8 * grid.rows).toBeLessThan(grid.height);
  }
});
