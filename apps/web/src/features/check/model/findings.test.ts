import { around } from '../../../app/shell/around.js';
import { findingsOf, flagsOf } from './findings.js';
import { runLengths } from './runLengths.js';

test('held pictures and jumps stand in one line', () => {
  expect(findingsOf({ held: [3, 4, 90], jumps: [1, 50, 51, 100] })).toEqual([
    { at: 1, what: 'jump' },
    { at: 3, what: 'held' },
    { at: 4, what: 'held' },
    { at: 50, what: 'jump' },
    { at: 51, what: 'jump' },
    { at: 90, what: 'held' },
    { at: 100, what: 'jump' },
  ]);
  expect(findingsOf({ held: [], jumps: [] })).toEqual([]);
});

test.each([
  [0, undefined, 3],
  [3, undefined, 4],
  [4, 3, 90],
  [50, 4, 90],
  [90, 4, undefined],
  [91, 90, undefined],
])('around %i are %s and %s', (at, previous, next) => {
  expect(around([3, 4, 90], at)).toEqual({ previous, next, index: [3, 4, 90].findIndex((f) => f >= at) });
});

test('around nothing is nothing', () => {
  expect(around([], 7)).toEqual({ previous: undefined, next: undefined, index: -1 });
});

test('pictures are counted by how long they stay', () => {
  expect([...flagsOf([1, 4], 6)]).toEqual([0, 1, 0, 0, 1, 0]);
  // 0 and 1, 2 to 4, 5.
  expect(runLengths({ pictures: 6, held: [1, 3, 4] })).toEqual([0, 1, 1, 1]);
});
