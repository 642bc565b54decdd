import { ChangeMeter, judge } from '../index.js';
import { HEIGHT, landscape, random, seen, WIDTH } from '../measure/samples/landscape.fixture.js';

const [ground, other] = [landscape(11), landscape(12)];
const COUNT = 96;

type Place = (k: number) => readonly [x: number, y: number];
type Inside = (x: number, y: number, k: number) => boolean;

/** The verdict on one landscape moving over another one. */
function verdictOf(under: Place, over: Place, inside: Inside) {
  const noise = random(7);
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  for (let k = 0; k < COUNT; k++) {
    const picture = seen(ground, ...under(k), noise);
    const upper = seen(other, ...over(k), noise);
    for (let i = 0; i < picture.length; i++) if (inside(i % WIDTH, Math.floor(i / WIDTH), k)) picture[i] = upper[i] as number;
    meter.push(picture);
  }
  return judge(meter.finish(), 25);
}

const box: Inside = (x, y) => x >= 96 && x < 160 && y >= 48;
const onThrees = (k: number): number => Math.floor(k / 3) * 3;
const pan: Place = (k) => [30 + 1.3 * k, 20];

test('an inset on threes has its own rate and place, and the whole is as fast as the rest', () => {
  const verdict = verdictOf(pan, (k) => [10, 40 + 1.1 * onThrees(k)], box);
  expect(verdict).toMatchObject({ kind: 'new', trueRate: 25, held: [], jumps: [], blends: [] });
  const [fastest, slower] = verdict.parts;
  expect(fastest).toMatchObject({ trueRate: 25, pattern: 'new' });
  expect(slower).toMatchObject({ pattern: 'every-3' });
  expect(slower?.trueRate).toBeCloseTo(25 / 3);
  expect(slower?.x).toBeCloseTo(0.6, 1);
  expect(slower?.y).toBeCloseTo(0.5, 1);
  expect(slower?.width).toBeGreaterThan(0.25);
});

test('a background on twos behind something that moves in every picture leaves the whole at its rate', () => {
  const verdict = verdictOf(
    (k) => pan(2 * Math.floor(k / 2)),
    (k) => [10, 40 + 1.1 * k],
    box,
  );
  expect(verdict).toMatchObject({ kind: 'new', trueRate: 25, held: [] });
  expect(verdict.parts.map((p) => p.pattern)).toEqual(['new', 'every-2']);
});

test('where all that moves has one rate there are no parts', () => {
  expect(verdictOf(pan, (k) => [10, 40 + 1.1 * k], box).parts).toEqual([]);
  const still = verdictOf(
    () => [30, 20],
    (k) => [10, 40 + 1.1 * onThrees(k)],
    box,
  );
  expect(still).toMatchObject({ kind: 'padded', parts: [] });
  expect(still.trueRate).toBeCloseTo(25 / 3);
});

test('what changes without moving is no faster part: grain, or a counter', () => {
  const grain = random(9);
  const verdict = verdictOf(
    (k) => pan(onThrees(k)),
    () => [400 * grain(), 400 * grain()],
    (x, y) => x < 32 && y < 16,
  );
  expect(verdict.parts).toEqual([]);
  expect(verdict.trueRate).toBeCloseTo(25 / 3);
});

test('a first half in every picture and a second one on threes are stretches, no parts', () => {
  const place = (k: number): number => (k < COUNT / 2 ? k : COUNT / 2 + onThrees(k - COUNT / 2));
  const verdict = verdictOf(
    (k) => pan(place(k)),
    (k) => [10, 40 + 1.1 * place(k)],
    box,
  );
  expect(verdict).toMatchObject({ kind: 'mixed', parts: [] });
});

test('something small that moves now and then while all else holds keeps the whole from holding', () => {
  const steps = random(3);
  let y = 40;
  const places = Array.from({ length: COUNT }, () => {
    y += steps() < 0.92 ? 1 + 0.3 * steps() : 0;
    return [10, y] as const;
  });
  const verdict = verdictOf(
    (k) => pan(3 * Math.floor(k / 3)),
    (k) => places[k] as readonly [number, number],
    (x, yy) => x >= 96 && x < 144 && yy >= 48 && yy < 80,
  );
  expect(verdict).toMatchObject({ kind: 'new', trueRate: 25 });
  // Now and then it stands, and so does all.
  expect(verdict.held.length).toBeLessThan(10);
});
