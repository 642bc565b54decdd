import { verdictLong, verdictShort } from './verdictWords.js';

const fresh = {
  kind: 'new' as const,
  pictures: 1200,
  storedRate: 30,
  trueRate: 30,
  held: [],
  jumps: [],
  made: [],
  stretches: [{ from: 0, to: 1200, pattern: 'new', trueRate: 30, certainty: 0.99 }],
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
