import { Resampler } from './index.js';

function run(source: Float32Array, step: { num: number; den: number }, from: number, until: number, block = 1000): Float32Array {
  const resampler = new Resampler(step, 1, from);
  const out: number[] = [];
  for (let at = 0; at < source.length; at += block) out.push(...resampler.push(source.slice(at, at + block)));
  out.push(...resampler.finish(until));
  return Float32Array.from(out.slice(0, until));
}

const tone = (length: number, perSample: number): Float32Array =>
  Float32Array.from({ length }, (_, n) => Math.sin(2 * Math.PI * perSample * n));

test('at its own speed every sample passes untouched, to the sample', () => {
  const source = tone(5000, 0.013);
  expect(run(source, { num: 1, den: 1 }, 0, 5000)).toEqual(source);
  expect(run(source, { num: 48, den: 48 }, 100, 4900)).toEqual(source.slice(100));
});

test('silence stands before the start and after the end', () => {
  const out = run(Float32Array.of(1, 2, 3), { num: 1, den: 1 }, -2, 8);
  expect([...out]).toEqual([0, 0, 1, 2, 3, 0, 0, 0]);
});

test.each([[{ num: 1001, den: 1000 }], [{ num: 25025, den: 30000 }], [{ num: 2, den: 1 }]])(
  'a tone read at step %p is the same tone at the exact new pitch',
  (step) => {
    const out = run(tone(9000, 0.01), step, 0, 3000);
    const expected = Float32Array.from({ length: 3000 }, (_, m) => Math.sin((2 * Math.PI * 0.01 * m * step.num) / step.den));
    let worst = 0;
    for (let m = 200; m < 2800; m++) worst = Math.max(worst, Math.abs((out[m] as number) - (expected[m] as number)));
    expect(worst).toBeLessThan(0.002);
  },
);

test('the size of the blocks makes no difference', () => {
  const source = tone(4000, 0.02);
  expect(run(source, { num: 1001, den: 1000 }, 7, 3500, 64)).toEqual(run(source, { num: 1001, den: 1000 }, 7, 3500, 4000));
});
