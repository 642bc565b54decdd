import { bentMap, evenMap, type SoundMap, Stretcher, Varispeed } from './index.js';

const RATE = 48_000;
const SECONDS = 12;
const BEEPS = [0.5, 3.25, 6, 11.25];

/** A hum with noise, and beeps that set in at once. */
const sound = ((): Float32Array => {
  let state = 1;
  const out = Float32Array.from({ length: RATE * SECONDS }, (_, n) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return 0.01 * (state / 2147483648 - 1) + 0.05 * Math.sin((2 * Math.PI * 220 * n) / RATE);
  });
  for (const at of BEEPS) for (let i = 0; i < 4800; i++) out[at * RATE + i] = 0.7 * Math.cos((2 * Math.PI * 1000 * i) / RATE);
  return out;
})();

function run(warp: Stretcher | Varispeed, until: number, of: Float32Array = sound): Float32Array {
  const out = new Float32Array(until);
  let at = 0;
  const take = (block: Float32Array): void => {
    out.set(block.subarray(0, until - at), at);
    at = Math.min(until, at + block.length);
  };
  for (let n = 0; n < of.length; n += 4000) take(warp.push(of.subarray(n, n + 4000)));
  take(warp.finish(until));
  expect(at).toBe(until);
  return out;
}

const firstLoud = (samples: Float32Array, from: number): number => {
  for (let n = Math.max(0, Math.round(from)); n < samples.length; n++) if (Math.abs(samples[n] as number) > 0.35) return n;
  return -1;
};
/** Cycles a second between two moments, from rising zero crossings of a tone louder than the rest. */
function pitch(samples: Float32Array, from: number, to: number): number {
  let crossings = 0;
  for (let n = from; n < to; n++) if ((samples[n] as number) < 0 && (samples[n + 1] as number) >= 0) crossings++;
  return (crossings * RATE) / (to - from);
}

describe('a stretch that keeps the pitch', () => {
  // 29.97 read at 25, 25 at 24, 1001/1000, double, half.
  test.each([
    [25025, 30000],
    [24, 25],
    [1001, 1000],
    [2, 1],
    [1, 2],
  ])('at %i/%i every beep sets in within half a millisecond of its place, at its own pitch', (num, den) => {
    const out = run(new Stretcher(evenMap(0, num, den), 1), Math.round((sound.length * den) / num));
    for (const at of BEEPS) {
      const wanted = (at * RATE * den) / num;
      expect(Math.abs(firstLoud(out, wanted - 4800) - wanted)).toBeLessThan(24);
      expect(Math.abs(pitch(out, Math.round(wanted) + 400, Math.round(wanted) + 2200) / 1000 - 1)).toBeLessThan(0.03);
    }
  });

  test('at its own speed it is the same sound', () => {
    const out = run(new Stretcher(evenMap(0, 1, 1), 1), sound.length);
    let worst = 0;
    for (let n = 0; n < sound.length - 2000; n++) worst = Math.max(worst, Math.abs((out[n] as number) - (sound[n] as number)));
    expect(worst).toBeLessThan(1e-6);
  });

  test('along a ramp its beeps set in where the curve has them', () => {
    // Two seconds at once, then down to a half: source 0..2 s in 2 s, 2..12 s in 20 s.
    const map: SoundMap = bentMap([0, 2 * RATE, 22 * RATE], [0, 2 * RATE, 12 * RATE]);
    const out = run(new Stretcher(map, 1), 22 * RATE);
    for (const [at, wanted] of [
      [0.5, 0.5],
      [3.25, 4.5],
      [6, 10],
      [11.25, 20.5],
    ] as const)
      expect([at, Math.abs(firstLoud(out, (wanted - 0.1) * RATE) - wanted * RATE) < 24]).toEqual([at, true]);
  });
});

test('a map that stands still is silent, and comes to its end', () => {
  const out = run(new Stretcher(bentMap([0, RATE, 2 * RATE], [0, RATE, RATE]), 1), 5 * RATE);
  expect(out.subarray(RATE + 1500).every((x) => x === 0)).toBe(true);
});

describe('sound that goes along', () => {
  test('a curve moves its pitch with its speed', () => {
    const out = run(new Varispeed(bentMap([0, 4 * RATE, 12 * RATE], [0, 4 * RATE, 8 * RATE]), 1), 12 * RATE);
    expect(firstLoud(out, 3 * RATE) / RATE).toBeCloseTo(3.25, 3);
    expect(firstLoud(out, 7 * RATE) / RATE).toBeCloseTo(8, 3);
    // A tenth of a second counts its cycles to ten a second.
    expect(Math.abs(pitch(out, 8 * RATE + 400, 8 * RATE + 5200) - 500)).toBeLessThan(11);
  });

  test.each([
    [9_000, 0.49, 0.51],
    [15_000, 0, 0.001],
  ])(
    'at twice the speed what rises past the half of the sample rate is gone, and does not fold back: %i Hz',
    (hertz, least, most) => {
      const tone = Float32Array.from({ length: 2 * RATE }, (_, n) => 0.5 * Math.sin((2 * Math.PI * hertz * n) / RATE));
      const out = run(new Varispeed(evenMap(0, 2, 1), 1), RATE, tone).subarray(RATE / 4, (3 * RATE) / 4);
      const loudest = out.reduce((m, x) => Math.max(m, Math.abs(x)), 0);
      expect(loudest).toBeLessThan(most);
      expect(loudest).toBeGreaterThanOrEqual(least);
    },
  );

  test('where time stands still or runs back nothing is heard, and nothing clicks', () => {
    const out = run(new Varispeed(bentMap([0, RATE, 2 * RATE, 3 * RATE], [0, RATE, RATE, 0]), 1), 3 * RATE);
    expect(Math.max(...out.subarray(RATE + 300, 3 * RATE).map(Math.abs))).toBe(0);
    let step = 0;
    for (let n = RATE - 100; n < RATE + 300; n++) step = Math.max(step, Math.abs((out[n + 1] as number) - (out[n] as number)));
    expect(step).toBeLessThan(0.02);
  });

  test('what a curve comes back to is heard again', () => {
    // Four seconds on, two back, and on once more: the beep at 3.25 s sounds before and after.
    const map = bentMap([0, 4 * RATE, 6 * RATE, 10 * RATE], [0, 4 * RATE, 2 * RATE, 6 * RATE]);
    for (const out of [run(new Varispeed(map, 1), 10 * RATE), run(new Stretcher(map, 1), 10 * RATE)]) {
      expect(firstLoud(out, 3 * RATE) / RATE).toBeCloseTo(3.25, 3);
      expect(firstLoud(out, 5 * RATE) / RATE).toBeCloseTo(7.25, 3);
    }
  });
});
