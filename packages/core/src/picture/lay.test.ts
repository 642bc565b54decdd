import {
  after,
  areaOf,
  cornersOf,
  inverted,
  type Laid,
  layPicture,
  meet,
  type PixelLayout,
  PLAIN_POSE,
  type Pose,
  pictureBytes,
  pixelLayout,
  placeBox,
  pointBy,
  turnFreely,
  turnQuarters,
  withAlpha,
} from './index.js';

const layoutOf = (name: string): PixelLayout => pixelLayout(name) as PixelLayout;
const FRAME = { width: 64, height: 48 };
const posed = (pose: Partial<Pose>, source = FRAME): Laid => layPicture(source, FRAME, { pose: { ...PLAIN_POSE, ...pose } });

test('nothing done by hand is what the framing says', () => {
  for (const source of [FRAME, { width: 30, height: 48 }, { width: 128, height: 48 }])
    for (const framing of ['inside', 'fill', 'as-is', 'stretch'] as const) {
      const own = layPicture(source, FRAME, { framing });
      expect(own.bounds).toEqual(placeBox(source, FRAME, framing));
      expect(layPicture(source, FRAME, { framing, pose: PLAIN_POSE })).toEqual({
        ...own,
        // The same numbers, and no negative zero.
        matrix: expect.objectContaining({ a: 1, d: 1, e: own.bounds.x, f: own.bounds.y }),
      });
    }
  expect(layPicture({ width: 30, height: 48 }, FRAME, { framing: 'stretch' }).covers).toBe(true);
  expect(layPicture({ width: 30, height: 48 }, FRAME).covers).toBe(false);
});

test('the anchor stays where it is, however the picture is scaled and turned', () => {
  for (const anchor of [
    [0.5, 0.5],
    [0, 0],
    [1, 0.25],
  ] as const)
    for (const turn of [0, 17, 90, 200.5, 270]) {
      const [anchorX, anchorY] = anchor;
      const { matrix, raster } = posed({ anchorX, anchorY, turn, scaleX: 0.5, scaleY: 0.75, x: 0.25, y: -0.125 });
      const at = pointBy(matrix, { x: anchorX * raster.width, y: anchorY * raster.height });
      // Quarters stand at whole pixels.
      expect(Math.abs(at.x - (anchorX * 64 + 16))).toBeLessThanOrEqual(0.5);
      expect(Math.abs(at.y - (anchorY * 48 - 6))).toBeLessThanOrEqual(0.5);
    }
});

test('what is cut off moves nothing, and what is left is where it was', () => {
  const whole = posed({ x: 0.25 });
  const cut = posed({ x: 0.25, crop: { left: 0.25, top: 0, right: 0.125, bottom: 0.5 } });
  expect(cut.matrix).toEqual(whole.matrix);
  expect(cut.kept).toEqual({ x: 16, y: 0, width: 40, height: 24 });
  expect(cut.bounds).toEqual({ x: 32, y: 0, width: 40, height: 24 });
});

test('a turned picture covers the frame only where no corner is left', () => {
  expect(posed({ turn: 10 }).covers).toBe(false);
  expect(posed({ turn: 10, scaleX: 2, scaleY: 2 }).covers).toBe(true);
  expect(posed({ turn: 90 }).covers).toBe(false);
  expect(posed({ turn: 180 }).covers).toBe(true);
  expect(posed({ turn: 180, crop: { ...PLAIN_POSE.crop, left: 0.1 } }).covers).toBe(false);
});

test('however large it is made, no more pixels are asked for than can be held, and it is as large all the same', () => {
  const frame = { width: 1920, height: 1080 };
  const pose = { ...PLAIN_POSE, scaleX: 20, scaleY: 20, x: 3 };
  const { raster, matrix, quarters, bounds } = layPicture(frame, frame, { pose });
  expect(raster.width * raster.height).toBeLessThanOrEqual(4096 * 4096 * 1.01);
  expect(quarters).toBeNull();
  const [left, right] = [0, raster.width].map((x) => pointBy(matrix, { x, y: 0 }).x) as [number, number];
  expect(right - left).toBeCloseTo(20 * 1920, 3);
  expect((left + right) / 2).toBeCloseTo(960 + 3 * 1920, 3);
  expect(bounds).toEqual({ x: 0, y: 0, ...frame });
  // As large as its framing makes it, it is taken whole.
  const large = { width: 8192, height: 8192 };
  expect(layPicture(large, large, { pose: { ...PLAIN_POSE, x: 0.5 } }).raster).toEqual(large);
});

test('an affine and its inverse, one after the other, are nothing', () => {
  const { matrix } = posed({ turn: 33, scaleX: 1.5, x: 0.1 });
  const same = after(matrix, inverted(matrix));
  for (const [key, want] of Object.entries({ a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 }))
    expect(same[key as keyof typeof same]).toBeCloseTo(want, 9);
});

test('polygons meet as their areas say', () => {
  const square = cornersOf({ x: 0, y: 0, width: 1, height: 1 });
  expect(areaOf(meet(square, cornersOf({ x: 0.5, y: -1, width: 3, height: 3 })))).toBeCloseTo(0.5, 9);
  expect(meet(square, cornersOf({ x: 2, y: 2, width: 1, height: 1 }))).toEqual([]);
  const diamond = [
    { x: 0.5, y: -0.5 },
    { x: 1.5, y: 0.5 },
    { x: 0.5, y: 1.5 },
    { x: -0.5, y: 0.5 },
  ];
  expect(areaOf(meet(diamond, square))).toBeCloseTo(1, 9);
  expect(areaOf(meet(square, [...diamond].reverse()))).toBeCloseTo(1, 9);
});

