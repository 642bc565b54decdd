import { constantTiming, rate, type Timing } from '../time/index.js';
import { type Mapping, SHARES } from './index.js';
import { exposures } from './shutter.js';

const of = (from: number, to: number, pictures = 400): Mapping => ({
  timing: constantTiming(rate(from), pictures),
  timeline: rate(to),
  fit: 'blend',
  inPicture: 0,
  headTrim: 0,
  length: 100,
});

const moving = (from: number, to: number, pictures?: number): Mapping => ({ ...of(from, to, pictures), fit: 'motion' });

test('180 degrees of a frame of 25 are two pictures of 100, 360 are four', () => {
  expect(exposures(of(100, 25), 3, 180)).toEqual([
    { picture: 12, nextShare: 0, weight: 0.5 },
    { picture: 13, nextShare: 0, weight: 0.5 },
  ]);
  expect(exposures(of(100, 25), 3, 360).map((e) => [e.picture, e.weight])).toEqual([
    [12, 0.25],
    [13, 0.25],
    [14, 0.25],
    [15, 0.25],
  ]);
});

test('fractions are weighted', () => {
  // 60 in 24: a frame is 2.5 pictures long; the second one opens in the middle of picture 2.
  const seen = exposures(of(60, 24), 1, 360);
  expect(seen.map((e) => e.picture)).toEqual([2, 3, 4]);
  expect(seen.map((e) => e.weight)).toEqual([expect.closeTo(0.2, 4), expect.closeTo(0.4, 4), expect.closeTo(0.4, 4)]);
});

test.each([
  [100, 25, 77],
  [25, 25, 180],
  [24, 60, 360],
  [600, 24, 211],
])('of %d in %d at %d degrees, weights sum up to 1 and positions rise from frame to frame', (from, to, degrees) => {
  for (const fit of ['blend', 'motion'] as const) {
    let last = -1;
    for (let n = 0; n < 60; n++) {
      const seen = exposures({ ...of(from, to), fit }, n, degrees);
      expect(seen.reduce((sum, e) => sum + e.weight, 0)).toBeCloseTo(1, 9);
      for (const e of seen) {
        const at = e.picture + e.nextShare / SHARES;
        expect(at).toBeGreaterThanOrEqual(last);
        last = at;
      }
    }
  }
});

test('with too few pictures, moments between them are asked for, evenly in the shutter', () => {
  const seen = exposures(moving(25, 25), 4, 180);
  expect(seen).toHaveLength(8);
  expect(seen.map((e) => e.picture + e.nextShare / SHARES)).toEqual(seen.map((_, i) => expect.closeTo(4 + (i + 0.5) / 16, 3)));
  // Ten real ones are enough.
  expect(exposures(moving(500, 25), 0, 180).every((e) => e.nextShare === 0)).toBe(true);
});

test('past the end the last picture stays', () => {
  expect(exposures(of(100, 25, 10), 3, 360)).toEqual([{ picture: 9, nextShare: 0, weight: 1 }]);
});

test('a picture that is hardly seen is not seen: where rates almost match, each frame stays its own', () => {
  const almost: Mapping = { ...of(24, 24), timing: constantTiming(rate(24000, 1001), 400) };
  expect(exposures(almost, 3, 360)).toEqual([{ picture: 3, nextShare: 0, weight: 1 }]);
});

test('variable timing is exposed by its own timestamps', () => {
  const timing: Timing = { kind: 'variable', ticks: Int32Array.of(0, 10, 40, 50), end: 60, timeBase: rate(100) };
  const seen = exposures({ ...of(1, 1), timing, timeline: rate(2) }, 0, 360);
  // The first half second: 0.1 s of picture 0, 0.3 s of picture 1, 0.1 s of picture 2.
  expect(seen.map((e) => [e.picture, e.weight])).toEqual([
    [0, expect.closeTo(0.2, 4)],
    [1, expect.closeTo(0.6, 4)],
    [2, expect.closeTo(0.2, 4)],
  ]);
});

test('past the last picture, where nothing moves on, it sees that one alone', () => {
  expect(exposures(moving(25, 25, 5), 9, 180)).toEqual([{ picture: 4, nextShare: 0, weight: 1 }]);
});
