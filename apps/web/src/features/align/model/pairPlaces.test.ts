import { rate } from '@thawline/core/time';
import type { Source } from '@thawline/project';
import { framesApart, moment, moved, partner, partnerOfB, pictureOf, solved, stepTie, withTie } from './pairPlaces.js';

const source = (change: Partial<Source> = {}): Source =>
  ({
    kind: 'film',
    pictures: 1000,
    measured: { rate: rate(25), ppm: 0 },
    readAt: null,
    seconds: 40,
    sound: null,
    ...change,
  }) as Source;
const ties = [
  { a: 4_120_000, b: 2_885_000 },
  { a: 214_360_000, b: 213_176_000 },
];

test('two ties far apart give speed and offset, and how far it would part', () => {
  const { solution, leftMs } = solved(ties);
  if (!solution) throw new Error('unsolved');
  expect(solution.ratio).toEqual(rate(210_291, 210_240));
  expect(solution.driftPpm).toBeCloseTo(242.58, 1);
  expect(leftMs).toBeCloseTo(0, 6);
  expect(framesApart(solution, 600, 25)).toBeCloseTo(3.64, 2);
  expect(partner(solution, 4.12)).toBeCloseTo(2.885, 9);
  expect(partnerOfB(solution, 213.176)).toBeCloseTo(214.36, 9);
});

test('the picture at a moment is the one on screen, at its very start too', () => {
  expect(pictureOf(source(), undefined, 0.04)).toBe(1);
  expect(pictureOf(source(), undefined, 0.0399)).toBe(0);
  expect(pictureOf(source(), undefined, 99)).toBe(999);
  expect(pictureOf(source({ kind: 'sound' }), undefined, 3)).toBeNull();
  const timing = { kind: 'variable' as const, ticks: [0, 3000, 9000], end: 12000, timeBase: rate(90_000) };
  expect(pictureOf(source({ variable: true }), timing, 0.09)).toBe(1);
});

test('ties stay in order and inside their recordings', () => {
  expect(withTie(ties, 1, null)).toEqual([ties[0]]);
  expect(withTie(ties, -1, { a: 1, b: 1 })[0]).toEqual({ a: 1, b: 1 });
  expect(moved({ a: 10, b: 10 }, 'b', -1, source()).b).toBe(0);
  expect(moved({ a: 10, b: 39_999_999 }, 'b', 1, source()).b).toBe(40_000_000);
  expect([moment(4.12), moment(214.36)]).toEqual(['4.120', '3:34.360']);
});

test('ties are walked round about, from none to the first or the last', () => {
  expect([stepTie(3, null, 1), stepTie(3, null, -1)]).toEqual([0, 2]);
  expect([stepTie(3, 2, 1), stepTie(3, 0, -1), stepTie(3, 1, 1)]).toEqual([0, 2, 2]);
  expect(stepTie(0, null, 1)).toBeNull();
});
