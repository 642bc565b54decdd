import { type PixelLayout, pictureBytes, pixelLayout, planeSizes } from '../picture/index.js';
import { planesOf } from './planes.js';
import type { FieldOrder } from './reading.js';
import { fieldAt, ownIsBetter, ReferenceRebuilder } from './rebuild.js';
import { KernelRebuilder } from './rebuild.wasm.js';
import { unsureParts } from './show.js';
import { COMPARED, leadsOut } from './vectors.js';
import { helpsFar, lineWeights, SOURCES, tapsAcross, WEIGHTS_EACH } from './weights.js';

/** A seeded number from 0 to 1 (a linear congruential generator). */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return state / 0x7fffffff;
  };
}

type Light = (x: number, y: number, moment: number) => number;

const wavy: Light = (x, y) => 0.5 + 0.25 * Math.sin(x * 0.31 + Math.sin(y * 0.2) * 2) + 0.2 * Math.sin(y * 0.53 + x * 0.05);
const moving =
  (dx: number, dy: number): Light =>
  (x, y, moment) =>
    wavy(x - dx * moment, y - dy * moment, 0);

interface Shot {
  readonly layout: PixelLayout;
  readonly width: number;
  readonly height: number;
  readonly first?: FieldOrder;
  readonly noise?: number;
}

/** Frames of two moments each: moment 2n in the lines of the first field, 2n + 1 in the others. Whole: one moment in all lines. */
function frameOf(light: Light, n: number, { layout, width, height, first = 'top', noise = 0 }: Shot, whole = -1): Uint8Array {
  const next = seeded(1 + n * 7);
  const picture = new Uint8Array(pictureBytes(layout, width, height));
  const most = 2 ** layout.bits - 1;
  planesOf(layout, picture, width, height).forEach((plane, i) => {
    const size = planeSizes(layout, width, height)[i] as { width: number; height: number };
    const [scaleX, scaleY] = [width / size.width, height / size.height];
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        const isFirst = (y % 2 === 0) === (first === 'top');
        const moment = whole >= 0 ? whole : 2 * n + (isFirst ? 0 : 1);
        const value = most * (light(x * scaleX, y * scaleY, moment) + noise * (next() - 0.5));
        plane[y * size.width + x] = Math.max(0, Math.min(most, Math.round(value)));
      }
  });
  return picture;
}

const windowAt = (frames: readonly Uint8Array[], number: number, keeps: FieldOrder, first: FieldOrder = 'top') => ({
  ...{ frames: [-2, -1, 0, 1, 2].map((d) => frames[number + d] ?? null), number, keeps, first },
});

const psnr = (a: Uint8Array, b: Uint8Array): number => {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += ((a[i] as number) - (b[i] as number)) ** 2;
  return 10 * Math.log10(65025 / Math.max(1e-9, sum / a.length));
};
const grey = pixelLayout('gray') as PixelLayout;

test.each([
  ['gray', 64, 48],
  ['gray', 77, 52],
  ['yuv420p', 96, 64],
  ['yuv420p', 90, 62],
  ['yuv422p10le', 86, 50],
  ['gbrp', 80, 52],
  ['yuva420p', 90, 62],
  ['gbrap12le', 86, 50],
  ['yuv444p12le', 70, 44],
])('kernels give the very samples of the reference: %s of %dx%d', (format, width, height) => {
  const layout = pixelLayout(format) as PixelLayout;
  for (const first of ['top', 'bottom'] as const) {
    const shot = { layout, width, height, first, noise: 0.03 };
    const frames = Array.from({ length: 6 }, (_, n) => frameOf(moving(1.7, -0.83), n, shot));
    const [reference, kernel] = [new ReferenceRebuilder(layout, width, height), new KernelRebuilder(layout, width, height)];
    for (const n of [0, 2, 5])
      for (const keeps of ['top', 'bottom'] as const) {
        const [a, b] = [new Uint8Array(frames[0]?.length ?? 0), new Uint8Array(frames[0]?.length ?? 0)];
        const window = windowAt(frames, n, keeps, first);
        expect(kernel.rebuild(window, b)).toBe(reference.rebuild(window, a));
        expect(Buffer.compare(Buffer.from(a), Buffer.from(b))).toBe(0);
        expect(kernel.doubts()).toEqual(reference.doubts());
      }
  }
});

test.each([
  ['so quick that it leaves the picture', moving(-4, 15), 0.02],
  ['so noisy that no motion is met', moving(0.4, 1.1), 0.5],
  ['slanting edges that sink by a line a field', ((x, y, t) => ((x + 2 * (y - t)) % 40 < 18 ? 0.25 : 0.75)) as Light, 0],
])('kernels give the very samples of the reference: %s', (_name, light, noise) => {
  const shot = { layout: grey, width: 96, height: 64, noise };
  const frames = Array.from({ length: 5 }, (_, n) => frameOf(light, n, shot));
  const [reference, kernel] = [new ReferenceRebuilder(grey, 96, 64), new KernelRebuilder(grey, 96, 64)];
  for (const keeps of ['top', 'bottom'] as const) {
    const [a, b] = [new Uint8Array(96 * 64), new Uint8Array(96 * 64)];
    const window = windowAt(frames, 2, keeps);
    expect(kernel.rebuild(window, b)).toBe(reference.rebuild(window, a));
    expect(Buffer.compare(Buffer.from(a), Buffer.from(b))).toBe(0);
  }
});

