import { constantTiming, rate } from '@thawline/core/time';
import { speedWords } from '@thawline/project';
import { cadence, source } from '../../../shared/player/cadence.fixture.js';
import { cleanestSlow, countStates, positionsOf, quickStretches, slowRuns, speedAt } from './frames.js';

test('frames are counted by what they are, those chosen by hand as they were chosen', () => {
  const instead = [
    { frame: 3, as: 'nearest' as const },
    { frame: 5, as: 'blend' as const },
  ];
  const chosen = cadence({ speed: rate(1, 8), length: 300, instead });
  expect(countStates(chosen)).toEqual({ real: 150, held: 1, blended: 1, made: 148 });
});

test('speed is that of the action, and what passes under a picture a frame is told as runs', () => {
  const pins = [
    { frame: 0, picture: 0, way: 'even' as const },
    { frame: 50, picture: 200, way: 'even' as const },
    { frame: 90, picture: 220, way: 'held' as const },
    { frame: 100, picture: 220, way: 'even' as const },
  ];
  const curved = cadence({ curve: pins, length: 140 });
  expect([10, 60, 95, 120].map((n) => speedAt(curved.mapping, source, n))).toEqual([1, 0.125, 0, 1]);
  expect(slowRuns(positionsOf(curved.mapping, 0, 140))).toEqual([{ from: 50, to: 90 }]);
  expect(
    speedAt(
      cadence({ curve: [pins[1], { ...pins[0], frame: 60, picture: 0 }] as never, length: 10, headTrim: 50 }).mapping,
      source,
      2,
    ),
  ).toBe(-5);
});

test('the cleanest slow follows from what a check found to be new, exactly', () => {
  expect(cleanestSlow(source, rate(25), 0)).toEqual(rate(1, 4));
  // Each of 200 pictures stored twice: shot at 50 in truth.
  expect(cleanestSlow(source, rate(25), 200)).toEqual(rate(1, 2));
  expect(cleanestSlow({ ...source, measured: { rate: rate(30000, 1001), ppm: 0 } }, rate(24000, 1001), 0)).toEqual(rate(4, 5));
  expect(constantTiming(rate(100), 400).kind).toBe('constant');
});

test('a pan is too quick where its clip runs fast, and calm where it is slowed', () => {
  // Across in two seconds of 100 pictures each.
  const shifts = Array.from({ length: 400 }, (_, k) => ({ x: k === 0 ? 0 : -1 / 200, y: 0 }));
  const real = quickStretches(cadence({}).mapping, shifts);
  expect(real).toHaveLength(1);
  expect(real[0]?.seconds).toBeCloseTo(2, 6);
  expect(quickStretches(cadence({ speed: rate(1, 4), length: 300 }).mapping, shifts)).toEqual([]);
  const pins = [
    { frame: 0, picture: 0, way: 'even' as const },
    { frame: 50, picture: 200, way: 'even' as const },
    { frame: 150, picture: 250, way: 'even' as const },
  ];
  const curved = quickStretches(cadence({ curve: pins, length: 150 }).mapping, shifts);
  expect(curved).toHaveLength(1);
  expect(Math.abs((curved[0]?.to ?? 0) - 50)).toBeLessThanOrEqual(4);
});

test('speeds are written as they are typed', () => {
  expect([0.25, 1, 0.125, -0.5].map((s) => speedWords(s))).toEqual(['25 %', '100 %', '12.5 %', '-50 %']);
  expect(speedWords(1 / 3, 3)).toBe('33.333 %');
});
