import { rate } from '../time/index.js';
import { judgeClaim } from './index.js';

test('a claim of 600 in a file that plays 25 with each picture three times fits 200', () => {
  const verdict = judgeClaim(rate(600), rate(25), 25 / 3);
  expect(verdict).toMatchObject({ kept: false, slow: 24 });
  expect(verdict.fits).toBeCloseTo(200, 9);
});

test('a claim is kept when every picture is new, and two freezes do not break it', () => {
  expect(judgeClaim(rate(100), rate(25), 25)).toEqual({ kept: true, slow: 4, fits: 100 });
  expect(judgeClaim(rate(25), rate(25), 24.9).kept).toBe(true);
  expect(judgeClaim(rate(30), rate(30), 24).kept).toBe(false);
});
