import { NO_FIELDS, type Verdict } from '@thawline/core/truth';
import { verdictLong, verdictShort } from './verdictWords.js';

const fresh = {
  kind: 'new' as const,
  pictures: 1200,
  storedRate: 30,
  trueRate: 30,
  held: [],
  unchanged: [],
  jumps: [],
  cuts: [],
  faults: [],
  made: [],
  parts: [],
  passages: [],
  fields: NO_FIELDS,
  stretches: [{ from: 0, to: 1200, pattern: 'new', trueRate: 30, certainty: 0.99, skips: null }],
};

test('what may be made by motion is said after the verdict, with where and at which beat', () => {
  expect(verdictLong(fresh)).toBe('All 1\u2009200 pictures are new.');
  const whole = { from: 0, to: 1200, sourceRate: 25, certainty: 0.9 };
  expect(verdictLong({ ...fresh, made: [whole] })).toContain(
    'Some may be made, by motion or by mixing: their detail comes and goes at the beat of 25 in 30 (certain to 90\u00a0%).',
  );
  expect(verdictShort({ ...fresh, made: [whole] })).toBe('some may be made');
  const parts = [
    { ...whole, to: 400 },
    { ...whole, from: 900 },
  ];
  expect(verdictLong({ ...fresh, made: parts })).toMatch(/From picture 0 to 399 some may be made.* So in 1 other stretch\.$/);
});

test('pictures left out at a beat, faults, cuts and pictures that stay are each said', () => {
  const skips = { leftOut: 1, of: 5, madeFrom: 30 };
  const cut = {
    ...fresh,
    storedRate: 24,
    trueRate: 24,
    jumps: [4, 8, 12],
    stretches: [{ ...fresh.stretches[0], from: 0, to: 1200, pattern: 'new', trueRate: 24, certainty: 0.99, skips }],
  };
  expect(verdictLong(cut)).toBe(
    'All 1\u2009200 pictures are new. It was made from 30 by leaving out 1 picture of 5: nothing repeats, but every so often a step is too long.',
  );
  expect(verdictShort(cut)).toBe('cut from 30');
  const faults = [
    { picture: 40, kind: 'black' as const, certainty: 0.99 },
    { picture: 90, kind: 'black' as const, certainty: 0.99 },
    { picture: 99, kind: 'swapped' as const, certainty: 0.99 },
  ];
  expect(verdictLong({ ...fresh, faults, cuts: [60] })).toBe(
    'All 1\u2009200 pictures are new. 3 pictures do not belong: 2 black, 1 exchanged with the next. There is 1 cut.',
  );
  expect(verdictShort({ ...fresh, faults })).toBe('3 faults');
  expect(verdictLong({ ...fresh, unchanged: [1, 2, 3] })).toBe(
    'All 1\u2009200 pictures are new. 3 pictures are the same as the one before.',
  );
});

test('what the fields are is told with their order, their breaks and a flag that is wrong', () => {
  const told = (fields: Partial<Verdict['fields']>): string => verdictLong({ ...fresh, fields: { ...NO_FIELDS, ...fields } });
  expect(told({ kind: 'interlaced', first: 'top', flag: 'right' })).toContain(
    'interlaced, top field first: 60 moments a second.',
  );
  expect(told({ kind: 'interlaced', first: 'bottom', flag: 'wrong' })).toContain('What the file says of its fields is wrong.');
  expect(told({ kind: 'none', flag: 'wrong' })).toContain('each of its frames is one picture (segmented frames)');
  expect(told({ kind: 'pulldown', first: 'top', breaks: [52, 118] })).toContain('breaks at pictures 52, 118.');
  const stretch = { flag: 'right' as const, certainty: 0.99 };
  const stretches = [
    { ...stretch, from: 0, to: 100, kind: 'none' as const, first: null },
    { ...stretch, from: 100, to: 200, kind: 'interlaced' as const, first: 'top' as const },
  ];
  expect(told({ kind: 'mixed', first: 'top', stretches })).toContain(
    'pictures 0 to 99 of one moment; 100 to 199 interlaced, top first.',
  );
});

test('parts with rates of their own are told by where they are', () => {
  const part = { pattern: 'every-3', certainty: 0.99 };
  const parts = [
    { ...part, x: 0, y: 0, width: 1, height: 1, trueRate: 24 },
    { ...part, x: 0.6, y: 0.6, width: 0.3, height: 0.3, trueRate: 8 },
  ];
  expect(verdictLong({ ...fresh, parts })).toContain(
    '24 (most of it), 8 (lower right). The whole is as fast as its fastest part.',
  );
});

test('a part that differs makes a clip of new pictures worth a look', () => {
  const part = { pattern: 'every-3', certainty: 0.99, x: 0.6, y: 0.6, width: 0.3, height: 0.3, trueRate: 8 };
  expect(verdictShort({ ...fresh, parts: [part] })).toBe('parts differ');
});
