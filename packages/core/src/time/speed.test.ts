import { parseSpeed } from './index.js';

test.each([
  ['0.25', 1, 4],
  ['25%', 1, 4],
  ['25 %', 1, 4],
  ['1/4', 1, 4],
  ['1', 1, 1],
  ['.5', 1, 2],
  ['33,333333 %', 33333333, 100000000],
  ['1000/1001', 1000, 1001],
  ['10000 %', 100, 1],
  ['1%', 1, 100],
])('%s is exactly %d / %d', (text, num, den) => {
  expect(parseSpeed(text)).toEqual({ num, den });
});

test.each(['', '%', '0', '0 %', '-1', '1/0', '0.5 %', '10001 %', '101', 'fast', '1e3', '1.2345678'])(
  '"%s" is refused',
  (text) => {
    expect(parseSpeed(text)).toBeNull();
  },
);
