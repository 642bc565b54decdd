import {
  averageRate,
  constantTiming,
  evenTiming,
  measureTiming,
  movedByEven,
  newOnlyTiming,
  pictureAfter,
  pictureAt,
  pictureFor,
  rate,
  rebuiltTiming,
  spedUp,
  type Timing,
  timingLength,
  timingSeconds,
  usualRate,
} from './index.js';

const grid = (count: number, perPicture: number, round: (n: number) => number = Math.round): number[] =>
  Array.from({ length: count }, (_, k) => round(k * perPicture));

test('finds 23.976 in a time base of whole milliseconds', () => {
  const measured = measureTiming(grid(500, (1000 * 1001) / 24000), rate(1000), null, null);
  expect(measured?.rate).toEqual(rate(24000, 1001));
  expect(measured?.variable).toBe(false);
});

test('prefers what the file says where the ticks are too coarse to tell', () => {
  const ticks = grid(16, 1000 / 24);
  expect(measureTiming(ticks, rate(1000), null, rate(24))?.rate).toEqual(rate(24));
  expect(measureTiming(grid(16, (1000 * 1001) / 24000), rate(1000), null, rate(24000, 1001))?.rate).toEqual(rate(24000, 1001));
});

test('believes the timestamps, not the label', () => {
  expect(measureTiming(grid(200, 3600), rate(90000), 3600, rate(30))?.rate).toEqual(rate(25));
});

test('keeps a clock that runs 240 ppm slow as it is', () => {
  const perPicture = (90000 * 1001 * 1.00024) / 30000;
  const measured = measureTiming(grid(6000, perPicture), rate(90000), null, rate(30000, 1001));
  expect(measured?.variable).toBe(false);
  expect((measured?.rate.num ?? 0) / (measured?.rate.den ?? 1)).toBeCloseTo(29.9628, 3);
});

test('says when timing is variable, and gives the exact average with the last length', () => {
  const ticks = [0, 3000, 6000, 12000, 15000, 18000];
  const measured = measureTiming(ticks, rate(90000), 3000, rate(30));
  expect(measured).toMatchObject({ variable: true, lengthTicks: 21000, rate: rate(6 * 90000, 21000) });
});

test('gives a still no rate', () => {
  expect(measureTiming([0], rate(25), null, rate(25))).toBeNull();
});

test('shows the picture whose time has come, by its own timestamp', () => {
  const timing: Timing = { kind: 'variable', ticks: [0, 40, 90, 200], end: 240, timeBase: rate(1000) };
  expect([0, 1, 2, 3, 4, 5, 6].map((n) => pictureAt(timing, n, rate(25)))).toEqual([0, 1, 1, 2, 2, 3, 3]);
  expect(timingLength(timing, rate(25))).toBe(6);
  expect(timingLength(constantTiming(rate(30), 1), rate(10))).toBe(1);
});

test('sees one missing picture where a tick is a whole picture', () => {
  const measured = measureTiming([0, 2, 3, 4, 5, 6, 7, 8], rate(25), 1, rate(25));
  expect(measured?.variable).toBe(true);
});

test('a still lasts as long as it is asked to and has no rate', () => {
  const still: Timing = { kind: 'still' };
  expect(averageRate(still)).toBeNull();
  expect(timingSeconds(still)).toBeNull();
  expect([0, 7, 1e6].map((n) => pictureAt(still, n, rate(25)))).toEqual([0, 0, 0]);
});

test('made even, each picture stands on the frame nearest to its moment; gaps hold, crowds skip', () => {
  const timing: Timing = { kind: 'variable', ticks: [0, 41, 78, 200, 210], end: 250, timeBase: rate(1000) };
  const even = evenTiming(timing, rate(25));
  if (even.kind !== 'variable') throw new Error('not variable');
  expect([...(even.ticks as Int32Array)]).toEqual([0, 1, 2, 5, 5]);
  expect([0, 1, 2, 3, 4, 5, 6].map((n) => pictureAt(even, n, rate(25)))).toEqual([0, 1, 2, 2, 2, 4, 4]);
  expect(even.end).toBe(6);
  expect(evenTiming(constantTiming(rate(30), 9), rate(25))).toEqual(constantTiming(rate(30), 9));
});

test('made even at its own grid, an even clip with rounded timestamps stays whole', () => {
  const ticks = Array.from({ length: 300 }, (_, k) => Math.round((k * 1001000) / 30000));
  const even = evenTiming({ kind: 'variable', ticks, end: 10010, timeBase: rate(1000) }, rate(30000, 1001));
  expect(even.kind === 'variable' && [...(even.ticks as Int32Array)]).toEqual(ticks.map((_, k) => k));
  expect(even.kind === 'variable' && even.end).toBe(300);
});

