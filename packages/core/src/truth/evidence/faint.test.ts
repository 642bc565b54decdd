import { ChangeMeter, judge } from '../index.js';
import { HEIGHT, landscape, random, seen, WIDTH } from '../measure/samples/landscape.fixture.js';

const ground = landscape(21);
const none = (): number => 0.5;

/** The verdict on a dark pan by 0.3 samples a picture under grain of its own in every stored picture. @param of from a stored picture to the scene's */
function verdictOf(of: (k: number) => number, { grain = 2, contrast = 0.12, count = 120, by = 0.3 } = {}) {
  const next = random(5);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  for (let k = 0; k < count; k++) {
    const light = seen(ground, 40 + by * of(k), 30, none);
    meter.push(Uint8Array.from(light, (v) => Math.max(0, Math.round(40 + (v - 128) * contrast + grain * normal()))));
  }
  return judge(meter.finish(), 50);
}

test.each([
  ['every 2', (k: number) => 2 * Math.floor(k / 2), 25],
  ['every 3', (k: number) => 3 * Math.floor(k / 3), 50 / 3],
  ['2:3', (k: number) => 5 * Math.floor(k / 5) + (k % 5 < 2 ? 0 : 2.5), 20],
] as const)('pictures that show %s times are told though grain changes each of them as much as the next', (_, of, rate) => {
  const verdict = verdictOf(of);
  expect(verdict.trueRate).toBeCloseTo(rate, 1);
  expect(verdict.certainty).toBeGreaterThan(0.95);
  const repeats = Array.from({ length: 119 }, (_, i) => i + 1).filter((k) => of(k) === of(k - 1));
  // Here and there grain looks like motion.
  expect(verdict.held.filter((k) => repeats.includes(k)).length).toBeGreaterThan(0.95 * repeats.length);
  expect(verdict.held.every((k) => repeats.includes(k))).toBe(true);
});

test('under the same grain new pictures are new, and slow motion is none that stands still', () => {
  expect(verdictOf((k) => k)).toMatchObject({ kind: 'new', trueRate: 50, held: [], jumps: [] });
});

test('where nothing moves grain is no motion', () => {
  expect(verdictOf(() => 0)).toMatchObject({ kind: 'still', held: [] });
});
