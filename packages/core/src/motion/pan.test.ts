import { jetty, lantern, Sensor } from '@thawline/rig';
import { crossingSeconds, panBetween, quickPans, type Shift } from './index.js';

const [WIDTH, HEIGHT] = [256, 144];

function luma(scene: ReturnType<typeof jetty>, seconds: number, sensor: Sensor): Uint8Array {
  return sensor.expose(scene(seconds, WIDTH, HEIGHT), WIDTH, HEIGHT).subarray(0, WIDTH * HEIGHT);
}

test('a pan is found to a tenth of a sample, slow and fast, through noise', () => {
  const sensor = new Sensor(3, 2);
  for (const perPicture of [0.4, 3.25, 17, 60]) {
    const scene = jetty(71, perPicture * 25);
    for (const k of [0, 5, 9]) {
      const { x, y } = panBetween(luma(scene, k / 25, sensor), luma(scene, (k + 1) / 25, sensor), WIDTH, HEIGHT);
      // The camera goes right, the picture left.
      expect(Math.abs(x * WIDTH + perPicture)).toBeLessThan(perPicture > 30 ? 1 : 0.35);
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
