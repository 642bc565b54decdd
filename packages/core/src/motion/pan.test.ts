import { jetty, lantern, Sensor } from '@thawline/rig';
import { calmSeconds, crossingSeconds, panBetween, quickPans, type Shift } from './index.js';

const [WIDTH, HEIGHT] = [256, 144];

function luma(scene: ReturnType<typeof jetty>, seconds: number, sensor: Sensor): Uint8Array {
  return sensor.expose(scene(seconds, WIDTH, HEIGHT), WIDTH, HEIGHT).subarray(0, WIDTH * HEIGHT);
}

/** Hills of chance at two scales, smooth, nowhere like themselves. */
function hills(x: number, y: number): number {
  const at = (i: number, j: number): number => {
    const n = Math.imul(i * 374_761_393 + j * 668_265_263 + 99, 1_274_126_177);
    return (((n ^ (n >>> 15)) >>> 0) % 1000) / 1000 - 0.5;
  };
  const layer = (u: number, v: number): number => {
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const ease = (t: number): number => t * t * (3 - 2 * t);
    const [s, t] = [ease(u - i), ease(v - j)];
    const top = at(i, j) * (1 - s) + at(i + 1, j) * s;
    return top * (1 - t) + (at(i, j + 1) * (1 - s) + at(i + 1, j + 1) * s) * t;
  };
  return 128 + 90 * layer(x / 17, y / 17) + 60 * layer(x / 5 + 40, y / 5);
}

test('a pan is found to a fiftieth of what it is, slow and fast, in whole samples and between, through noise', () => {
  let state = 7;
  const chance = (): number => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32 - 0.5;
  };
  for (const perPicture of [0.4, 0.6, 1.5, 3.3, 17.2]) {
    const picture = (k: number): Uint8Array =>
      Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
        Math.max(0, Math.min(255, Math.round(hills((i % WIDTH) + perPicture * k, Math.floor(i / WIDTH)) + 4 * chance()))),
      );
    const pictures = Array.from({ length: 9 }, (_, k) => picture(k));
    let mean = 0;
    for (let k = 0; k < 8; k++) {
      const { x, y } = panBetween(pictures[k] as Uint8Array, pictures[k + 1] as Uint8Array, WIDTH, HEIGHT);
      mean -= (x * WIDTH) / 8;
      expect(Math.abs(y * HEIGHT)).toBeLessThan(0.05);
    }
    expect(Math.abs(mean / perPicture - 1)).toBeLessThan(0.02);
  }
});

test('a jetty passes in whole samples, though its water moves by itself', () => {
  const sensor = new Sensor(3, 2);
  for (const perPicture of [1, 17, 60]) {
    const scene = jetty(71, perPicture * 25);
    for (const k of [0, 5, 9]) {
      const { x, y } = panBetween(luma(scene, k / 25, sensor), luma(scene, (k + 1) / 25, sensor), WIDTH, HEIGHT);
      // The camera goes right, the picture left.
      expect(Math.abs(x * WIDTH + perPicture)).toBeLessThan(0.02 * perPicture);
      expect(Math.abs(y * HEIGHT)).toBeLessThan(0.1);
    }
  }
});

test('where only something small moves, and where nothing is, the whole stands', () => {
  const sensor = new Sensor(4, 1);
  const scene = lantern(5);
  for (const k of [0, 8, 20]) {
    const { x, y } = panBetween(luma(scene, k / 25, sensor), luma(scene, (k + 1) / 25, sensor), WIDTH, HEIGHT);
    expect(Math.abs(x * WIDTH) + Math.abs(y * HEIGHT)).toBeLessThan(0.1);
  }
  const flat = new Uint8Array(WIDTH * HEIGHT).fill(80);
  expect(panBetween(flat, flat, WIDTH, HEIGHT)).toEqual({ x: 0, y: 0 });
});

test('small and odd sizes are no trouble', () => {
  for (const [w, h] of [
    [1, 1],
    [7, 3],
    [65, 1],
    [129, 5],
  ] as const) {
    const any = Uint8Array.from({ length: w * h }, (_, i) => (i * 37) % 200);
    const { x, y } = panBetween(any, any, w, h);
    expect(Math.abs(x) + Math.abs(y)).toBe(0);
  }
});

test('a frame is crossed in the time its shift says', () => {
  expect(crossingSeconds({ x: 0.01, y: 0 }, 25)).toBe(4);
  expect(crossingSeconds({ x: -0.002, y: 0.005 }, 24)).toBeCloseTo(1 / 0.12, 9);
  expect(crossingSeconds({ x: 0, y: 0 }, 25)).toBe(Number.POSITIVE_INFINITY);
});

test('quick pans are stretches; a shaking hand is none', () => {
  const still: Shift = { x: 0, y: 0 };
  const pan: Shift = { x: 1 / 125, y: 0 };
  const found = quickPans([...Array(50).fill(still), ...Array(50).fill(pan), ...Array(50).fill(still)], 25);
  expect(found).toHaveLength(1);
  // Five seconds across; the ends are blurred by the average.
  expect(found[0]?.seconds).toBeCloseTo(5, 6);
  expect(Math.abs((found[0]?.from ?? 0) - 50)).toBeLessThanOrEqual(3);
  expect(Math.abs((found[0]?.to ?? 0) - 100)).toBeLessThanOrEqual(3);
  const shaking = Array.from({ length: 150 }, (_, k) => ({ x: k % 2 ? 0.01 : -0.01, y: 0 }));
  expect(quickPans(shaking, 25)).toEqual([]);
  // Half as fast it is calm.
  expect(quickPans(Array(100).fill({ x: 1 / 250, y: 0 }), 25)).toEqual([]);
});

test('what is calm is told by how far a picture moves from one shown frame to the next', () => {
  expect([24, 30, 60].map((r) => Number(calmSeconds(r).toFixed(1)))).toEqual([7, 5.6, 2.8]);
  // 3 samples of 1280 a picture at 60 cross the frame in 7.1 s: calm; 8 do not.
  expect(quickPans(Array(120).fill({ x: 3 / 1280, y: 0 }), 60)).toEqual([]);
  expect(quickPans(Array(120).fill({ x: 8 / 1280, y: 0 }), 60)).toHaveLength(1);
});
