import { constantTiming, type Rate, rate } from '../time/index.js';
import { cadenceFacts, earliestHead, type Fit, longestRun, type Mapping, positionAt, SHARES, stepMap } from './index.js';
import { snappedPosition } from './stepmap.js';

const NTSC = rate(30000, 1001);

function mapping(source: Rate, timeline: Rate, length: number, fit: Fit = 'nearest', inPicture = 0, headTrim = 0): Mapping {
  return { timing: constantTiming(source, 1_000_000), timeline, fit, inPicture, headTrim, length };
}

describe('worked examples', () => {
  test('50 in 24: eleven steps of 2 and one of 3, a hitch 2 times a second', () => {
    const map = stepMap(mapping(rate(50), rate(24), 240));
    expect([...map.pictures.slice(0, 13)]).toEqual([0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 25]);
    expect(map.usualStep).toBe(2);
    expect(cadenceFacts(mapping(rate(50), rate(24), 240), map).hitchesPerSecond).toBeCloseTo(2, 0);
  });

  test('29.97 in 25: 1 1 1 1 1 2, 4.97 hitches a second', () => {
    const m = mapping(NTSC, rate(25), 25_000);
    const map = stepMap(m);
    expect([...map.steps.slice(1, 8)]).toEqual([1, 1, 1, 1, 1, 2, 1]);
    expect(cadenceFacts(m, map).hitchesPerSecond).toBeCloseTo(4.97, 2);
  });

  test('24 in 25: one hold a second; 25 in 23.976: 1.024 skips a second; 48 in 24: none', () => {
    const hold = mapping(rate(24), rate(25), 2500);
    expect(cadenceFacts(hold, stepMap(hold))).toMatchObject({ hitches: 100 - 1 + 1, held: 100, skipped: 0 });
    const jolt = mapping(rate(25), rate(24000, 1001), 24_000);
    expect(cadenceFacts(jolt, stepMap(jolt)).hitchesPerSecond).toBeCloseTo(1.024, 2);
    const even = mapping(rate(48), rate(24), 240);
    expect(cadenceFacts(even, stepMap(even))).toMatchObject({ hitches: 0, unevennessMs: 0 });
  });

  test('keep pictures of 29.97 in 25 runs 83.4 % and 3.14 semitones lower', () => {
    const m = mapping(NTSC, rate(25), 100, 'pictures');
    const facts = cadenceFacts(m, stepMap(m));
    expect(facts.speed).toBeCloseTo(0.834, 3);
    expect(facts.semitones).toBeCloseTo(-3.14, 2);
    expect(facts.hitches).toBe(0);
  });
});

describe('laws', () => {
  const pairs: [Rate, Rate][] = [
    [rate(50), rate(24)],
    [NTSC, rate(25)],
    [rate(24), rate(25)],
    [rate(24000, 1001), rate(60000, 1001)],
    [rate(25), rate(50)],
  ];

  test.each(pairs)('the steps sum to the range (%p in %p)', (source, timeline) => {
    const map = stepMap(mapping(source, timeline, 777));
    const sum = map.steps.reduce((a, b) => a + b, 0);
    expect(sum).toBe((map.pictures[776] as number) - (map.pictures[0] as number));
  });

  test.each(pairs)('trimming the head never shifts which picture a frame shows (%p in %p)', (source, timeline) => {
    const whole = stepMap(mapping(source, timeline, 300, 'nearest', 50));
    const trimmed = stepMap(mapping(source, timeline, 280, 'nearest', 50, 20));
    expect([...trimmed.pictures]).toEqual([...whole.pictures.slice(20)]);
  });

  test('a blend lies between its neighbours and is nearest where positions are whole', () => {
    expect(positionAt(mapping(rate(30), rate(20), 10, 'blend'), 1)).toEqual({ picture: 1, nextShare: SHARES / 2 });
    const even = stepMap(mapping(rate(50), rate(25), 50, 'blend'));
    expect([...even.nextShare].every((share) => share === 0)).toBe(true);
  });
});

