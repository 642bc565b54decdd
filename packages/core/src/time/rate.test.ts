import {
  formatRate,
  frameAtOrAfter,
  frameAtOrBefore,
  mulDivFloor,
  over,
  parseRate,
  rate,
  rateTrouble,
  STANDARD_RATES,
  snapRate,
  times,
} from './index.js';

describe('rates as people type them', () => {
  test.each([
    ['25', 25, 1],
    ['23.976', 24000, 1001],
    ['23,976', 24000, 1001],
    ['23.98', 24000, 1001],
    ['29.97', 30000, 1001],
    ['59.94', 60000, 1001],
    ['119.88', 120000, 1001],
    ['24000/1001', 24000, 1001],
    ['24fps', 24, 1],
    ['50/2', 25, 1],
    ['27.02', 1351, 50],
    ['12.5', 25, 2],
  ])('reads %s as %d/%d', (text, num, den) => {
    expect(parseRate(text)).toEqual({ num, den });
  });

  test.each(['', '0', '-25', 'NaN', '1000001/1', '25/0', 'fast', '1e3', '0.001', '24/', '../25'])('refuses %p', (text) => {
    expect(parseRate(text)).toBeNull();
  });

  test('printing and reading a standard rate gives it back', () => {
    for (const r of STANDARD_RATES) expect(parseRate(formatRate(r))).toEqual(r);
  });
});

describe('snapping', () => {
  test('takes 29.9702 for 29.97 and says what is left', () => {
    const snapped = snapRate(29.9702);
    expect(snapped?.rate).toEqual(rate(30000, 1001));
    expect(snapped?.ppm).toBeCloseTo(5.67, 1);
  });

  test('leaves 27.02 and a clock 240 ppm slow alone', () => {
    expect(snapRate(27.02)).toBeNull();
    expect(snapRate((30000 / 1001) * (1 - 240e-6))).toBeNull();
  });

  test('never confuses 24 with 23.976', () => {
    expect(snapRate(24)?.rate).toEqual(rate(24));
    expect(snapRate(24000 / 1001)?.rate).toEqual(rate(24000, 1001));
  });
});

describe('frames between rates', () => {
  test('agrees with BigInt for every pair of standard rates over long counts', () => {
    for (const from of STANDARD_RATES) {
      for (const to of STANDARD_RATES) {
        for (const n of [0, 1, 2, 999, 1001, 107_892, 2_589_408, -1, -17]) {
          const top = BigInt(n) * BigInt(from.den) * BigInt(to.num);
          const bottom = BigInt(from.num) * BigInt(to.den);
          let expected = top / bottom;
          if (top < 0n && top % bottom !== 0n) expected -= 1n;
          expect(frameAtOrBefore(n, from, to)).toBe(Number(expected));
        }
      }
    }
  });

  test('at or after is the first frame that does not begin before', () => {
    const a = rate(30000, 1001);
    const b = rate(25);
    for (let n = 0; n < 500; n++) {
      const m = frameAtOrAfter(n, a, b);
      expect(frameAtOrBefore(m, b, a)).toBeGreaterThanOrEqual(n);
      if (m > 0) expect(m - 1).toBeLessThan((n * 1001 * 25) / 30000);
    }
  });

  test('goes on exactly past what doubles hold', () => {
    expect(mulDivFloor(9_007_199_254_740_881, 120_000, 120_001)).toBe(Number((9_007_199_254_740_881n * 120_000n) / 120_001n));
  });
});

describe('speeds', () => {
  test('25 read at 24 and sped up by 25/24 is 25 again, in lowest terms', () => {
    expect(over(rate(24), rate(25))).toEqual(rate(24, 25));
    expect(times(over(rate(24), rate(25)), over(rate(25), rate(24)))).toEqual(rate(1));
    expect(over(rate(25), rate(30000, 1001))).toEqual(rate(1001, 1200));
  });

  test('fractions too large to count with become the nearest that are not', () => {
    const long = rate(24_321_987_654_321, 879_123_456_789);
    const speed = over(long, rate(30000, 1001));
    expect(Math.max(speed.num, speed.den)).toBeLessThanOrEqual(2 ** 40);
    expect(speed.num / speed.den / (long.num / long.den / (30000 / 1001)) - 1).toBeLessThan(1e-12);
  });
});

test('why something typed is no rate', () => {
  expect(['', '0', '-25', 'NaN', '1000001/1', '0.001', '25'].map(rateTrouble)).toEqual([
    'empty',
    'zero',
    'negative',
    'not-a-number',
    'too-high',
    'too-low',
    null,
  ]);
});

test('what is written behind a rate: frames, dropped numbers, fields', () => {
  expect(['29.97df', '29.97 ndf', '25p', '24psf'].map(parseRate)).toEqual([
    rate(30000, 1001),
    rate(30000, 1001),
    rate(25),
    rate(24),
  ]);
  expect(['59.94i', '50i', '60i', '25i', '29.97i'].map(parseRate)).toEqual([
    rate(30000, 1001),
    rate(25),
    rate(30),
    rate(25),
    rate(30000, 1001),
  ]);
  expect(rateTrouble('59.94x')).toBe('not-a-number');
});
