import { rate } from '../time/index.js';
import { byWayOf, furthestApart, Outliner, solveTies, spread, tieFault } from './index.js';

/** Ties at these seconds of a, as b = offset + ratio a has them, to the microsecond; `off` moves single ones, in microseconds. */
const tiesAt = (seconds: number[], offset: number, ratio: number, off: Record<number, number> = {}) =>
  seconds.map((s, i) => ({ a: Math.round(s * 1e6), b: Math.round((offset + ratio * s) * 1e6) + (off[i] ?? 0) }));

test('A 4.120 and 214.360 s, B 2.885 and 213.176 s: B runs 210.291/210.240, +243 ppm', () => {
  const solution = solveTies([
    { a: 4_120_000, b: 2_885_000 },
    { a: 214_360_000, b: 213_176_000 },
  ]);
  expect(solution).toMatchObject({ ratio: rate(210_291, 210_240), drifts: true, outliers: [] });
  expect(solution?.driftPpm).toBeCloseTo(242.58, 2);
  expect(solution?.offsetSeconds).toBeCloseTo(2.885 - (4.12 * 210_291) / 210_240, 9);
  expect((solution?.driftPpm ?? 0) * 600e-6 * 1000).toBeCloseTo(145.5, 0);
});

test('one tie gives the offset; ties that lie close tell no drift', () => {
  expect(solveTies([])).toBeNull();
  expect(solveTies([{ a: 2_000_000, b: 5_000_000 }])).toMatchObject({ offsetSeconds: 3, ratio: rate(1), drifts: false });
  expect(solveTies(tiesAt([2, 3, 4], 3, 1.001))).toMatchObject({ ratio: rate(1), drifts: false });
});

test('small fractions come out as they are, from many ties over an hour', () => {
  const solution = solveTies(tiesAt([0, 600, 1400, 2500, 3600], -12.5, 1.001));
  expect(solution?.ratio).toEqual(rate(1001, 1000));
  expect(spread(solution as NonNullable<typeof solution>)).toBeLessThan(1e-6);
});

test('least squares leave over what is left over, and name the one that fits none', () => {
  const solution = solveTies(tiesAt([10, 110, 210, 310, 410, 510], 4, 1.0003, { 2: 40_000 }));
  expect(solution?.outliers).toEqual([2]);
  expect(solution?.leftOver[2]).toBeCloseTo(0.04, 4);
  expect(solution?.driftPpm).toBeCloseTo(300, 2);
  const even = solveTies(tiesAt([0, 100, 200], 0, 1, { 1: 600 }));
  expect(even?.leftOver.map((s) => Math.round(s * 1e6))).toEqual([-200, 400, -200]);
  expect(even?.outliers).toEqual([]);
});

test('among ties that are a little off each, one that is six times as far off is still named', () => {
  const off = { 0: 300, 1: -400, 2: 500, 3: -300, 4: 6000, 5: 400, 6: -500, 7: 300, 8: -400, 9: 300 };
  const ties = tiesAt([10, 110, 210, 310, 410, 510, 610, 710, 810, 910], 4, 1, off);
  expect(solveTies(ties)?.outliers).toEqual([4]);
});

test('ties on one moment and ties that cross have a name', () => {
  expect(tieFault(tiesAt([1, 5], 2, 1))).toBeNull();
  expect(tieFault([...tiesAt([1, 5], 2, 1), { a: 1_000_500, b: 9_000_000 }])).toBe('tie-twice');
  expect(tieFault(tiesAt([1, 5], 2, 1, { 1: -4_500_000 }))).toBe('ties-cross');
});

test('strikes are found where they begin, and swells are none', () => {
  const samples = Float32Array.from({ length: 8000 * 6 }, (_, n) => {
    const noise = 0.01 * Math.sin(n * 1.7 + Math.sin(n * 0.37) * 9);
    const swell = 0.3 * Math.sin((Math.PI * n) / 16_000) ** 2 * Math.sin(n * 0.5);
    const strike = [12_000, 33_333].some((at) => n >= at && n < at + 400) ? 0.8 * Math.sin(n * 2.1) : 0;
    return noise + (n < 16_000 ? 0 : swell) + strike;
  });
  const outliner = new Outliner();
  outliner.push(samples);
  const { strikes, silent } = outliner.finish();
  expect(silent).toBe(false);
  expect(strikes.map((s) => Math.round(s.seconds * 500) / 500)).toEqual([1.5, 4.166]);
  const quiet = new Outliner();
  quiet.push(new Float32Array(16_000));
  expect(quiet.finish().silent).toBe(true);
});

test('by way of a third recording two relations come to one, and differ as much as they contradict each other', () => {
  const [ab, bc] = [
    { offset: -1.236, ratio: 1.000243 },
    { offset: 61, ratio: 0.9995 },
  ];
  const ac = byWayOf(ab, bc);
  for (const a of [0, 100, 3600]) expect(ac.offset + ac.ratio * a).toBeCloseTo(61 + 0.9995 * (-1.236 + 1.000243 * a), 9);
  expect(furthestApart(ac, byWayOf(ab, bc), 0, 3600)).toBe(0);
  // A millisecond at the start, and a millionth more on the way.
  expect(furthestApart(ac, { offset: ac.offset + 0.001, ratio: ac.ratio + 1e-6 }, 0, 3600)).toBeCloseTo(0.0046, 6);
});

test('five seconds between two ties are enough for a drift, and a microsecond less is not', () => {
  const at = (a: number) => [
    { a: 0, b: 0 },
    { a, b: a + 100 },
  ];
  expect(solveTies(at(5_000_000))).toMatchObject({ drifts: true });
  expect(solveTies(at(4_999_999))).toMatchObject({ drifts: false, ratio: rate(1) });
});
