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
