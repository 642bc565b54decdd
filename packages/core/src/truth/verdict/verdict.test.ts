import { demoClips, interview, lake, normal, picturesOf, random, ridge, type Scene } from '@thawline/rig';
import { ChangeMeter, checkSize, judge, shifted, type Verdict } from '../index.js';
import { cook, lakeOf, mixes } from './recipes.fixture.js';

const WIDTH = 256;
const HEIGHT = 144;

/** Light without noise, kept: many of the clips below show the same moments. */
const seen = new Map<Scene, Map<number, Float32Array>>();

function light(scene: Scene, moment: number): Float32Array {
  const moments = seen.get(scene) ?? new Map<number, Float32Array>();
  seen.set(scene, moments);
  let luma = moments.get(moment);
  if (!luma) {
    luma = new Float32Array(WIDTH * HEIGHT);
    const shader = scene(moment, WIDTH, HEIGHT);
    const pixel = new Float64Array(3);
    for (let i = 0; i < luma.length; i++) {
      shader(i % WIDTH, (i - (i % WIDTH)) / WIDTH, pixel);
      luma[i] = pixel[0] as number;
    }
    moments.set(moment, luma);
  }
  return luma;
}

const next = random(99);
const GRAIN = Float32Array.from({ length: 1 << 17 }, () => normal(next));

function expose(luma: Float32Array, noise: number): Uint8Array {
  const from = Math.floor(next() * GRAIN.length);
  const picture = new Uint8Array(luma.length);
  for (let i = 0; i < luma.length; i++)
    picture[i] = (luma[i] as number) + noise * (GRAIN[(from + i) % GRAIN.length] as number) + 0.5;
  return picture;
}

/** A made-up clip as a camera would give it, judged without any codec between. */
function verdictOf(
  scene: Scene,
  moments: readonly number[],
  rate: number,
  options: { noise?: number; freshNoise?: boolean } = {},
): Verdict {
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  let shown = Number.NaN;
  let picture: Uint8Array = new Uint8Array(0);
  for (const moment of moments) {
    if (moment !== shown || options.freshNoise) picture = expose(light(scene, moment), options.noise ?? 1.5);
    shown = moment;
    meter.push(picture);
  }
  return judge(meter.finish(), rate);
}

const times = (count: number, at: (k: number) => number): number[] => Array.from({ length: count }, (_, k) => at(k));
const floes = lake({ seed: 301, speed: 1, floes: 14 });

test('all-new material is called new', () => {
  const verdict = verdictOf(
    floes,
    times(60, (k) => k / 25),
    25,
  );
  expect(verdict).toMatchObject({ kind: 'new', trueRate: 25, held: [], jumps: [] });
});

test.each([2, 3, 4, 5])('every picture %i times gives that share of the rate', (n) => {
  const verdict = verdictOf(
    floes,
    times(96, (k) => Math.floor(k / n) / 25),
    25,
  );
  expect(verdict.kind).toBe('padded');
  expect(verdict.trueRate).toBeCloseTo(25 / n, 6);
  expect(verdict.held).toEqual(times(96, (k) => k).filter((k) => k % n !== 0));
});

test('a clip shorter than a window is told as well', () => {
  const verdict = verdictOf(
    floes,
    times(16, (k) => Math.floor(k / 2) / 25),
    25,
  );
  expect(verdict.kind).toBe('padded');
  expect(verdict.held).toEqual([1, 3, 5, 7, 9, 11, 13, 15]);
});

test('one repeat in 25 is 24 in 25', () => {
  const verdict = verdictOf(
    floes,
    times(125, (k) => Math.floor((k * 24) / 25) / 24),
    25,
  );
  expect(verdict.kind).toBe('one-in-n');
  expect(verdict.trueRate).toBeCloseTo(24, 6);
});

test('2 and 3 in turn is 24 in 60', () => {
  const verdict = verdictOf(
    floes,
    times(120, (k) => Math.floor((k * 24) / 60) / 24),
    60,
  );
  expect(verdict.kind).toBe('pulldown');
  expect(verdict.trueRate).toBeCloseTo(24, 6);
});

test('a single freeze is a fault with its place, and the rate stays', () => {
  const verdict = verdictOf(
    floes,
    times(80, (k) => (k === 40 ? 39 : k) / 25),
    25,
  );
  expect(verdict).toMatchObject({ kind: 'new', trueRate: 25, held: [40] });
});

test('pictures left out are a jump', () => {
  const verdict = verdictOf(
    ridge(77, 60),
    times(80, (k) => (k < 40 ? k : k + 1) / 25),
    25,
  );
  expect(verdict).toMatchObject({ kind: 'new', jumps: [40], held: [] });
});