test('own lines are taken where motion leaves more over than they miss of each other, on both accounts', () => {
  const steps = (n: number): number => n * COMPARED;
  const sides = (apart: number, isOut = false) => ({ apart: steps(apart), isOut });
  expect(ownIsBetter(steps(9), sides(9), steps(6))).toBe(true);
  // Fine detail is not met by a field with other lines, but the two with the same ones agree.
  expect(ownIsBetter(steps(9), sides(3), steps(6))).toBe(false);
  expect(ownIsBetter(steps(9), null, steps(6))).toBe(true);
  expect(ownIsBetter(steps(9), sides(9), steps(8))).toBe(false);
  // Little is little.
  expect(ownIsBetter(steps(1.9), sides(9), 0)).toBe(false);
  expect(ownIsBetter(steps(9), sides(0, true), steps(99))).toBe(true);
});

test('a way leads out where nothing of the block is left in the picture on one side', () => {
  const blocks = { columns: 10, rows: 8 };
  const out = (left: number, top: number, across: number, down: number): boolean =>
    leadsOut(blocks, { left, top, u: 16 * across, v: 16 * down });
  expect(out(0, 0, 15, 0)).toBe(false);
  expect(out(0, 0, 16, 0)).toBe(true);
  expect(out(72, 0, 15, 0)).toBe(true);
  expect(out(72, 0, 14, 0)).toBe(false);
  expect(out(40, 56, 0, -16)).toBe(true);
  expect(out(40, 24, 30, -30)).toBe(false);
});

test.each(['yuv420p', 'yuv422p10le'])('lines that were there stay bit for bit, of all planes: %s', (format) => {
  const layout = pixelLayout(format) as PixelLayout;
  const [width, height] = [80, 54];
  const frames = Array.from({ length: 5 }, (_, n) => frameOf(moving(2.3, 0.6), n, { layout, width, height, noise: 0.1 }));
  const out = new Uint8Array(frames[0]?.length ?? 0);
  for (const keeps of ['top', 'bottom'] as const) {
    new KernelRebuilder(layout, width, height).rebuild(windowAt(frames, 2, keeps), out);
    const [was, now] = [planesOf(layout, frames[2] as Uint8Array, width, height), planesOf(layout, out, width, height)];
    planeSizes(layout, width, height).forEach((size, i) => {
      for (let y = keeps === 'top' ? 0 : 1; y < size.height; y += 2)
        for (let x = 0; x < size.width; x++) expect(now[i]?.[y * size.width + x]).toBe(was[i]?.[y * size.width + x]);
    });
  }
});

test('what stands still comes back as it is; at the clip’s ends, where one side is known, nearly', () => {
  const shot = { layout: grey, width: 96, height: 64 };
  const frames = Array.from({ length: 5 }, (_, n) => frameOf(wavy, n, shot));
  const rebuilder = new KernelRebuilder(grey, 96, 64);
  const out = new Uint8Array(96 * 64);
  for (let n = 0; n < 5; n++) {
    rebuilder.rebuild(windowAt(frames, n, n % 2 ? 'top' : 'bottom'), out);
    const frame = frames[n] as Uint8Array;
    const most = out.reduce((far, value, i) => Math.max(far, Math.abs(value - (frame[i] as number))), 0);
    if (n > 0 && n < 4) expect(most).toBeLessThanOrEqual(1);
    else expect(psnr(out, frame)).toBeGreaterThan(40);
  }
});

test('what moves across is brought along its way, far nearer to the truth than its own lines bring it', () => {
  const fine: Light = (x, y) => wavy(x, y, 0) + 0.05 * Math.sin(y * 1.7 + x * 0.4);
  const light: Light = (x, y, t) => fine(x - 2.4 * t, y, 0);
  const shot = { layout: grey, width: 128, height: 96 };
  const frames = Array.from({ length: 6 }, (_, n) => frameOf(light, n, shot));
  const truth = frameOf(light, 2, shot, 4);
  const out = new Uint8Array(128 * 96);
  new KernelRebuilder(grey, 128, 96).rebuild(windowAt(frames, 2, 'top'), out);
  const bob = truth.slice();
  for (let y = 1; y < 95; y += 2)
    for (let x = 0; x < 128; x++)
      bob[y * 128 + x] = ((truth[(y - 1) * 128 + x] as number) + (truth[(y + 1) * 128 + x] as number)) >> 1;
  expect(psnr(out, truth)).toBeGreaterThan(psnr(bob, truth) + 8);
});

