import { frameAtOrBefore, rate } from '../time/index.js';
import {
  type Curve,
  cadenceFacts,
  curveFault,
  curveParts,
  EASE,
  eased,
  exactPositionAt,
  type Mapping,
  type Pin,
  positionAt,
  SHARES,
  slowPins,
  stepMap,
} from './index.js';
import { exposures } from './shutter.js';
import { earliestHead, furthestRun, longestRun } from './stepmap.js';

const pin = (frame: number, picture: number, way: Pin['way'] = 'even', handles?: Pin['handles']): Pin => ({
  frame,
  picture,
  way,
  ...(handles ? { handles } : {}),
});
/** 800 pictures of 100 in 25, made by motion. */
const mapping = (curve: Curve, more: Partial<Mapping> = {}): Mapping => ({
  timing: { kind: 'constant', rate: rate(100), pictures: 800 },
  timeline: rate(25),
  fit: 'motion',
  inPicture: 0,
  headTrim: 0,
  length: 400,
  curve,
  ...more,
});
const exactly = (map: Mapping, n: number): number => {
  const { picture, nextShare } = exactPositionAt(map, n, SHARES);
  return picture + nextShare / SHARES;
};

describe('between pins', () => {
  test('an even stretch goes at one speed, in whole numbers where it can', () => {
    const map = mapping([pin(0, 0), pin(124, 415), pin(260, 563)]);
    expect(exactly(map, 0)).toBe(0);
    expect(exactly(map, 62)).toBe(207.5);
    expect(positionAt(map, 124)).toEqual({ picture: 415, nextShare: 0 });
    // 148 pictures in 136 frames: frame 130 is 6 * 148 / 136 after the pin, rounded down to its parts.
    expect(positionAt(map, 130)).toEqual({ picture: 421, nextShare: Math.floor(((6 * 148) / 136 - 6) * SHARES) });
  });

  test('running backward is a curve like another, shares still counting forward', () => {
    const map = mapping([pin(0, 100), pin(80, 0)]);
    expect(exactly(map, 1)).toBe(98.75);
    expect(exactPositionAt(map, 1, 4)).toEqual({ picture: 98, nextShare: 3 });
    expect(positionAt({ ...map, fit: 'nearest' }, 1)).toEqual({ picture: 98, nextShare: 0 });
    expect(exactly(map, 80)).toBe(0);
  });

  test('a held stretch stands on its picture, and goes on from the next pin', () => {
    const map = mapping([pin(10, 40, 'held'), pin(35, 40)]);
    for (const n of [10, 20, 34]) expect(positionAt(map, n)).toEqual({ picture: 40, nextShare: 0 });
    expect(exactly(map, 36)).toBe(44);
  });

  test('eased stretches never turn while their handles stay between the pins', () => {
    let worst = Number.POSITIVE_INFINITY;
    for (let k = 0; k < 256; k++) {
      const handles = [k & 3, (k >> 2) & 3, (k >> 4) & 3, k >> 6].map((v) => v / 3) as unknown as Pin['handles'];
      const ease = pin(0, 0, 'eased', handles);
      let before = 0;
      for (let n = 1; n < 97; n++) {
        const at = curveParts(ease, pin(97, 60), n, SHARES);
        worst = Math.min(worst, at - before);
        before = at;
      }
    }
    expect(worst).toBeGreaterThanOrEqual(0);
  });

  test('easing gives the same back mirrored, passes its middle, and agrees with the line where the handles lie on it', () => {
    expect(eased(EASE, 0.5)).toBeCloseTo(0.5, 12);
    for (const x of [0, 0.1, 0.31, 0.77, 1]) {
      expect(eased(EASE, x) + eased(EASE, 1 - x)).toBeCloseTo(1, 12);
      expect(eased([0.2, 0.2, 0.7, 0.7], x)).toBeCloseTo(x, 12);
      // Handles at a third each: 3t^2 - 2t^3, as x is t itself.
      expect(eased(EASE, x)).toBeCloseTo(3 * x * x - 2 * x ** 3, 12);
    }
  });
});