test('sped up, every length is divided exactly', () => {
  expect(spedUp(constantTiming(rate(24), 48), rate(25, 24))).toEqual(constantTiming(rate(25), 48));
  const variable: Timing = { kind: 'variable', ticks: [0, 40], end: 80, timeBase: rate(1000) };
  expect(timingSeconds(spedUp(variable, rate(1, 2)))).toBeCloseTo(0.16, 9);
});

describe('new pictures only', () => {
  const every3 = [1, 2, 4, 5, 7, 8, 10, 11];
  const timing = newOnlyTiming(12, every3, rate(25, 3));

  test('shows each new picture once and never one that holds, the length of the whole stays', () => {
    expect(timingLength(timing, rate(25, 3))).toBe(4);
    expect(Array.from({ length: 4 }, (_, n) => pictureAt(timing, n, rate(25, 3)))).toEqual([0, 3, 6, 9]);
    expect(timingSeconds(timing)).toBeCloseTo(12 / 25, 9);
    const shown = Array.from({ length: 12 }, (_, n) => pictureAt(timing, n, rate(25)));
    expect(shown).toEqual([0, 0, 0, 3, 3, 3, 6, 6, 6, 9, 9, 9]);
  });

  test('after a new picture comes the next new one', () => {
    expect(Array.from({ length: 12 }, (_, k) => pictureAfter(timing, k))).toEqual([3, 3, 3, 6, 6, 6, 9, 9, 9, 11, 11, 11]);
  });

  test('rebuilt, new pictures stay at their moments, and those that hold have none; the last holds stay', () => {
    const rebuilt = rebuiltTiming({ kind: 'constant', rate: rate(25), pictures: 12 }, [2, 3, 6, 11]);
    expect(timingSeconds(rebuilt)).toBeCloseTo(12 / 25, 9);
    expect(Array.from({ length: 12 }, (_, n) => pictureAt(rebuilt, n, rate(25)))).toEqual([0, 1, 1, 1, 4, 5, 5, 7, 8, 9, 10, 11]);
    expect([1, 5, 10].map((k) => pictureAfter(rebuilt, k))).toEqual([4, 7, 11]);
    expect(Array.from({ length: 12 }, (_, k) => pictureFor(rebuilt, k))).toEqual([0, 1, 1, 1, 4, 5, 5, 7, 8, 9, 10, 11]);
    const own = rebuiltTiming({ kind: 'variable', ticks: [0, 40, 81, 119, 160], end: 200, timeBase: rate(1000) }, [1, 3]);
    expect(own).toMatchObject({ ticks: Int32Array.of(0, 81, 81, 160, 160), end: 200 });
  });

  test('moments between two pictures are not lost, however long the clip', () => {
    for (const pictures of [3, 400_000, 2_000_000]) {
      const long = newOnlyTiming(pictures, [1], rate(50));
      expect(long.kind === 'variable' && long.ticks[2]).toBeGreaterThan(pictures > 1e6 ? 511 : 1023);
      expect(long.kind === 'variable' && long.end > 0).toBe(true);
    }
  });

  test('with none held it is the even timing', () => {
    const all = newOnlyTiming(10, [], rate(25));
    expect(Array.from({ length: 10 }, (_, n) => pictureAt(all, n, rate(25)))).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  });
});

describe('variable timing made even', () => {
  /** Stored 30, in milliseconds, every ninth picture left out. */
  const ticks = Array.from({ length: 300 }, (_, k) => Math.round((k * 1000) / 30)).filter((_, k) => k % 9 !== 5);
  const dropped = { kind: 'variable', ticks: Int32Array.from(ticks), end: 10_000, timeBase: rate(1000) } as const;

  test('the rate that most pictures follow is proposed: dropouts are no lower rate', () => {
    expect(usualRate(dropped)).toEqual(rate(30));
    expect(usualRate({ kind: 'constant', rate: rate(25), pictures: 10 })).toBeNull();
    expect(usualRate({ ...dropped, ticks: Int32Array.from(ticks, (t) => t * 3) })).toBeNull();
  });

  test('bursts and waits on either side do not move the usual gap', () => {
    let at = 0;
    const bursts = Array.from({ length: 200 }, (_, k) => {
      at += k === 0 ? 0 : k % 5 === 0 ? 20 : k % 5 === 1 ? 100 : 40;
      return at;
    });
    expect(usualRate({ ...dropped, ticks: Int32Array.from(bursts), end: at + 40 })).toEqual(rate(25));
  });

  test('each picture that moves is named, and by how much', () => {
    const late = { ...dropped, ticks: Int32Array.from(ticks, (t, k) => (k === 40 ? t + 12 : t)) };
    const moved = movedByEven(late, rate(30));
    expect(moved[0]).toMatchObject({ picture: 40 });
    expect(moved[0]?.ms).toBeCloseTo(-12, 0);
    // Rounding to milliseconds alone moves the others.
    expect(Math.abs(moved[1]?.ms ?? 0)).toBeLessThan(0.6);
  });
});