test('a conversion that drops a picture at every beat jumps at each of them', () => {
  const shown = times(100, (k) => Math.floor((k * 6) / 5));
  const verdict = verdictOf(
    ridge(77, 60),
    shown.map((k) => k / 30),
    25,
  );
  const dropped = times(99, (k) => k + 1).filter((k) => (shown[k] ?? 0) - (shown[k - 1] ?? 0) === 2);
  expect(verdict.jumps.every((k) => dropped.includes(k))).toBe(true);
  // At the ends there are too few around to say so.
  const inside = dropped.filter((k) => k > 6 && k < 94);
  expect(verdict.jumps.filter((k) => inside.includes(k)).length / inside.length).toBeGreaterThan(0.85);
});

test('held pictures with fresh sensor noise are held all the same', () => {
  const verdict = verdictOf(
    floes,
    times(90, (k) => Math.floor(k / 3) / 25),
    25,
    { noise: 3, freshNoise: true },
  );
  expect(verdict.kind).toBe('padded');
  expect(verdict.trueRate).toBeCloseTo(25 / 3, 6);
});

test('a pan of a tenth of a pixel a picture is new', () => {
  const verdict = verdictOf(
    ridge(78, 2.5),
    times(60, (k) => k / 25),
    25,
    { noise: 1 },
  );
  expect(verdict).toMatchObject({ kind: 'new', held: [], trueRate: 25 });
});

test('a halves-differ clip gets a stretch and a rate for each, and the weighted mean', () => {
  const verdict = verdictOf(
    floes,
    times(120, (k) => (k < 60 ? k : 60 + Math.floor((k - 60) / 2)) / 25),
    25,
  );
  expect(verdict.kind).toBe('mixed');
  expect(verdict.stretches.map((s) => s.pattern)).toEqual(['new', 'every-2']);
  expect(verdict.trueRate).toBeCloseTo(18.75, 0);
});

test.each([
  [24, 30],
  [25, 50],
])('%i mixed into %i has the rate it was mixed from, and the weights', (from, to) => {
  const made = mixes(90, from, to);
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  for (const picture of cook(made, lakeOf(3))) meter.push(picture);
  const verdict = judge(meter.finish(), to);
  expect(verdict.kind).toBe('blended');
  expect(verdict.trueRate).toBeCloseTo(from, 6);
  const real = new Map(made.flatMap((m, k) => (m.kind === 'mix' ? [[k, m.share] as const] : [])));
  expect(verdict.blends.filter((k) => real.has(k)).length / real.size).toBeGreaterThan(0.95);
  verdict.blends.forEach((k, i) => {
    if (real.has(k)) expect(Math.abs((verdict.shares[i] ?? 0) - (real.get(k) ?? 0))).toBeLessThan(0.1);
  });
});

test("a part of a clip is told in the clip's own numbers", () => {
  const verdict = verdictOf(
    floes,
    times(60, (k) => Math.floor(k / 2) / 25),
    25,
  );
  const moved = shifted(verdict, 100);
  expect(moved.held).toEqual(verdict.held.map((k) => k + 100));
  expect(moved.stretches[0]).toMatchObject({ from: 100, to: 160 });
});

test('where nothing moves nothing is claimed', () => {
  const verdict = verdictOf(
    floes,
    times(40, () => 1),
    25,
    { freshNoise: true },
  );
  expect(verdict).toMatchObject({ kind: 'still', held: [], trueRate: 25 });
});

test('one or two pictures are judged without falling over', () => {
  expect(verdictOf(floes, [0], 25)).toMatchObject({ pictures: 1, held: [] });
  expect(verdictOf(floes, [0, 0.04], 25)).toMatchObject({ pictures: 2 });
});

test('a talking head is not held between its syllables', () => {
  const head = interview(42, (t) => (t % 1 < 0.4 ? Math.abs(Math.sin(t * 20)) : 0), -1);
  expect(
    verdictOf(
      head,
      times(75, (k) => k / 25),
      25,
    ).held,
  ).toEqual([]);
});

test('the made-up clips are the same again with the same seeds', () => {
  const first = demoClips()[0];
  if (!first) throw new Error('no clips');
  const sum = (): number => {
    let total = 0;
    let k = 0;
    for (const picture of picturesOf(first)) {
      for (let i = 0; i < picture.length; i += 97) total = (total * 31 + (picture[i] as number)) % 1_000_000_007;
      if (++k === 3) break;
    }
    return total;
  };
  expect(sum()).toBe(sum());
});

test.each([
  [1920, 1080, 274, 154],
  [1280, 720, 256, 144],
  [3840, 2160, 256, 144],
  [720, 576, 256, 204],
  [100, 40, 100, 40],
  [7, 4000, 16, 4000],
])('of %d x %d pixels %d x %d are measured', (width, height, wide, high) => {
  expect(checkSize(width, height)).toEqual({ width: wide, height: high });
});
