import type { Tie } from '@thawline/core/align';
import { followersOf } from './alignedGroups.js';

const tied = (offset: number, ratio: number): Tie[] =>
  [10, 100, 300].map((a) => ({ a: a * 1e6, b: Math.round((offset + ratio * a) * 1e6) }));
const edge = (aId: string, bId: string, offset: number, ratio = 1) => ({ aId, bId, ties: tied(offset, ratio) });

test('who is tied to a follower follows as well, after it', () => {
  const found = followersOf('a', [edge('b', 'c', 2, 1.0001), edge('x', 'y', 1), edge('a', 'b', -1, 1.0002)], 300);
  expect(found.map((f) => [f.bId, f.aId])).toEqual([
    ['b', 'a'],
    ['c', 'b'],
  ]);
  expect(found[1]?.there.offset).toBeCloseTo(2 - 1.0001, 6);
  expect(found[1]?.there.ratio).toBeCloseTo(1.0002 * 1.0001, 9);
  expect(found.map((f) => f.contradicts)).toEqual([null, null]);
});

test('ways round are compared: what contradicts is told, and by whose way', () => {
  const [ab, ac] = [edge('a', 'b', -1), edge('a', 'c', 4)];
  expect(followersOf('a', [ab, ac, edge('b', 'c', 5)], 300)[1]?.contradicts).toEqual({
    seconds: expect.closeTo(0, 5),
    byId: 'b',
  });
  // Five milliseconds off, and ten more after five minutes.
  const off = followersOf('a', [ab, ac, edge('b', 'c', 5.005, 1 + 1 / 30_000)], 300)[1]?.contradicts;
  expect(off?.byId).toBe('b');
  expect(off?.seconds).toBeCloseTo(0.005 + (300 - 1) / 30_000, 4);
});

test('a circle of ties comes to an end, and no ties are nobody', () => {
  expect(followersOf('a', [edge('a', 'b', 1), edge('b', 'a', -1)], 10)).toHaveLength(1);
  expect(followersOf('a', [{ aId: 'a', bId: 'b', ties: [] }], 10)).toEqual([]);
});