test('nothing of another scene comes in: at a cut lines are made from the side that shows the same', () => {
  const other: Light = (x, y) => 1 - wavy(x * 0.7 + 40, y * 1.2 + 9, 0);
  const shot = { layout: grey, width: 96, height: 64 };
  const frames = Array.from({ length: 6 }, (_, n) => frameOf(n < 3 ? wavy : other, n, shot));
  const out = new Uint8Array(96 * 64);
  const rebuilder = new KernelRebuilder(grey, 96, 64);
  // The last field before the cut, and the first one behind it.
  rebuilder.rebuild(windowAt(frames, 2, 'bottom'), out);
  expect(psnr(out, frames[2] as Uint8Array)).toBeGreaterThan(35);
  rebuilder.rebuild(windowAt(frames, 3, 'top'), out);
  expect(psnr(out, frames[3] as Uint8Array)).toBeGreaterThan(35);
});

test('what comes from nowhere is doubted, what goes on is not, and alone keeps its light where doubts are shown', () => {
  const shot = { layout: pixelLayout('yuv420p') as PixelLayout, width: 128, height: 96 };
  const next = seeded(5);
  const specks = Array.from({ length: 12 }, () => Float32Array.from({ length: 32 * 32 }, next));
  // The middle of the picture is new in every moment.
  const light: Light = (x, y, t) =>
    x >= 48 && x < 80 && y >= 32 && y < 64
      ? (specks[t]?.[((y - 32) | 0) * 32 + ((x - 48) | 0)] as number)
      : wavy(x - 1.5 * t, y, 0);
  const frames = Array.from({ length: 6 }, (_, n) => frameOf(light, n, shot));
  const rebuilder = new KernelRebuilder(shot.layout, 128, 96);
  const picture = new Uint8Array((128 * 96 * 3) / 2);
  rebuilder.rebuild(windowAt(frames, 2, 'top'), picture);
  const { columns, rows, doubt } = rebuilder.doubts();
  expect([columns, rows]).toEqual([16, 12]);
  const within = (c: number, r: number): boolean => c >= 6 && c < 10 && r >= 4 && r < 8;
  const beside = (c: number, r: number): boolean => c >= 4 && c < 12 && r >= 2 && r < 10;
  for (let r = 1; r < rows - 1; r++)
    for (let c = 1; c < columns - 1; c++) {
      const found = doubt[r * columns + c] as number;
      if (within(c, r)) expect(found).toBeGreaterThan(100);
      else if (!beside(c, r)) expect(found).toBeLessThan(60);
    }
  const shown = unsureParts(shot.layout, { width: 128, height: 96, picture, doubts: rebuilder.doubts() });
  expect(shown[48 * 128 + 64]).toBe(picture[48 * 128 + 64]);
  // What lies far from the middle of the range comes nearer to it.
  const reach = (of: Uint8Array): number => of.subarray(0, 128 * 16).reduce((sum, light) => sum + Math.abs(light - 128), 0);
  expect(reach(shown)).toBeLessThan(0.6 * reach(picture));
});

test('a picture depends on what is around it alone, not on what was rebuilt before', () => {
  const shot = { layout: grey, width: 90, height: 50, noise: 0.02 };
  const frames = Array.from({ length: 9 }, (_, n) => frameOf(moving(1.2, 0.4), n, shot));
  const [stream, alone] = [new KernelRebuilder(grey, 90, 50), new KernelRebuilder(grey, 90, 50)];
  const [a, b] = [new Uint8Array(90 * 50), new Uint8Array(90 * 50)];
  for (let n = 0; n < 9; n++) for (const keeps of ['top', 'bottom'] as const) stream.rebuild(windowAt(frames, n, keeps), a);
  stream.rebuild(windowAt(frames, 5, 'bottom'), a);
  alone.rebuild(windowAt(frames, 5, 'bottom'), b);
  expect(Buffer.compare(Buffer.from(a), Buffer.from(b))).toBe(0);
});

test('fields around one lie in frames by the order of time', () => {
  const at = (keeps: FieldOrder, first: FieldOrder, distance: number) => Object.values(fieldAt({ keeps, first }, distance));
  expect(at('top', 'top', 0)).toEqual([0, 0]);
  expect(at('top', 'top', -1)).toEqual([-1, 1]);
  expect(at('bottom', 'top', 1)).toEqual([1, 0]);
  expect(at('bottom', 'bottom', 1)).toEqual([0, 0]);
  expect(at('top', 'bottom', -4)).toEqual([-2, 0]);
});

test('weights sum up to one, so that plain light stays what it is', () => {
  const weights = lineWeights();
  for (let at = 0; at < weights.length; at += WEIGHTS_EACH) {
    const sum = weights.subarray(at, at + WEIGHTS_EACH).reduce((all, w) => all + w, 0);
    expect(Math.abs(sum - 32768)).toBeLessThanOrEqual(1);
  }
  for (const kind of ['luma', 'chroma'] as const)
    for (let at = 0; at < 128; at += 8)
      expect(
        Math.abs(
          tapsAcross(kind)
            .subarray(at, at + 8)
            .reduce((all, w) => all + w, 0) - 32768,
        ),
      ).toBeLessThanOrEqual(1);
  expect(SOURCES).toHaveLength(5);
  // What moves down by a line each field hides from the fields beside; what stands still does not.
  expect(helpsFar(0)).toBe(false);
  expect(helpsFar(13)).toBe(true);
});
