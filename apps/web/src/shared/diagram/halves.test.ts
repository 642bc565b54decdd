import { halfOf, numberOf } from './halves.js';

test('the field with the top line lies above, whichever comes first', () => {
  expect([0, 1].map((n) => halfOf(n, 'top', 26).y)).toEqual([0, 13]);
  expect([0, 1].map((n) => halfOf(n, 'bottom', 26).y)).toEqual([13, 0]);
  expect(halfOf(1, undefined, 26)).toEqual({ y: 0, height: 26 });
});

test('fields are counted within their frames', () => {
  expect([0, 1, 2, 3].map((n) => numberOf(n, 100, 'bottom'))).toEqual(['100.1', '100.2', '101.1', '101.2']);
  expect(numberOf(3, 100, undefined)).toBe('103');
});
