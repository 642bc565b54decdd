import { gridOf } from './blocks.js';
import { COARSE, ReferenceSteps } from './steps.js';
import { KernelSteps } from './steps.wasm.js';

/** Mulberry32: seeded bytes. */
function noise(seed: number, length: number): Uint8Array {
  let state = seed;
  return Uint8Array.from({ length }, () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return (t ^ (t >>> 14)) & 255;
  });
}

/** The largest slopes there are: every second column (or row) black and white. */
const stripes = (width: number, height: number, phase: number, upright: boolean): Uint8Array =>
  Uint8Array.from({ length: width * height }, (_, i) => {
    const at = upright ? i % width : Math.floor(i / width);
    return (at >> 1) % 2 === phase ? 255 : 0;
  });

describe.each([
  [256, 144],
  [254, 142],
  [16, 16],
  [18, 40],
  [250, 30],
])('steps over pictures of %i x %i', (width, height) => {
  const grid = gridOf(width, height);
  const coarseGrid = gridOf(Math.floor(width / COARSE), Math.floor(height / COARSE), 8);
  const pictures = [
    noise(1, width * height),
    noise(2, width * height),
    stripes(width, height, 0, true),
    stripes(width, height, 1, true),
    stripes(width, height, 0, false),
    new Uint8Array(width * height).fill(255),
    new Uint8Array(width * height),
  ];

  test('the kernels give the reference to the last digit', () => {
    const reference = new ReferenceSteps(grid, coarseGrid);
    const kernels = new KernelSteps(grid, coarseGrid);
    for (const picture of pictures) {
      reference.push(picture);
      kernels.push(picture);
      expect(Array.from(kernels.fine())).toEqual(Array.from(reference.fine()));
      expect(Array.from(kernels.coarse())).toEqual(Array.from(reference.coarse()));
      expect(Array.from(kernels.mix())).toEqual(Array.from(reference.mix()));
    }
  });
});
