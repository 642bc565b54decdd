import { HEIGHT, landscape, random, seen, WIDTH } from '../samples/landscape.fixture.js';
import { exchangedAt, missingAt } from './apart.js';
import { TileTrack } from './tileTrack.js';

const ice = landscape(3);
const never = (): boolean => false;

/** Soft flakes that fall before a still ground, each at a pace of its own. */
function snow(seed: number, sway: number): (k: number) => Uint8Array {
  const noise = random(seed);
  const flakes = Array.from({ length: 150 }, (_, i) => ({
    x: (i * 61) % WIDTH,
    y: (i * 37) % HEIGHT,
    fall: 0.4 + (i % 7) * 0.15,
    p: i % 5,
  }));
  return (k) => {
    const picture = seen(ice, 10, 10, noise);
    for (const { x, y, fall, p } of flakes) {
      const [cx, cy] = [x + sway * Math.sin(k / 6 + p), (y + fall * k) % HEIGHT];
      for (let j = Math.max(0, Math.floor(cy) - 2); j < Math.min(HEIGHT, cy + 3); j++)
        for (let i = Math.max(0, Math.floor(cx) - 2); i < Math.min(WIDTH, cx + 3); i++) {
          const share = Math.max(0, Math.min(1, 2.5 - Math.hypot(i - cx, j - cy)));
          picture[j * WIDTH + i] = (picture[j * WIDTH + i] as number) * (1 - share) + 250 * share;
        }
    }
    return picture;
  };
}

/** Steps of which something is said, and what, of so many pictures. */
function told(count: number, picture: (k: number) => Uint8Array, of: typeof missingAt | typeof exchangedAt): [number, number][] {
  const track = new TileTrack(WIDTH, HEIGHT);
  const found: [number, number][] = [];
  // A track remembers so many steps only.
  for (let k = 0; k < count; k++) {
    track.push(picture(k));
    const step = k - 12;
    if (step < 10) continue;
    const value = of(track, step, track.length, never);
    if (value > 0) found.push([step, value]);
  }
  return found;
}

test('a missing picture is found where everything moves its own way', () => {
  const flakes = snow(47, 0);
  expect(told(70, flakes, missingAt)).toEqual([]);
  expect(told(70, (k) => flakes(k < 30 ? k : k + 1), missingAt)).toEqual([[29, 1]]);
  expect(told(70, (k) => flakes(k < 30 ? k : k + 2), missingAt)).toEqual([[29, 2]]);
});

test('pictures in the wrong order are, however they sway', () => {
  const flakes = snow(46, 3);
  expect(told(70, flakes, exchangedAt)).toEqual([]);
  const [found, ...more] = told(70, (k) => flakes(k === 30 ? 31 : k === 31 ? 30 : k), exchangedAt);
  expect(more).toEqual([]);
  expect(found).toEqual([29, expect.closeTo(1, 0)]);
});

test('a step after which a broken one follows says nothing', () => {
  const flakes = snow(47, 0);
  const track = new TileTrack(WIDTH, HEIGHT);
  for (let k = 0; k < 45; k++) track.push(flakes(k < 30 ? k : k + 1));
  expect(missingAt(track, 29, track.length, never)).toBe(1);
  expect(missingAt(track, 29, track.length, (k) => k === 32)).toBe(0);
});
