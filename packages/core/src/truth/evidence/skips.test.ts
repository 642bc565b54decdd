import { Changes } from '../measure/changes.js';
import { beatOf, findSkipping } from './skips.js';

/** Paces of steps when pictures of `from` a second are shown at `to`, each a little off. */
function conversion(from: number, to: number, count: number, { phase = 0.3, off = 0.05 } = {}): Changes {
  const changes = new Changes();
  const mean = from / to;
  for (let k = 0; k < count; k++) {
    const at = changes.add();
    const pictures = Math.floor(phase + (k + 1) * mean + 1e-9) - Math.floor(phase + k * mean + 1e-9);
    changes.columns.pace[at] = pictures / mean + off * Math.sin(k * 12.9898 + 4.1);
  }
  return changes;
}
const told = (changes: Changes, to: number) =>
  findSkipping(changes, 0, changes.length, to).map(({ leftOut, of, madeFrom }) => ({ leftOut, of, madeFrom }));

test.each([
  [30, 24, { leftOut: 1, of: 5, madeFrom: 30 }],
  [30, 25, { leftOut: 1, of: 6, madeFrom: 30 }],
  [50, 24, { leftOut: 13, of: 25, madeFrom: 50 }],
  [60, 25, { leftOut: 7, of: 12, madeFrom: 60 }],
  [60, 24, { leftOut: 3, of: 5, madeFrom: 60 }],
])('%i shown at %i by leaving pictures out says so by its rhythm', (from, to, skips) => {
  for (const phase of [0, 0.2, 0.55, 0.9]) expect(told(conversion(from, to, 120, { phase }), to)).toEqual([skips]);
});

test('rates of the same name with 1001 in them have the same rhythm', () => {
  const found = told(conversion(30, 24, 120), 24000 / 1001);
  expect(found).toMatchObject([{ leftOut: 1, of: 5 }]);
  expect(found[0]?.madeFrom).toBeCloseTo(29.97, 2);
});

test.each([
  [30000 / 1001, 25, { leftOut: 1, of: 6 }],
  [60000 / 1001, 25, { leftOut: 7, of: 12 }],
  [30, 24000 / 1001, { leftOut: 1, of: 5 }],
  [50, 24000 / 1001, { leftOut: 13, of: 25 }],
])('%d shown at %d has nearly the beat of its neighbours, and is told from them by where it slips', (from, to, skips) => {
  const found = findSkipping(conversion(from, to, 230, { phase: 0.4 }), 0, 230, to);
  expect(found).toMatchObject([skips]);
  expect(found[0]?.madeFrom).toBeCloseTo(from, 1);
});

test('where pictures are longer than the others is told', () => {
  const changes = conversion(30, 24, 60, { phase: 0 });
  const [found] = findSkipping(changes, 0, 60, 24);
  const longer = Array.from({ length: 60 }, (_, k) => k).filter((k) => (changes.columns.pace[k] as number) > 1.2);
  expect(found?.longer).toEqual(longer);
});

test('even steps, uneven ones and every second one left out have no such rhythm', () => {
  expect(told(conversion(25, 25, 120), 25)).toEqual([]);
  expect(told(conversion(50, 25, 120), 25)).toEqual([]);
  for (let seed = 1; seed <= 20; seed++) {
    const changes = conversion(25, 25, 240);
    for (let k = 0; k < 240; k++)
      changes.columns.pace[k] = 1 + 0.6 * Math.sin(k * (0.31 + seed * 0.07) + seed) * Math.sin(k * 1.7 * seed);
    expect(told(changes, 25)).toEqual([]);
  }
});

test('a rhythm that stops is told as far as it goes', () => {
  const changes = conversion(30, 24, 480);
  for (let k = 240; k < 480; k++) changes.columns.pace[k] = 1 + 0.04 * Math.sin(k * 7.7);
  const found = findSkipping(changes, 0, 480, 24);
  expect(found.map(({ from, to }) => [from, to])).toEqual([[0, 240]]);
});

test('where nothing moves nothing is said', () => {
  const changes = conversion(30, 24, 120);
  changes.columns.pace.fill(0);
  expect(told(changes, 24)).toEqual([]);
});

test('single skips that keep a beat are one, from the rate that it comes from; others are not', () => {
  const skips = (from: number, to: number): number[] =>
    Array.from({ length: 199 }, (_, k) => k + 1).filter(
      (k) => Math.floor(0.4 + (k * from) / to) - Math.floor(0.4 + ((k - 1) * from) / to) > 1,
    );
  expect(beatOf(skips(30, 25), 200, 25)).toMatchObject({ leftOut: 1, of: 6, madeFrom: 30 });
  const ntsc = beatOf(skips(30000 / 1001, 25), 200, 25);
  expect(ntsc).toMatchObject({ leftOut: 1, of: 6 });
  expect(ntsc?.madeFrom).toBeCloseTo(29.97, 2);
  // A few are not found, or are found besides.
  expect(
    beatOf(
      skips(30, 24).filter((_, i) => i !== 7 && i !== 20),
      200,
      24,
    ),
  ).toMatchObject({ leftOut: 1, of: 5 });
  expect(beatOf([9, 20, 41, 47, 88, 102, 130, 151, 177], 200, 25)).toBeNull();
  expect(beatOf([5, 10, 15], 200, 25)).toBeNull();
});
