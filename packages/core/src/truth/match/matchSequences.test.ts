import { shrinkPlane } from '../../picture/index.js';
import { matchSequences, type Sequence } from '../index.js';
import { cook, lakeOf, type Made, mixes, ones } from '../verdict/recipes.fixture.js';

const [WIDTH, HEIGHT, SAMPLES] = [64, 36, 64 * 36];

function sequence(made: readonly Made[], scene = lakeOf(1.5)): Sequence {
  const data = new Uint8Array(made.length * SAMPLES);
  let at = 0;
  for (const picture of cook(made, scene)) {
    shrinkPlane({
      data: picture,
      width: 256,
      height: 144,
      out: data.subarray(at, at + SAMPLES),
      outWidth: WIDTH,
      outHeight: HEIGHT,
    });
    at += SAMPLES;
  }
  return { count: made.length, samples: SAMPLES, data };
}

const span = (from: number, to: number): number[] => Array.from({ length: to - from }, (_, i) => from + i);
const master = sequence(ones(span(0, 90)));

test('a copy is the same picture by picture', () => {
  const match = matchSequences(master, master);
  expect(match.path).toEqual(span(0, 90).map((k) => [k, k]));
  expect(match).toMatchObject({ droppedFromA: [], repeatedInB: [], blendsInB: [], step: 1, start: 0 });
  expect(match.certainty).toBeGreaterThan(0.95);
});

test('30 in 25 leaves out every sixth picture', () => {
  const shown = span(0, 70).map((n) => Math.floor((n * 30) / 25));
  const match = matchSequences(master, sequence(ones(shown)), [30 / 25, 1]);
  expect(match.path).toEqual(shown.map((a, b) => [a, b]));
  expect(match.droppedFromA).toEqual(span(0, shown.at(-1) ?? 0).filter((k) => !shown.includes(k)));
  expect(match.step).toBeCloseTo(1.2, 2);
});

test('25 in 29.97 shows some pictures again, each told', () => {
  const shown = span(0, 90).map((n) => Math.floor((n * 25 * 1001) / 30000));
  const match = matchSequences(master, sequence(ones(shown)), [(25 * 1001) / 30000, 1]);
  expect(match.path).toEqual(shown.map((a, b) => [a, b]));
  expect(match.repeatedInB).toEqual(span(1, 90).filter((n) => shown[n] === shown[n - 1]));
});

test('mixed pictures are found with their two pictures and the share', () => {
  const made = mixes(60, 24, 30);
  const match = matchSequences(master, sequence(made), [0.8, 1]);
  const real = made.flatMap((m, b) =>
    m.kind === 'mix' && m.share > 0.15 && m.share < 0.85 ? [{ b, a: m.source, share: m.share }] : [],
  );
  const found = new Map(match.blendsInB.map((m) => [m.b, m]));
  const right = real.filter((m) => found.get(m.b)?.a === m.a && Math.abs((found.get(m.b)?.share ?? 0) - m.share) < 0.1);
  expect(right.length / real.length).toBeGreaterThan(0.95);
});

test('a part of the master at half its speed has its offset, speed, and what is missing', () => {
  const shown = span(0, 60).map((n) => 20 + (n >> 1));
  const match = matchSequences(master, sequence(ones(shown)), [1]);
  expect(match.path).toEqual(shown.map((a, b) => [a, b]));
  expect(match.missing).toEqual({ headA: 20, tailA: 40, headB: 0, tailB: 0 });
  expect(match.step).toBeCloseTo(0.5, 2);
});

test('a picture that was lost on the way is a gap in the path, not a change of speed', () => {
  const shown = span(0, 80).filter((k) => k !== 41 && k !== 42);
  const match = matchSequences(master, sequence(ones(shown)));
  expect(match.path).toEqual(shown.map((a, b) => [a, b]));
  expect(match.droppedFromA).toEqual([41, 42]);
});

test('what is not the same is not matched', () => {
  const other = sequence(ones(span(0, 60)), lakeOf(1.5, 777));
  expect(matchSequences(master, other).certainty).toBeLessThan(0.5);
});

test('nothing to match gives nothing', () => {
  const none: Sequence = { count: 0, samples: SAMPLES, data: new Uint8Array(0) };
  expect(matchSequences(master, none)).toMatchObject({ path: [], certainty: 0 });
  expect(matchSequences(none, master)).toMatchObject({ path: [], certainty: 0 });
});