describe('beyond the pins', () => {
  test('pictures pass as they would without a curve, whatever the timing', () => {
    const curve = [pin(50, 300), pin(80, 310)];
    const map = mapping(curve);
    expect(exactly(map, 0)).toBe(100);
    expect(exactly(map, 100)).toBe(390);
    const ticks = Array.from({ length: 90 }, (_, k) => k * 40 + (k % 3));
    const variable = { kind: 'variable' as const, ticks, end: 3600, timeBase: rate(1000) };
    const uneven = mapping([pin(5, 10), pin(20, 12)], { timing: variable });
    const plain = { ...uneven, curve: null, inPicture: 12, headTrim: -20 };
    for (let n = 20; n < 70; n++) expect(positionAt(uneven, n)).toEqual(positionAt(plain, n));
  });

  test('trimming a head moves the clip, not the curve', () => {
    const whole = mapping([pin(20, 90), pin(90, 120)]);
    const trimmed = { ...whole, headTrim: 33, length: 100 };
    for (let n = 0; n < 100; n++) expect(positionAt(trimmed, n)).toEqual(positionAt(whole, n + 33));
  });

  test('a run ends with the last picture, and a head begins with the first', () => {
    const map = mapping([pin(50, 300), pin(80, 310)]);
    // 490 pictures are left after the last pin, four to a frame.
    expect(furthestRun(map)).toBe(80 + 123);
    expect(longestRun(map)).toBe(80 + frameAtOrBefore(490, rate(100), rate(25)));
    expect(earliestHead(map)).toBe(50 - 75);
    expect(furthestRun(mapping([pin(0, 799), pin(400, 0)]))).toBeGreaterThanOrEqual(400);
  });
});

test('slow here: normal before and after, exactly as slow as asked between, and no step in speed', () => {
  const pins = slowPins({ frame: 100, picture: 400, normal: 4, speed: 0.25, ramp: 20, slow: 100 });
  expect(pins.map((p) => [p.frame, p.picture])).toEqual([
    [100, 400],
    [120, 450],
    [220, 550],
    [240, 600],
  ]);
  const map = mapping(pins);
  const speeds = Array.from({ length: 200 }, (_, n) => exactly(map, n + 60) - exactly(map, n + 59));
  expect(speeds[0]).toBe(4);
  expect(speeds[100]).toBe(1);
  expect(speeds.at(-1)).toBe(4);
  // Evenly from one speed to the other: 3 pictures a frame less over 20 frames.
  for (const [i, speed] of speeds.entries()) expect(Math.abs(speed - (speeds[i - 1] ?? speed))).toBeLessThan(0.151);
});

test('a curve has steps, not hitches; nothing is made where pictures are taken whole', () => {
  const map = stepMap(mapping([pin(0, 0), pin(100, 130)], { fit: 'nearest', length: 100 }));
  expect([...map.hitches]).toEqual([]);
  expect(map.nextShare.every((share) => share === 0)).toBe(true);
  expect(map.pictures[99]).toBe(128);
});

test('the speed of a curve is its pictures against those they were taken at, from the first frame to the last', () => {
  const even = mapping([pin(0, 0), pin(100, 130)], { length: 20 });
  expect(cadenceFacts(even, stepMap(even)).speed).toBeCloseTo(1.3 / 4, 3);
  const back = mapping([pin(0, 400), pin(100, 0)], { length: 20 });
  expect(cadenceFacts(back, stepMap(back)).speed).toBeCloseTo(-1, 3);
});

test('a shutter on a curve sees what passes while it is open, backward too', () => {
  const forward = exposures(mapping([pin(0, 0), pin(10, 200)]), 3, 180);
  expect(forward.map((e) => e.picture)).toEqual([60, 61, 62, 63, 64, 65, 66, 67, 68, 69]);
  const backward = exposures(mapping([pin(0, 200), pin(10, 0)]), 3, 180);
  expect(backward.map((e) => e.picture)).toEqual([130, 131, 132, 133, 134, 135, 136, 137, 138, 139]);
});

test('pins that are no curve are told apart', () => {
  expect(curveFault([pin(0, 0), pin(9, 799)], 800)).toBeNull();
  expect(curveFault([], 800)).toBe('no-pins');
  expect(curveFault([pin(4, 0), pin(4, 9)], 800)).toBe('two-on-a-frame');
  expect(curveFault([pin(4, 0), pin(3, 9)], 800)).toBe('two-on-a-frame');
  expect(curveFault([pin(0, 0), pin(9, 800)], 800)).toBe('past-source');
  const wild = [pin(0, 0, 'eased', [0.3, 1.4, 0.6, -0.2]), pin(9, 10)];
  expect(curveFault(wild, 800)).toBe('bad-handles');
  expect(curveFault(wild, 800, true)).toBeNull();
  expect(curveFault([pin(0, 0, 'eased', [1.2, 0, 0.6, 1]), pin(9, 10)], 800, true)).toBe('bad-handles');
});
