import type { FieldRun } from '@thawline/core/fields';
import type { FieldFinding, FieldStretch } from '@thawline/core/truth';
import { fieldOrderOf, fieldWayWords, outcomeOf, runsFor } from './fieldChoices.js';
import { fieldKindWords, fieldStretchWords } from './partWords.js';

const stretch = (from: number, to: number, kind: FieldStretch['kind'], first: 'top' | 'bottom' | null = 'top'): FieldStretch => ({
  from,
  to,
  kind,
  first: kind === 'none' ? null : first,
  flag: 'right',
  certainty: 0.99,
});
const beat = (from: number, to: number, passed = 0): Extract<FieldRun, { way: 'film' }> => ({
  way: 'film',
  from,
  to,
  first: 'top',
  beat: '2:3',
  passed,
});
const finding = (stretches: FieldStretch[], film: FieldFinding['film'] = []): FieldFinding => ({
  kind: 'mixed',
  first: 'top',
  flag: 'wrong',
  certainty: 0.99,
  stretches,
  breaks: [],
  film,
});
const reel = {
  frames: 900,
  flag: 'bottom' as const,
  finding: finding([stretch(0, 360, 'pulldown'), stretch(360, 900, 'interlaced')], [beat(0, 125), beat(125, 360, 3)]),
};

test('each stretch as it was measured', () => {
  const runs = runsFor(reel, { way: 'measured', order: 'measured' });
  expect(runs).toEqual([beat(0, 125), beat(125, 360, 3), { from: 360, to: 900, way: 'one-a-field', first: 'top' }]);
  expect(fieldWayWords(runs)).toBe('each stretch its own way');
  expect(outcomeOf(runs)).toMatchObject({ pictures: 1368, rebuilt: 1080, breaks: 1 });
  expect(outcomeOf(runs).linesKept).toBeCloseTo(1 - 540 / 1368);
});

test('all in one way, in the order that was measured, that the file says, or by hand', () => {
  const first = (order: 'measured' | 'flagged' | 'top' | 'bottom') => {
    const [run] = runsFor(reel, { way: 'one-a-field', order });
    return run?.way === 'progressive' ? null : run?.first;
  };
  expect(first('measured')).toBe('top');
  expect(first('flagged')).toBe('bottom');
  expect(first('bottom')).toBe('bottom');
  expect(runsFor(reel, { way: 'one-a-frame', order: 'measured' })).toEqual([
    { from: 0, to: 900, way: 'one-a-frame', first: 'top' },
  ]);
  expect(runsFor(reel, { way: 'progressive', order: 'measured' })).toEqual([{ from: 0, to: 900, way: 'progressive' }]);
});

test('orders that differ along a tape are kept apart', () => {
  const tape = { ...reel, finding: finding([stretch(0, 100, 'interlaced', 'top'), stretch(100, 900, 'interlaced', 'bottom')]) };
  expect(
    runsFor(tape, { way: 'one-a-field', order: 'measured' }).map((r) => [r.from, r.way !== 'progressive' && r.first]),
  ).toEqual([
    [0, 'top'],
    [100, 'bottom'],
  ]);
});

test('of a stretch the order is its own, unless another is asked for', () => {
  const bottom = { first: 'bottom' as const };
  expect(fieldOrderOf({ ...reel, flag: 'top' }, 'measured', bottom)).toBe('bottom');
  expect(fieldOrderOf({ ...reel, flag: 'top' }, 'flagged', bottom)).toBe('top');
  expect(fieldOrderOf(reel, 'measured', null)).toBe('top');
});

test('film is named by the beat that it has; where findings of old name none it is 2:3', () => {
  const slow: FieldFinding['film'] = [{ ...beat(0, 360, 3), beat: '2:12' }];
  const all = stretch(0, 360, 'pulldown');
  expect(fieldStretchWords(all, slow)).toBe('film by 2:12, top field first');
  expect(fieldStretchWords(stretch(360, 900, 'interlaced'), slow)).toBe('interlaced, top field first');
  const right = { flag: 'right' } as const;
  expect(fieldKindWords({ kind: 'pulldown', first: null, film: slow, ...right })).toBe('film by 2:12');
  expect(fieldKindWords({ kind: 'pulldown', first: 'bottom', film: [], ...right })).toBe('film by 2:3, bottom field first');
});

test('whole pictures that a file calls fields lie in segmented frames', () => {
  const whole = { kind: 'none', first: null, film: [] } as const;
  expect(fieldKindWords({ ...whole, flag: 'wrong' })).toBe('progressive in segmented frames');
  expect(fieldKindWords({ ...whole, flag: 'right' })).toBe('progressive');
  expect(fieldKindWords({ ...whole, flag: 'absent' })).toBe('progressive');
});

test('before a check nothing is known but the flag', () => {
  const unknown = { ...reel, finding: null };
  expect(runsFor(unknown, { way: 'one-a-field', order: 'measured' })).toEqual([
    { from: 0, to: 900, way: 'one-a-field', first: 'bottom' },
  ]);
  expect(runsFor(unknown, { way: 'measured', order: 'measured' })).toEqual([{ from: 0, to: 900, way: 'progressive' }]);
});