describe('hitches where pictures are held by design', () => {
  test('25 in 50 is even: each picture twice', () => {
    const m = mapping(rate(25), rate(50), 500);
    expect(cadenceFacts(m, stepMap(m)).hitches).toBe(0);
  });

  test('24 in 60 limps: 2 and 3 in turn', () => {
    const m = mapping(rate(24), rate(60), 600);
    expect(cadenceFacts(m, stepMap(m)).hitchesPerSecond).toBeCloseTo(12, 0);
  });

  test('a freeze of the whole run has none', () => {
    const timing = constantTiming(rate(25), 1);
    expect(stepMap({ timing, timeline: rate(25), fit: 'nearest', inPicture: 0, headTrim: 0, length: 10 }).hitches).toHaveLength(
      0,
    );
  });
});

test('variable timing shows each picture by its own timestamp, from the in picture on', () => {
  const timing = { kind: 'variable' as const, ticks: [0, 40, 80, 200, 240], end: 280, timeBase: rate(1000) };
  const base = { timing, timeline: rate(25), fit: 'nearest' as const, headTrim: 0 };
  expect([...stepMap({ ...base, inPicture: 0, length: 7 }).pictures]).toEqual([0, 1, 2, 2, 2, 3, 4]);
  expect([...stepMap({ ...base, inPicture: 3, length: 2 }).pictures]).toEqual([3, 4]);
  expect(longestRun({ ...base, inPicture: 0 })).toBe(7);
  expect(longestRun({ ...base, inPicture: 0, fit: 'pictures' })).toBe(5);
});

test('a run ends with the source and a head comes out no further than its first picture', () => {
  const timing = constantTiming(rate(50), 100);
  const base = { timing, timeline: rate(25), fit: 'nearest' as const, inPicture: 20 };
  expect(longestRun({ ...base, headTrim: 0 })).toBe(40);
  expect(earliestHead(base)).toBe(-10);
  expect(positionAt({ ...base, headTrim: -10, length: 50 }, 0).picture).toBe(0);
  expect(longestRun({ ...base, headTrim: -10 })).toBe(50);
});

describe('the whole map and single frames', () => {
  const jittered = Int32Array.from({ length: 400 }, (_, k) => k * 33 + ((k * 7919) % 13) - (k === 0 ? 0 : 6)).sort();
  const timings = [
    constantTiming(NTSC, 300),
    constantTiming(rate(8_333_333, 1_000_003), 90),
    { kind: 'variable', ticks: jittered, end: 400 * 33, timeBase: rate(1000) } as const,
    { kind: 'still' } as const,
  ];
  const cases = timings.flatMap((timing) =>
    (['nearest', 'blend', 'motion', 'pictures', 'freeze'] as const).flatMap((fit) =>
      [-31, 0, 17].map((headTrim) => ({ timing, fit, headTrim, timeline: rate(60000, 1001), inPicture: 40, length: 900 })),
    ),
  );

  test.each(cases)('agree for $timing.kind, $fit, head $headTrim', (m) => {
    const map = stepMap(m);
    const single = Array.from({ length: m.length }, (_, n) => positionAt(m, n));
    expect([...map.pictures]).toEqual(single.map((p) => p.picture));
    expect([...map.nextShare]).toEqual(single.map((p) => p.nextShare));
  });

  test('a freeze shows its in picture, has no hitch and any length', () => {
    const m = mapping(rate(25), rate(24), 50, 'freeze', 12, -3);
    expect(new Set(stepMap(m).pictures)).toEqual(new Set([12]));
    expect(stepMap(m).hitches).toHaveLength(0);
    expect(longestRun(m)).toBeGreaterThan(1_000_000);
  });
});

test('a moment within a 256th of a picture is that picture, and one exactly as far is a mix', () => {
  const at = (nextShare: number) => snappedPosition({ picture: 7, nextShare });
  expect([at(255), at(256)]).toEqual([
    { picture: 7, nextShare: 0 },
    { picture: 7, nextShare: 256 },
  ]);
  expect([at(SHARES - 256), at(SHARES - 255)]).toEqual([
    { picture: 7, nextShare: SHARES - 256 },
    { picture: 8, nextShare: 0 },
  ]);
  expect(snappedPosition({ picture: 7, nextShare: SHARES - 1, next: 12 })).toEqual({ picture: 12, nextShare: 0 });
});
