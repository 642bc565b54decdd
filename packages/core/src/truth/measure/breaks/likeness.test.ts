import { HEIGHT, landscape, random, seen, WIDTH } from '../samples/landscape.fixture.js';
import { type Likeness, Likenesses, type Shift } from './likeness.js';

const [shore, forest] = [landscape(1), landscape(2)];
const STILL: Shift = { u: 0, v: 0 };

/** What of the first picture is in the second. */
function compared(first: Uint8Array, second: Uint8Array, places: readonly Shift[] = [STILL]): Likeness {
  const likenesses = new Likenesses(WIDTH, HEIGHT);
  likenesses.push(first);
  likenesses.push(second);
  return likenesses.compare(0, 1, places) as Likeness;
}

test('a picture is like itself, and unlike another place', () => {
  const noise = random(1);
  expect(compared(seen(shore, 0, 40, noise), seen(shore, 0, 40, noise)).all).toBeGreaterThan(0.9);
  expect(compared(seen(shore, 0, 40, noise), seen(forest, 0, 40, noise)).all).toBeLessThan(0.3);
});

test('what moved is found around the places proposed only', () => {
  const noise = random(2);
  // Four fine samples are one coarse one; a view that moves right sees things move left.
  const [before, after] = [seen(shore, 0, 40, noise), seen(shore, 16, 40, noise)];
  const found = compared(before, after, [{ u: -4, v: 0 }]);
  expect(found.all).toBeGreaterThan(0.9);
  expect([found.shift.u, found.shift.v]).toEqual([-4, expect.closeTo(0)]);
  expect(compared(before, after).all).toBeLessThan(0.5);
});

test('another light leaves things alike, and says where it changed', () => {
  const noise = random(3);
  const before = seen(shore, 0, 40, noise);
  const after = before.map((luma, i) => (i % WIDTH > WIDTH / 2 ? Math.min(255, luma * 0.7 + 60) : luma));
  const { all, lit } = compared(before, after);
  expect(all).toBeGreaterThan(0.8);
  expect(lit.share).toBeGreaterThan(0.3);
  expect(lit.share).toBeLessThan(0.7);
  expect(lit.lighter).toBe(lit.share);
  expect(lit.all).toBeGreaterThan(0.8);
});

test('rows tell what is damaged', () => {
  const noise = random(4);
  const before = seen(shore, 0, 40, noise);
  const after = before.slice();
  for (let i = 48 * WIDTH; i < 64 * WIDTH; i++) after[i] = (i * 73 + (((i >> 5) * 151) % 97)) & 255;
  const { rows } = compared(before, after);
  expect(rows.map((row) => (row as number) > 0.5)).toEqual([true, true, false, true]);
});

test('a flat picture is like none, and pictures that are gone are not compared', () => {
  const flat = new Uint8Array(WIDTH * HEIGHT).fill(16);
  expect(compared(flat, flat)).toMatchObject({ all: 0, rows: [null, null, null, null] });
  const likenesses = new Likenesses(WIDTH, HEIGHT);
  for (let k = 0; k < 30; k++) likenesses.push(seen(shore, k, 40, random(k)));
  expect(likenesses.compare(5, 6, [STILL])).toBeNull();
  expect(likenesses.compare(28, 30, [STILL])).toBeNull();
  expect(likenesses.compare(28, 29, [STILL])).not.toBeNull();
});
