import { rate } from '../../time/index.js';
import { claimedPlaying, judgeClaim, parseClaim } from '../index.js';

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

test.each([
  ['600', 600, null],
  ['1/24 of 600', 600, 24],
  ['1 / 24 \u00d7 600', 600, 24],
  ['600 at 1/24', 600, 24],
  ['600, 24 times slower', 600, 24],
  ['24x slow 600', 600, 24],
  ['240fps', 240, null],
])('the claim %s is understood', (text, claimed, slow) => {
  expect(parseClaim(text)).toEqual({ rate: rate(claimed), slow });
});

test.each(['', 'fast', '1/0 of 600', '600 at 2', '1/24 of fast', '-600'])('"%s" is no claim', (text) => {
  expect(parseClaim(text)).toBeNull();
});

test('a claim says what it would play at', () => {
  expect(claimedPlaying({ rate: rate(600), slow: 24 })).toEqual(rate(25));
  expect(claimedPlaying({ rate: rate(600), slow: null })).toBeNull();
});
