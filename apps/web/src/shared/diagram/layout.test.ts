import { type Fit, type Mapping, stepMap } from '@thawline/core/cadence';
import { constantTiming, rate } from '@thawline/core/time';
import { columnsOf, layoutWeave, placeOfPicture } from './layout.js';

function mapping(
  source: ReturnType<typeof rate>,
  timeline: ReturnType<typeof rate>,
  fit: Fit = 'nearest',
  headTrim = 0,
): Mapping {
  return { timing: constantTiming(source, 500), timeline, fit, inPicture: 0, headTrim, length: 200 };
}

const ntsc = mapping(rate(30000, 1001), rate(25));

test('29.97 in 25: a skipped picture stands before every hitch, and nowhere else', () => {
  const map = stepMap(ntsc);
  const layout = layoutWeave(ntsc, map, 20, 60);
  const hitches = layout.frames.filter((f) => f.hitch && f.frame > 20);
  const skipped = layout.pictures.filter((p) => p.skipped).map((p) => p.picture);
  expect(skipped).toEqual(hitches.map((f) => (f.threads[0]?.picture ?? 0) - 1));
});

test('every frame has a thread to the picture its step map names', () => {
  const map = stepMap(ntsc);
  for (const frame of layoutWeave(ntsc, map, 0, 200).frames) expect(frame.threads[0]?.picture).toBe(map.pictures[frame.frame]);
});

test('a held picture has two threads and no empty box', () => {
  const held = mapping(rate(24), rate(25));
  const layout = layoutWeave(held, stepMap(held), 0, 50);
  expect(layout.frames.filter((f) => f.state === 'held')).toHaveLength(2);
  expect(layout.pictures.some((p) => p.skipped)).toBe(false);
});

test('on a curve pictures lie where the frames pass them, slow or backward', () => {
  const pins = [
    { frame: 0, picture: 40, way: 'even' as const },
    { frame: 20, picture: 30, way: 'even' as const },
    { frame: 40, picture: 90, way: 'even' as const },
  ];
  const curved: Mapping = { ...mapping(rate(25), rate(25), 'motion'), curve: pins, length: 60 };
  const back = layoutWeave(curved, stepMap(curved), 0, 20);
  // Half a picture a frame: each picture two frames before the next lower one.
  for (const p of back.pictures) expect(p.at).toBeCloseTo((40 - p.picture) * 2, 6);
  const fast = layoutWeave(curved, stepMap(curved), 25, 35);
  expect(fast.pictures.filter((p) => p.skipped).length).toBeGreaterThan(15);
  for (const p of fast.pictures) expect(p.at).toBeCloseTo(20 + (p.picture - 30) / 3, 6);
});

test('a blend hangs between two pictures, shares adding to one', () => {
  const blend = mapping(rate(30), rate(20), 'blend');
  const [, second] = layoutWeave(blend, stepMap(blend), 0, 10).frames;
  expect(second?.threads.map((t) => t.picture)).toEqual([1, 2]);
  expect(second?.threads.reduce((sum, t) => sum + t.share, 0)).toBeCloseTo(1, 9);
});

test('an open shutter hangs on all that it sees, and its frames are told as what they are', () => {
  const fast = { ...mapping(rate(100), rate(25)), shutterDegrees: 270 };
  const layout = layoutWeave(fast, stepMap(fast), 0, 10);
  expect(layout.frames[1]).toMatchObject({ state: 'blended', step: 4 });
  expect(layout.frames[1]?.threads.map((t) => [t.picture, t.share])).toEqual([4, 5, 6].map((p) => [p, expect.closeTo(1 / 3, 4)]));
  // Every fourth picture falls into the time the shutter is shut.
  expect(layout.pictures.filter((p) => p.skipped).map((p) => p.picture % 4)).toEqual(Array(9).fill(3));
  expect(columnsOf(fast, stepMap(fast), { from: 0, to: 100, columns: 4 }).map((c) => c.blended)).toEqual([25, 25, 25, 25]);
});

test('pictures stand at their own time, also when the head is trimmed', () => {
  expect(placeOfPicture(mapping(rate(50), rate(25)), 10)).toBe(5);
  expect(placeOfPicture(mapping(rate(50), rate(25), 'nearest', 3), 10)).toBe(2);
  expect(placeOfPicture(mapping(rate(50), rate(25), 'pictures'), 10)).toBe(10);
});

test('a window past the ends holds what there is', () => {
  expect(layoutWeave(ntsc, stepMap(ntsc), -20, 5).frames.map((f) => f.frame)).toEqual([0, 1, 2, 3, 4]);
  expect(layoutWeave(ntsc, stepMap(ntsc), 300, 320)).toEqual({ pictures: [], frames: [] });
});

test('every frame and every hitch counts in one column, however many there are', () => {
  const map = stepMap(ntsc);
  for (const columns of [1, 7, 200]) {
    const found = columnsOf(ntsc, map, { from: 0, to: 200, columns });
    expect(found).toHaveLength(columns);
    expect(found.reduce((n, c) => n + c.frames, 0)).toBe(200);
    expect(found.reduce((n, c) => n + c.hitches, 0)).toBe(map.hitches.length);
  }
  expect(columnsOf(ntsc, map, { from: 50, to: 60, columns: 5 }).map((c) => c.frames)).toEqual([2, 2, 2, 2, 2]);
});
