import { rate } from '../time/index.js';
import {
  bounded,
  type ExactSeconds,
  exactSecondsOf,
  frameBefore,
  frameNear,
  framesAt,
  minus,
  plus,
  rateFromNumber,
  sameExactSeconds,
  scaled,
  secondsIn,
  speedFromNumber,
} from './exactSeconds.js';

const NTSC = rate(30000, 1001);

test('adding lengths and taking them away again leaves nothing', () => {
  const lengths = [exactSecondsOf(7, NTSC), exactSecondsOf(11, rate(25)), exactSecondsOf(1001, rate(48000))];
  const all = lengths.reduce((sum, one) => plus(sum, one));
  expect(secondsIn(all)).toBeCloseTo(7 / 29.97003 + 0.44 + 1001 / 48000, 6);
  expect(sameExactSeconds(lengths.reduceRight(minus, all), exactSecondsOf(0, NTSC))).toBe(true);
  expect(exactSecondsOf(10, rate(25))).toEqual({ n: 2n, d: 5n });
});

test('frames with a fraction count to a millionth', () => {
  expect(exactSecondsOf(1.5, rate(25))).toEqual({ n: 3n, d: 50n });
  expect(framesAt({ n: 3n, d: 50n }, rate(25))).toBe(1.5);
  expect(framesAt(exactSecondsOf(12, NTSC), NTSC)).toBe(12);
});

test.each([
  [0n, 0, 0],
  [3n, 1, 2],
  [5n, 2, 3],
  [-1n, -1, 0],
  [-2n, -1, -1],
  [-3n, -2, -1],
])('%s half frames: the frame on screen is %s, the nearest %s', (halves, before, near) => {
  const moment = { n: halves, d: 50n };
  expect([frameBefore(moment, rate(25)), frameNear(moment, rate(25))]).toEqual([before, near]);
});

test('at twice the speed a moment comes twice as late in what is played', () => {
  expect(scaled({ n: 3n, d: 4n }, rate(2))).toEqual({ n: 3n, d: 2n });
});

describe('moments whose denominators have grown', () => {
  const fine = 3n * 10n ** 15n + 1n;
  const off = (m: ExactSeconds): number => {
    const b = bounded(m);
    const top = b.n * m.d - m.n * b.d;
    return Number(((top < 0n ? -top : top) * 10n ** 15n) / (b.d * m.d));
  };

  test.each([10n ** 16n, 7n * 10n ** 15n + 3n, 1n, -1n, -(10n ** 16n), -(7n * 10n ** 15n + 3n)])(
    '%s of them come to the nearest millionth of a millionth',
    (n) => {
      expect(bounded({ n, d: fine }).d).toBeLessThanOrEqual(10n ** 12n);
      expect(off({ n, d: fine })).toBeLessThanOrEqual(500);
    },
  );

  test('others stay as they are', () => {
    const moment = { n: -1001n, d: 30000n };
    expect(bounded(moment)).toBe(moment);
  });
});

describe('decimals', () => {
  test.each([
    [23.976, rate(24000, 1001)],
    [59.94, rate(60000, 1001)],
    [25, rate(25)],
    [12.5, rate(25, 2)],
  ])('%s is the rate that is meant', (value, meant) => {
    expect(rateFromNumber(value)).toEqual(meant);
  });

  test.each([Number.NaN, Number.POSITIVE_INFINITY, 0, -25, 1e7, '25', null])('%s is no rate', (value) => {
    expect(rateFromNumber(value)).toBeNull();
  });

  test('a factor is the simplest fraction near it', () => {
    expect(speedFromNumber(30000 / 1001 / 25)).toEqual(rate(1200, 1001));
    expect(speedFromNumber(0.75)).toEqual(rate(3, 4));
    expect(speedFromNumber(1e-7)).toBeNull();
  });
});
