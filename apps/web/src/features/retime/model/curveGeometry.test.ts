import type { Curve } from '@thawline/core/cadence';
import {
  curveGeometry,
  linePath,
  MARGIN,
  movedHandle,
  movedPin,
  nudgedHandle,
  nudgeOf,
  pinLabel,
  withPinAt,
} from './curveGeometry.js';

const curve: Curve = [
  { frame: 10, picture: 0, way: 'even' },
  { frame: 60, picture: 50, way: 'even' },
  { frame: 110, picture: 200, way: 'even' },
];
const positions = Float64Array.from({ length: 101 }, (_, k) => 2 * k);
const size = { width: 400 + MARGIN.left + MARGIN.right, height: 212 + MARGIN.top + MARGIN.bottom };
const drawn = curveGeometry(size, curve, positions);

test('a place of the drawing is the frame and the picture that are drawn there', () => {
  expect([drawn.across, drawn.up, drawn.span, drawn.top]).toEqual([400, 212, 100, 212]);
  expect([drawn.x(0), drawn.x(100), drawn.y(0), drawn.y(212)]).toEqual([52, 452, 228, 16]);
  for (const [frame, picture] of [
    [0, 0],
    [37, 111],
    [100, 200],
  ] as const) {
    const found = drawn.placeAt(drawn.x(frame), drawn.y(picture));
    expect(found.frame).toBeCloseTo(frame, 9);
    expect(found.picture).toBeCloseTo(picture, 9);
  }
});

test('a drawing without room still has places', () => {
  const none = curveGeometry({ width: 0, height: 0 }, [], new Float64Array(1));
  expect([none.across, none.up, none.span]).toEqual([1, 1, 1]);
  expect(Number.isFinite(none.x(0)) && Number.isFinite(none.y(0))).toBe(true);
});

test('the line has a point a pixel at most, and ends where the stretch does', () => {
  const long = Float64Array.from({ length: 10_001 }, (_, k) => k);
  const points = linePath(curveGeometry(size, [], long), long, 0, 10_000).split('L');
  expect(points.length).toBeLessThanOrEqual(402);
  expect(points[0]).toBe('M52.0 228.0');
  expect(points.at(-1)).toMatch(/^452\.0 /);
  // A stretch may end one past the last frame that there is.
  expect(linePath(drawn, positions, 90, 101).split('L').at(-1)).toBe(`${drawn.x(101).toFixed(1)} ${drawn.y(200).toFixed(1)}`);
});

test('a pin stays between its neighbours and on the pictures that there are', () => {
  const limits = { first: 10, pictures: 201 };
  const at = (index: number, frame: number, picture: number) => {
    const { frame: f, picture: p } = movedPin(curve, index, { frame, picture }, limits)[index] as Curve[number];
    return [f, p];
  };
  expect(at(1, 70.4, 80.6)).toEqual([70, 81]);
  expect(at(1, 5, -3)).toEqual([11, 0]);
  expect(at(1, 400, 999)).toEqual([109, 200]);
  expect(at(0, 0, 5)).toEqual([10, 5]);
  expect(at(2, 5000, 5)).toEqual([5000, 5]);
  expect(curve[1]).toEqual({ frame: 60, picture: 50, way: 'even' });
});

test('arrow keys move by one, with shift by ten', () => {
  expect(['ArrowLeft', 'ArrowUp', 'Enter'].map((key) => nudgeOf(key, false))).toEqual([
    { frame: -1, picture: 0 },
    { frame: 0, picture: 1 },
    null,
  ]);
  expect(nudgeOf('ArrowDown', true)).toEqual({ frame: 0, picture: -10 });
});

test('places are written where there is room: the chosen one always, at the right end to the left of its pin', () => {
  const label = (index: number, chosen: number, frames = [0, 50, 100]) => pinLabel(drawn, curve, frames, { index, chosen });
  expect([0, 1, 2].map((i) => label(i, -1))).toEqual([
    { side: 'right', below: false },
    { side: 'right', below: true },
    // At the upper edge it would be out of the drawing above.
    { side: 'left', below: true },
  ]);
  // Two that are close: the first has no room; chosen, it has, and the other gives way.
  expect(label(0, -1, [0, 10, 100])).toBeNull();
  expect(label(0, 0, [0, 10, 100])).not.toBeNull();
  expect(label(1, 0, [0, 10, 100])).toBeNull();
});

test('a new pin comes between those before and after it, even right beside one', () => {
  const frames = (frame: number) => withPinAt(curve, frame, 20).map((p) => p.frame);
  expect(frames(59)).toEqual([10, 59, 60, 110]);
  expect(frames(61)).toEqual([10, 60, 61, 110]);
  expect(frames(5)).toEqual([5, 10, 60, 110]);
  expect(frames(200)).toEqual([10, 60, 110, 200]);
});

test('a handle stays within its stretch, and goes beyond its ends only where it may run back', () => {
  expect(movedHandle([0.3, 0, 0.7, 1], 0, { x: 0.45, y: 0.2 }, false)).toEqual([0.45, 0.2, 0.7, 1]);
  expect(movedHandle([0.3, 0, 0.7, 1], 1, { x: 1.4, y: 1.3 }, false)).toEqual([0.3, 0, 1, 1]);
  expect(movedHandle([0.3, 0, 0.7, 1], 1, { x: -2, y: 1.05 }, true)).toEqual([0.3, 0, 0, 1.05]);
  expect(movedHandle([0.3, 0, 0.7, 1], 0, { x: 0.12345, y: 0 }, false)[0]).toBe(0.123);
});

test('by keys a handle moves from where it is, one that was never moved from where it is drawn', () => {
  const eased: Curve = curve.map((pin, i) => (i === 1 ? { ...pin, way: 'eased' } : pin));
  const once = nudgedHandle(eased, 1, { index: 1, x: 0, y: -0.05 }, false);
  const twice = nudgedHandle(once, 1, { index: 1, x: 0, y: -0.05 }, false);
  const [was, first, second] = [eased, once, twice].map((pins) => (pins[1] as { handles?: number[] }).handles?.[3]);
  expect(was).toBeUndefined();
  expect((first ?? 0) - (second ?? 0)).toBeCloseTo(0.05, 9);
  expect([once[0], once[2]]).toEqual([eased[0], eased[2]]);
});
