import { drawView, viewOf } from './index.js';

const SPHERE = { width: 360, height: 180 };
const VIEW = { width: 41, height: 21 };
const MIDDLE = 10 * 41 + 20;
const middle = (places: Float32Array): [number, number] => [places[2 * MIDDLE] as number, places[2 * MIDDLE + 1] as number];

test('straight ahead is the middle of the picture, behind is its seam, up is its upper edge', () => {
  const at = (yaw: number, pitch: number) => middle(viewOf(SPHERE, { yaw, pitch, wide: 90 }, VIEW)).map((n) => n + 0.5);
  expect(at(0, 0)).toEqual([expect.closeTo(180, 3), expect.closeTo(90, 3)]);
  expect(at(90, 0)).toEqual([expect.closeTo(270, 3), expect.closeTo(90, 3)]);
  expect(at(180, 0)[0] as number).toBeCloseTo(0, 3);
  expect(at(0, 90)[1] as number).toBeCloseTo(0, 3);
  expect(at(0, -45)).toEqual([expect.closeTo(180, 3), expect.closeTo(135, 3)]);
});

test('from edge to edge it is as wide as is said', () => {
  const view = { width: 1001, height: 3 };
  const places = viewOf(SPHERE, { yaw: 0, pitch: 0, wide: 100 }, view);
  const row = 1001 * 2;
  // Middles of the outermost pixels are a little inside.
  expect((places[row + 2000] as number) - (places[row] as number)).toBeCloseTo(100, 0);
});

test('looking at the seam both edges meet without a step', () => {
  const data = new Uint8ClampedArray(4 * 360 * 180);
  for (let i = 0; i < 360 * 180; i++) {
    const lon = ((i % 360) + 0.5) / 180;
    data.set([128 + 100 * Math.cos(lon * Math.PI), 60, 60, 255], 4 * i);
  }
  const out = new Uint8ClampedArray(4 * VIEW.width * VIEW.height);
  drawView({ data, ...SPHERE }, viewOf(SPHERE, { yaw: 180, pitch: 0, wide: 60 }, VIEW), out);
  const row = Array.from({ length: VIEW.width }, (_, i) => out[4 * (10 * 41 + i)] as number);
  const steps = row.slice(1).map((v, i) => Math.abs(v - (row[i] as number)));
  expect(Math.max(...steps)).toBeLessThan(6);
  // Lightest at the seam itself.
  expect(row[20]).toBe(Math.max(...row));
  expect(out[4 * MIDDLE + 3]).toBe(255);
});
