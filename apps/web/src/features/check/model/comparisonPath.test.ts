import { SHARES } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { differencesOf, pathWeave } from './comparisonPath.js';

type Found = Parameters<typeof differencesOf>[0];

/** 29.97 in 25: pictures of the master that each picture of the copy shows. */
const found = {
  jobId: 'j',
  a: 'x',
  b: 'y',
  names: { a: 'master', b: 'copy' },
  madeAt: '',
  offsetSeconds: 0,
  speed: 1,
  rateA: rate(30000, 1001),
  rateB: rate(25),
  picturesA: 12,
  picturesB: 9,
  certainty: 1,
  missing: { headA: 0, tailA: 2, headB: 0, tailB: 0 },
  path: [
    [0, 0],
    [1, 1],
    [2, 2],
    [3, 3],
    [4, 4],
    [5, 5],
    [7, 6],
    [7, 7],
    [9, 8],
  ],
  droppedFromA: [6, 8],
  repeatedInB: [7],
  blendsInB: [{ b: 5, a: 5, share: 0.25 }],
} as unknown as Found;

test('differences come in the order of the second, each with both pictures', () => {
  expect(differencesOf(found)).toEqual([
    { what: 'mixed', a: 5, b: 5, note: '75 and 25 %' },
    { what: 'dropped', a: 6, b: 6, note: '' },
    { what: 'repeated', a: 7, b: 7, note: '' },
    { what: 'dropped', a: 8, b: 8, note: '' },
  ]);
  expect(differencesOf({ ...found, droppedFromA: [], repeatedInB: [], blendsInB: [] })).toEqual([]);
});

test('the path is drawn as a step map of the second at its own rate', () => {
  const weave = pathWeave(found);
  expect(Array.from(weave?.map.pictures ?? [])).toEqual([0, 1, 2, 3, 4, 5, 7, 7, 9]);
  expect(Array.from(weave?.map.steps ?? [])).toEqual([0, 1, 1, 1, 1, 1, 2, 0, 2]);
  expect(weave?.map.nextShare[5]).toBe(SHARES / 4);
  expect(weave?.mapping.timeline).toEqual(rate(25));
  expect(weave?.mapping).toMatchObject({ inPicture: 0, length: 9 });
  expect(pathWeave({ ...found, path: [] })).toBeNull();
});
