import { ChangeMeter, isCombed, judgeFields, splitFields } from '../index.js';
import { cook, lakeOf, type Made } from './recipes.fixture.js';

const WIDTH = 256;
const HEIGHT = 144;

function fieldsOf(made: readonly Made[]) {
  const meters = [new ChangeMeter(WIDTH, HEIGHT / 2), new ChangeMeter(WIDTH, HEIGHT / 2)];
  const combed: boolean[] = [];
  for (const picture of cook(made, lakeOf(3))) {
    combed.push(isCombed(picture, WIDTH, HEIGHT));
    const fields = splitFields(picture, WIDTH, HEIGHT);
    for (const [i, meter] of meters.entries()) meter.push(fields[i] as Uint8Array);
  }
  const [upper, lower] = meters.map((m) => m.finish());
  if (!upper || !lower) throw new Error('no fields');
  return { combed, finding: judgeFields(upper, lower) };
}

/** A B C D as AA BB BC CD DD, and the same with the other field first. */
const pulldown = (count: number, first: 'upper' | 'lower'): Made[] =>
  Array.from({ length: count }, (_, k) => {
    const cycle = [0, 0, 1, 1, 1, 2, 2, 3, 3, 3];
    const [one, two] = [cycle[(k % 5) * 2] ?? 0, cycle[(k % 5) * 2 + 1] ?? 0].map((s) => s + 4 * Math.floor(k / 5)) as [
      number,
      number,
    ];
    return first === 'upper' ? { kind: 'fields', upper: one, lower: two } : { kind: 'fields', upper: two, lower: one };
  });

test.each(['upper', 'lower'] as const)('2:3 woven by fields is found with its order: %s first', (first) => {
  const { combed, finding } = fieldsOf(pulldown(60, first));
  expect(combed.filter(Boolean)).toHaveLength(24);
  expect(finding).toMatchObject({ kind: 'pulldown', first });
  expect(finding.certainty).toBeGreaterThan(0.95);
});

test('fields that each show a moment of their own are interlaced, not pulldown', () => {
  const { combed, finding } = fieldsOf(
    Array.from({ length: 40 }, (_, k) => ({ kind: 'fields', upper: 2 * k, lower: 2 * k + 1 })),
  );
  expect(combed.every(Boolean)).toBe(true);
  expect(finding.kind).toBe('interlaced');
});

test('progressive pictures are not combed, however fast they move', () => {
  const pictures = cook(
    Array.from({ length: 12 }, (_, k) => ({ kind: 'one', source: k })),
    lakeOf(6),
  );
  for (const picture of pictures) expect(isCombed(picture, WIDTH, HEIGHT)).toBe(false);
});

test('the fields of a picture are its even and its odd lines', () => {
  const picture = Uint8Array.from({ length: 4 * 6 }, (_, i) => Math.floor(i / 4));
  const [upper, lower] = splitFields(picture, 4, 6);
  expect([...upper]).toEqual([0, 0, 0, 0, 2, 2, 2, 2, 4, 4, 4, 4]);
  expect([...lower]).toEqual([1, 1, 1, 1, 3, 3, 3, 3, 5, 5, 5, 5]);
});
