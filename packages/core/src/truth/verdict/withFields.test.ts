import type { FieldStretch } from '../fields/judgeFields.js';
import { NO_FIELDS, type Verdict } from './verdict.js';
import { withFields } from './withFields.js';

const verdict: Verdict = {
  kind: 'new',
  pictures: 100,
  storedRate: 30,
  trueRate: 30,
  held: [12, 80],
  unchanged: [12, 80],
  jumps: [20, 90],
  missing: [1, 2],
  cuts: [50],
  blends: [8, 70],
  shares: [0.5, 0.4],
  made: [],
  parts: [],
  passages: [],
  fields: NO_FIELDS,
  faults: [
    { picture: 30, kind: 'damaged', certainty: 0.9 },
    { picture: 31, kind: 'black', certainty: 0.9 },
  ],
  stretches: [{ from: 0, to: 100, pattern: 'new', trueRate: 30, certainty: 0.99, skips: null }],
  certainty: 0.99,
  holdCeiling: 1,
};
const stretch = (from: number, to: number, kind: FieldStretch['kind']): FieldStretch => ({
  from,
  to,
  kind,
  first: kind === 'none' ? null : 'top',
  flag: 'right',
  certainty: 0.97,
});
const found = (stretches: readonly FieldStretch[]) => ({
  ...NO_FIELDS,
  kind: stretches.length > 1 ? ('mixed' as const) : (stretches[0]?.kind ?? 'none'),
  certainty: 0.97,
  stretches,
});

test('film by 2:3 is four pictures in five; nothing that weaving explains is told besides', () => {
  const told = withFields(verdict, found([stretch(0, 100, 'pulldown')]));
  expect(told).toMatchObject({ kind: 'pulldown', trueRate: 24, held: [], unchanged: [], jumps: [], blends: [], cuts: [50] });
  expect(told.faults.map((f) => f.kind)).toEqual(['black']);
  expect(told.stretches).toMatchObject([{ from: 0, to: 100, pattern: '2:3 fields', trueRate: 24 }]);
});

test('a stretch of film takes its place among the others', () => {
  const told = withFields(verdict, found([stretch(0, 60, 'pulldown'), stretch(60, 100, 'interlaced')]));
  expect(told).toMatchObject({ kind: 'mixed', held: [80], jumps: [90], missing: [2], blends: [], shares: [] });
  expect(told.trueRate).toBeCloseTo(0.6 * 24 + 0.4 * 30);
  expect(told.stretches.map((s) => [s.from, s.to, s.pattern])).toEqual([
    [0, 60, '2:3 fields'],
    [60, 100, 'new'],
  ]);
});

test('pictures of one moment are judged as they were', () => {
  const fields = found([stretch(0, 100, 'none')]);
  expect(withFields(verdict, fields)).toEqual({ ...verdict, fields });
});
