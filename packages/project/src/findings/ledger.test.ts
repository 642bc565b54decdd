import { rate } from '@thawline/core/time';
import { madeSource } from '../document/project.fixture.js';
import { emptyProject, ledgerOf } from '../index.js';

const check = (fields: { readonly kind: 'none' | 'interlaced' | 'mixed'; readonly first: 'top' | 'bottom' | null }) => ({
  kind: 'new' as const,
  trueRate: 25,
  storedRate: 25,
  certainty: 0.99,
  held: [],
  jumps: [],
  fields,
  stretches: [{ from: 0, to: 100, pattern: 'new', trueRate: 25, certainty: 0.99, skips: null }],
});
const of = (fields: 'progressive' | 'top' | 'bottom') => ({ ...madeSource('reel', rate(25), 100), fields });
const told = (source: ReturnType<typeof of>, found: ReturnType<typeof check> | null) => {
  const line = ledgerOf(emptyProject('Reel'), source, found).lines.find((l) => l.what === 'fields');
  return line && [line.rate, line.from];
};

test('fields are told by what was measured, else by what the file says; whole pictures have none', () => {
  expect(told(of('progressive'), null)).toBeUndefined();
  expect(told(of('progressive'), check({ kind: 'none', first: null }))).toBeUndefined();
  expect(told(of('bottom'), null)).toEqual([50, 'two fields a frame, bottom first, as the file says']);
  expect(told(of('bottom'), check({ kind: 'interlaced', first: 'top' }))).toEqual([
    50,
    'two moments a frame, top field first, as measured',
  ]);
});

test('what was measured of a part counts more than a flag that it proves wrong', () => {
  expect(told(of('bottom'), check({ kind: 'mixed', first: 'top' }))).toEqual([
    50,
    'two fields a frame, top field first, as measured',
  ]);
  expect(told(of('bottom'), check({ kind: 'none', first: null }))).toEqual([
    50,
    'two fields a frame, bottom first, as the file says',
  ]);
});

test('where the order changes along a tape none is named', () => {
  expect(told(of('top'), check({ kind: 'interlaced', first: null }))).toEqual([
    50,
    'two moments a frame, now one field first, now the other, as measured',
  ]);
});
