import { ChangeMeter, judge } from '../index.js';
import { HEIGHT, landscape, random, seen, WIDTH } from '../measure/samples/landscape.fixture.js';

const [one, other] = [landscape(21), landscape(22)];
const COUNT = 80;

/** Pictures of a pan, as they come of what is done to each, judged at 25. */
function verdictOf(done: (picture: Uint8Array, k: number, other: Uint8Array) => Uint8Array) {
  const noise = random(4);
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  for (let k = 0; k < COUNT; k++) meter.push(done(seen(one, 20 + 1.2 * k, 30, noise), k, seen(other, 90, 40 + 0.8 * k, noise)));
  return judge(meter.finish(), 25);
}

const lit = (picture: Uint8Array, by: number): Uint8Array => picture.map((v) => Math.max(0, Math.min(255, 16 + (v - 16) * by)));

test('a flash is one, and neither a fault nor a cut', () => {
  const verdict = verdictOf((picture, k) => (k === 30 ? picture.map((v) => Math.min(255, v * 1.2 + 20)) : picture));
  expect(verdict.passages).toEqual([{ from: 30, to: 31, kind: 'flash' }]);
  expect(verdict).toMatchObject({ trueRate: 25, faults: [], cuts: [] });
});

test('a fade to black and one from it are two, and what is black between them is no fault', () => {
  const light = (k: number): number => (k < 20 ? 1 : k < 32 ? (32 - k) / 12 : k < 36 ? 0 : k < 48 ? (k - 36) / 12 : 1);
  const verdict = verdictOf((picture, k) => lit(picture, light(k)));
  expect(verdict.passages.map((p) => p.kind)).toEqual(['fade', 'fade']);
  const [out, back] = verdict.passages;
  expect(Math.abs((out?.from ?? 0) - 20)).toBeLessThanOrEqual(2);
  expect(Math.abs((back?.to ?? 0) - 48)).toBeLessThanOrEqual(2);
  expect(verdict).toMatchObject({ trueRate: 25, faults: [], blends: [] });
});

test('a dissolve is one, and no blending of rates', () => {
  const verdict = verdictOf((picture, k, next) => {
    const share = Math.max(0, Math.min(1, (k - 30) / 20));
    return picture.map((v, i) => v * (1 - share) + (next[i] as number) * share);
  });
  const [found] = verdict.passages;
  expect(verdict.passages).toHaveLength(1);
  expect(found?.kind).toBe('dissolve');
  expect(Math.abs((found?.from ?? 0) - 31)).toBeLessThanOrEqual(4);
  expect(Math.abs((found?.to ?? 0) - 50)).toBeLessThanOrEqual(4);
  expect(verdict).toMatchObject({ trueRate: 25, blends: [], kind: 'new' });
});

test('a pan, a cut and a black picture are none of them', () => {
  expect(verdictOf((picture) => picture).passages).toEqual([]);
  expect(verdictOf((picture, k, next) => (k < 40 ? picture : next)).passages).toEqual([]);
  expect(verdictOf((picture, k) => (k === 33 ? lit(picture, 0) : picture)).passages).toEqual([]);
});
