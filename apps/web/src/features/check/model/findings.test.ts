import { around } from '../../../app/shell/around.js';
import { findingsOf, flagsOf } from './findings.js';
import { runLengths } from './runLengths.js';

test('held pictures and jumps stand in one line', () => {
  expect(findingsOf({ held: [3, 4, 90], jumps: [1, 50, 51, 100], cuts: [], faults: [] })).toEqual([
    { at: 1, what: 'jump' },
    { at: 3, what: 'held' },
    { at: 4, what: 'held' },
    { at: 50, what: 'jump' },
    { at: 51, what: 'jump' },
    { at: 90, what: 'held' },
    { at: 100, what: 'jump' },
  ]);
  expect(findingsOf({ held: [], jumps: [], cuts: [], faults: [] })).toEqual([]);
});

test('cuts and faults stand among them, each where it is', () => {
  const faults = [
    { picture: 2, kind: 'black' as const, certainty: 0.99 },
    { picture: 60, kind: 'foreign' as const, certainty: 0.99 },
  ];
  expect(findingsOf({ held: [3, 40], jumps: [50], cuts: [30], faults }).map((f) => `${f.at} ${f.what}`)).toEqual([
    '2 black',
    '3 held',
    '30 cut',
    '40 held',
    '50 jump',
    '60 foreign',
  ]);
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