test.each(['yuv420p', 'yuv422p10le', 'yuva444p', 'gray'])('four quarters of %s bring every sample back', (name) => {
  const layout = layoutOf(name);
  const picture = Uint8Array.from({ length: pictureBytes(layout, 64, 48) }, (_, i) =>
    layout.bytes === 2 && i % 2 === 1 ? i % 4 : (i * 7) % 256,
  );
  // 4:2:2 has halves one way alone: half turns are all it knows.
  const turns = name.includes('422') ? [180, 180] : [90, 90, 90, 90];
  let [now, size] = [picture, { width: 64, height: 48 }];
  for (const turn of turns) {
    const laid = layPicture(size, { width: 64, height: 64 }, { framing: 'as-is', pose: { ...PLAIN_POSE, turn } });
    const out = new Uint8Array(pictureBytes(layout, laid.bounds.width, laid.bounds.height));
    turnQuarters(layout, laid, now, out);
    if (turn === 90) expect(Buffer.compare(out, now)).not.toBe(0);
    [now, size] = [out, laid.bounds];
  }
  expect(Buffer.compare(now, picture)).toBe(0);
});

test('a quarter turns clockwise: the first row becomes the last column', () => {
  const layout = layoutOf('gray');
  const laid = layPicture(
    { width: 4, height: 2 },
    { width: 8, height: 8 },
    { framing: 'as-is', pose: { ...PLAIN_POSE, turn: 90 } },
  );
  const out = new Uint8Array(8);
  turnQuarters(layout, laid, Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8), out);
  expect([...out]).toEqual([5, 1, 6, 2, 7, 3, 8, 4]);
});

const smooth = (x: number, y: number): number => 128 + 60 * Math.sin(x / 5) * Math.cos(y / 7);

test('turned by any angle a smooth picture is what it is there, to a step; outside it nothing is', () => {
  const flat = layoutOf('yuv444p');
  const layout = layoutOf('yuva444p');
  const n = 64 * 48;
  const opaque = Uint8Array.from({ length: 3 * n }, (_, i) =>
    i < n ? Math.round(smooth((i % 64) + 0.5, Math.floor(i / 64) + 0.5)) : 100,
  );
  const picture = new Uint8Array(4 * n);
  withAlpha(flat, opaque, picture);
  const laid = posed({ turn: 23, crop: { left: 0.125, top: 0.125, right: 0.125, bottom: 0.125 } });
  const { bounds, matrix, kept } = laid;
  const m = bounds.width * bounds.height;
  const out = new Uint8Array(4 * m);
  turnFreely(layout, laid, picture, { full: false, out });
  const back = inverted(matrix);
  let [inner, outer] = [0, 0];
  for (let i = 0; i < m; i++) {
    const { x, y } = pointBy(back, { x: bounds.x + (i % bounds.width) + 0.5, y: bounds.y + Math.floor(i / bounds.width) + 0.5 });
    const edge = Math.min(x - kept.x, y - kept.y, kept.x + kept.width - x, kept.y + kept.height - y);
    if (edge > 2) {
      inner++;
      expect(Math.abs((out[i] as number) - smooth(x, y))).toBeLessThan(1.5);
      expect([out[m + i], out[3 * m + i]]).toEqual([100, 255]);
    }
    if (edge < -1.5) {
      outer++;
      expect([out[i], out[m + i], out[3 * m + i]]).toEqual([16, 128, 0]);
    }
  }
  expect(inner).toBeGreaterThan(1000);
  expect(outer).toBeGreaterThan(300);
});

test('turned there and back a picture is as before, but for what a cubic softens', () => {
  const layout = layoutOf('yuva444p');
  const n = 64 * 48;
  const picture = Uint8Array.from({ length: 4 * n }, (_, i) =>
    i < n ? Math.round(smooth(i % 64, Math.floor(i / 64))) : i < 3 * n ? 128 : 255,
  );
  const there = layPicture(FRAME, { width: 100, height: 100 }, { framing: 'as-is', pose: { ...PLAIN_POSE, turn: 30 } });
  const out = new Uint8Array(4 * there.bounds.width * there.bounds.height);
  turnFreely(layout, there, picture, { full: false, out });
  const home = layPicture(there.bounds, FRAME, { framing: 'as-is', pose: { ...PLAIN_POSE, turn: -30 } });
  const back = new Uint8Array(4 * home.bounds.width * home.bounds.height);
  turnFreely(layout, home, out, { full: false, out: back });
  const at = (x: number, y: number): number => back[(y - home.bounds.y) * home.bounds.width + x - home.bounds.x] as number;
  for (const [x, y] of [
    [20, 20],
    [40, 30],
    [32, 10],
  ] as const) {
    const between = pointBy(inverted(home.matrix), { x: x + 0.5, y: y + 0.5 });
    const first = pointBy(inverted(there.matrix), { x: between.x + there.bounds.x, y: between.y + there.bounds.y });
    expect(Math.abs(at(x, y) - smooth(first.x - 0.5, first.y - 0.5))).toBeLessThan(2);
  }
});
