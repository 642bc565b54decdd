import { EtaEstimator } from './etaEstimator.js';

/** Tells of something that goes at `speed` a second from `from` to `to`, in steps of so many seconds. */
function run(pace: EtaEstimator, from: number, to: number, speed: (t: number) => number, done = 0, step = 0.5): number {
  let at = done;
  for (let t = from; t <= to; t += step) {
    pace.report(t, Math.floor(at));
    at += speed(t) * step;
  }
  return at;
}

test('an even pace is told from its first seconds on', () => {
  const pace = new EtaEstimator();
  pace.report(0, 0);
  expect(pace.secondsLeft(1, 1000)).toBeNull();
  run(pace, 0.5, 4, () => 50, 25);
  expect(pace.secondsLeft(4, 1000)).toBeGreaterThan(15);
  expect(pace.secondsLeft(4, 1000)).toBeLessThan(18);
});

test('what was there from the start is not taken for its pace', () => {
  const pace = new EtaEstimator();
  pace.report(0, 900);
  run(pace, 0.5, 3, () => 10, 905);
  const left = pace.secondsLeft(3, 1000) ?? 0;
  expect(left).toBeGreaterThan(5);
  expect(left).toBeLessThan(9);
});

test('a short standstill hardly changes what is left, and it never jumps', () => {
  const pace = new EtaEstimator();
  let done = run(pace, 0, 20, () => 40);
  const before = pace.secondsLeft(20, 4000) ?? 0;
  done = run(pace, 20.5, 22, () => 5, done);
  const after = pace.secondsLeft(22, 4000) ?? 0;
  expect(Math.abs(after - before)).toBeLessThan(before * 0.25);
  run(pace, 22.5, 60, () => 40, done);
  const settled = pace.secondsLeft(60, 4000) ?? 0;
  expect(settled).toBeLessThan(70);
});

test('nothing is told of what has no end', () => {
  const pace = new EtaEstimator();
  run(pace, 0, 5, () => 10);
  expect(pace.secondsLeft(5, null)).toBeNull();
});
