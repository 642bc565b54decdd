import { nextOrder, rangeOf, stepFrom, toggled } from './choosing.js';

const ids = ['a', 'b', 'c', 'd'];

test('a range goes either way, and from nowhere to its one end', () => {
  expect(rangeOf(ids, 'b', 'd')).toEqual(['b', 'c', 'd']);
  expect(rangeOf(ids, 'd', 'b')).toEqual(['b', 'c', 'd']);
  expect(rangeOf(ids, 'c', 'c')).toEqual(['c']);
  expect(rangeOf(ids, 'gone', 'b')).toEqual(['b']);
});

test('steps end at the ends of the list, and begin at its start', () => {
  expect([stepFrom(ids, 'b', 1), stepFrom(ids, 'b', -9), stepFrom(ids, 'b', 9)]).toEqual(['c', 'a', 'd']);
  expect(stepFrom(ids, null, 1)).toBe('b');
  expect(stepFrom([], 'b', 1)).toBeUndefined();
});

test('one is added to the chosen ones, or taken from them', () => {
  expect(toggled(['a'], 'c')).toEqual(['a', 'c']);
  expect(toggled(['a', 'c'], 'a')).toEqual(['c']);
});

test('a head sorts up, then down, then as added', () => {
  const first = nextOrder({ order: 'added', down: false }, 'name');
  const second = nextOrder(first, 'name');
  expect([first, second, nextOrder(second, 'name')]).toEqual([
    { order: 'name', down: false },
    { order: 'name', down: true },
    { order: 'added', down: false },
  ]);
  expect(nextOrder(second, 'runs')).toEqual({ order: 'runs', down: false });
});
