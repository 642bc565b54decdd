import { constantTiming, rate } from '../time/index.js';
import {
  checkRuns,
  type FieldRun,
  fieldTiming,
  frameOfPicture,
  groupLengths,
  oneWay,
  pictureOfFrame,
  planFields,
} from './reading.js';

const film = (from: number, to: number, passed = 0, beat: '2:3' | '2:12' | '2:2' = '2:3'): FieldRun => ({
  way: 'film',
  from,
  to,
  first: 'top',
  beat,
  passed,
});
const pictures = (runs: readonly FieldRun[]) => {
  const plan = planFields(runs);
  return Array.from({ length: plan.pictures }, (_, k) => plan.at(k));
};
const NTSC = rate(30000, 1001);

test('whole frames, one picture a field in the order of time, the first of each frame', () => {
  expect(pictures(oneWay('progressive', 2, 'top'))).toEqual([
    { top: 0, bottom: 0 },
    { top: 1, bottom: 1 },
  ]);
  expect(pictures(oneWay('one-a-field', 2, 'bottom'))).toEqual([
    { top: null, bottom: 0 },
    { top: 0, bottom: null },
    { top: null, bottom: 1 },
    { top: 1, bottom: null },
  ]);
  expect(pictures(oneWay('one-a-frame', 2, 'top'))).toEqual([
    { top: 0, bottom: null },
    { top: 1, bottom: null },
  ]);
});

test('film by 2:3 comes out whole: AA BB BC CD DD is four pictures, each from fields of one frame where it has both', () => {
  expect(pictures([film(0, 5)])).toEqual([
    { top: 0, bottom: 0 },
    { top: 1, bottom: 1 },
    // C has the second field of one frame and the first of the next.
    { top: 3, bottom: 2 },
    { top: 4, bottom: 4 },
  ]);
  const plan = planFields([film(0, 150)]);
  expect(plan).toMatchObject({ pictures: 120, rebuilt: 0, alone: { kept: 0, leftOut: 0 }, share: rate(4, 5) });
});

test('25 by 2:12 is 24, and 2:2 across frames puts fields of two frames together', () => {
  expect(planFields([film(0, 25, 0, '2:12')]).pictures).toBe(24);
  expect(groupLengths('2:12').reduce((sum, n) => sum + n, 0)).toBe(25);
  expect(pictures([film(0, 3, 1, '2:2')]).slice(1, 3)).toEqual([
    { top: 1, bottom: 0 },
    { top: 2, bottom: 1 },
  ]);
});

test.each([1, 2, 3, 4])(
  'wherever a beat begins (%d fields passed), a run has its share of pictures, and each field belongs to one',
  (passed) => {
    const plan = planFields([film(0, 50, passed)]);
    expect(Math.abs(plan.pictures - 40)).toBeLessThanOrEqual(1);
    for (let k = 1; k < plan.pictures; k++) expect(plan.firstField(k)).toBeGreaterThan(plan.firstField(k - 1));
  },
);

test('breaks neither lose nor double pictures: over many of them the count stays by the clock', () => {
  const runs: FieldRun[] = [];
  for (let from = 0, i = 0; from < 3000; from += 30 + (i % 7), i++)
    runs.push(film(from, Math.min(3000, from + 30 + (i % 7)), (i * 3) % 5));
  const plan = planFields(runs);
  expect(Math.abs(plan.pictures - 2400)).toBeLessThanOrEqual(3);
  const seen = new Set<string>();
  for (let k = 0; k < plan.pictures; k++) {
    const { top, bottom } = plan.at(k);
    expect(seen.has(`${top} ${bottom}`)).toBe(false);
    seen.add(`${top} ${bottom}`);
  }
});

test('timing is even where all has one rate; else each picture begins with its field, and film goes evenly through its run', () => {
  const stored = constantTiming(NTSC, 100);
  const timingOf = (runs: readonly FieldRun[]) => fieldTiming(runs, planFields(runs), stored);
  expect(timingOf(oneWay('one-a-field', 100, 'top'))).toEqual(constantTiming(rate(60000, 1001), 200));
  expect(timingOf([film(0, 50), film(50, 100, 2)])).toMatchObject({ kind: 'constant', rate: rate(24000, 1001) });
  const mixed = timingOf([film(0, 50), { way: 'one-a-field', from: 50, to: 100, first: 'top' }]);
  if (mixed.kind !== 'variable') throw new Error('these have two rates');
  const seconds = (tick: number): number => (tick * mixed.timeBase.den) / mixed.timeBase.num;
  expect(mixed.ticks).toHaveLength(140);
  expect(seconds(mixed.ticks[1] as number)).toBeCloseTo(1001 / 24000, 9);
  expect(seconds(mixed.ticks[40] as number)).toBeCloseTo((50 * 1001) / 30000, 9);
  expect(seconds(mixed.ticks[41] as number)).toBeCloseTo((50.5 * 1001) / 30000, 9);
  expect(seconds(mixed.end)).toBeCloseTo((100 * 1001) / 30000, 9);
});

test('frames with times of their own are halved between their fields', () => {
  const stored = { kind: 'variable' as const, ticks: [0, 10, 30], end: 40, timeBase: rate(100) };
  const runs = oneWay('one-a-field', 3, 'top');
  const made = fieldTiming(runs, planFields(runs), stored);
  if (made.kind !== 'variable') throw new Error('these come unevenly');
  const at = Array.from(made.ticks, (tick) => (tick * made.timeBase.den) / made.timeBase.num);
  expect(at).toEqual([0, 0.05, 0.1, 0.2, 0.3, 0.35].map((s) => expect.closeTo(s, 6)));
});

test('a frame is found again among pictures as read, and a picture among frames', () => {
  const plan = planFields([film(0, 50), { way: 'one-a-field', from: 50, to: 100, first: 'top' }]);
  for (let frame = 50; frame < 100; frame++) {
    const picture = pictureOfFrame(plan, frame);
    expect(frameOfPicture(plan, picture)).toBe(frame);
    expect(frameOfPicture(plan, picture + 1)).toBe(frame);
  }
  for (let frame = 0; frame < 50; frame++)
    expect(Math.abs(frameOfPicture(plan, pictureOfFrame(plan, frame)) - frame)).toBeLessThanOrEqual(1);
});

test.each([
  ['a gap', [film(0, 5), film(6, 9)]],
  ['no frames', [film(0, 0)]],
  ['a beat that is longer than it is', [film(0, 5, 5)]],
  ['none', []],
])('runs with %s are refused', (_, runs) => {
  expect(() => checkRuns(runs)).toThrow(RangeError);
});
