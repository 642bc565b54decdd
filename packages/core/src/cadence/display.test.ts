import { rate } from '../time/index.js';
import { refreshesOf, refreshPattern, SCREEN_RATES } from './index.js';

test('25 on a screen of 60 is shown 3 2 3 2 2 times, 24 is 3 2, 30 is 2, on 50 25 is 2', () => {
  expect(refreshPattern(rate(25), rate(60))).toEqual([3, 2, 3, 2, 2]);
  expect(refreshPattern(rate(24), rate(60))).toEqual([3, 2]);
  expect(refreshPattern(rate(24000, 1001), rate(60000, 1001))).toEqual([3, 2]);
  expect(refreshPattern(rate(30), rate(60))).toEqual([2]);
  expect(refreshPattern(rate(25), rate(50))).toEqual([2]);
});

test('a screen slower than the timeline leaves frames out', () => {
  expect(refreshPattern(rate(60), rate(50))).toEqual([1, 1, 1, 1, 1, 0]);
});

test.each([...SCREEN_RATES])('the refreshes of an hour are those of the screen (%p)', (screen) => {
  let sum = 0;
  for (let n = 0; n < 90_000; n++) sum += refreshesOf(n, rate(25), screen);
  expect(sum).toBe(Math.ceil((3600 * screen.num) / screen.den));
});
