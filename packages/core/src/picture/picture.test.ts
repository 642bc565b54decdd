import {
  blackSamples,
  codedAs,
  differenceRgba,
  fillWith,
  layOver,
  mix8,
  mix16,
  overlay,
  paintSamples,
  pictureBytes,
  pictureLosses,
  pixelLayout,
  pixelWords,
  placeBox,
  placePicture,
  rgbaToYuv420,
  shrinkPlane,
  workingFormat,
  yuv420ToRgba,
} from './index.js';

const YUV = pixelLayout('yuv420p');
if (!YUV) throw new Error('no layout');

test('knows planar layouts and odd sizes', () => {
  expect(pictureBytes(YUV, 5, 3)).toBe(15 + 2 * 3 * 2);
  expect(pixelLayout('yuv422p10le')).toMatchObject({ bytes: 2, bits: 10 });
  expect(pixelLayout('nv12')).toBeNull();
});

test("a screen's colours go to video levels and back within two steps, black and white exactly", () => {
  const colours = [
    [0, 0, 0],
    [255, 255, 255],
    [200, 40, 90],
    [12, 180, 220],
    [128, 128, 128],
  ] as const;
  for (const colour of colours) {
    const rgba = Uint8ClampedArray.from({ length: 4 * 4 * 2 }, (_, i) => (i % 4 === 3 ? 255 : (colour[i % 4] as number)));
    const yuv = new Uint8Array(12);
    rgbaToYuv420(rgba, 4, 2, yuv);
    const back = new Uint8ClampedArray(rgba.length);
    yuv420ToRgba(yuv, 4, 2, back);
    const off = Math.max(...[...back].map((value, i) => Math.abs(value - (rgba[i] as number))));
    expect(off).toBeLessThanOrEqual(colour[0] === colour[1] ? 1 : 2);
    if (colour[0] === 0) expect([...yuv]).toEqual([16, 16, 16, 16, 16, 16, 16, 16, 128, 128, 128, 128]);
    if (colour[0] === 255) expect(yuv[0]).toBe(235);
  }
});

test('a mix of shares 0 and 256 is one picture, bit for bit', () => {
  const a = Uint8Array.of(0, 10, 255);
  const b = Uint8Array.of(255, 20, 0);
  const out = new Uint8Array(3);
  mix8(a, b, 0, out);
  expect([...out]).toEqual([...a]);
  mix8(a, b, 256, out);
  expect([...out]).toEqual([...b]);
  mix8(a, b, 128, out);
  expect([...out]).toEqual([128, 15, 128]);
  const wide = new Uint16Array(1);
  mix16(Uint16Array.of(0), Uint16Array.of(1023), 64, wide);
  expect(wide[0]).toBe(256);
});

test.each([
  [
    { width: 640, height: 360 },
    { width: 1920, height: 1080 },
    { x: 0, y: 0, width: 1920, height: 1080 },
  ],
  [
    { width: 640, height: 480 },
    { width: 1920, height: 1080 },
    { x: 240, y: 0, width: 1440, height: 1080 },
  ],
  [
    { width: 1080, height: 1920 },
    { width: 1280, height: 720 },
    { x: 436, y: 0, width: 406, height: 720 },
  ],
])('fits %p inside %p without stretching', (source, frame, box) => {
  expect(placeBox(source, frame)).toEqual(box);
});

test('places a picture in a black frame and nowhere else', () => {
  const frame = { width: 8, height: 4 };
  const out = new Uint8Array(pictureBytes(YUV, 8, 4));
  fillWith(YUV, { width: 8, height: 4, out, over: blackSamples(YUV) });
  const picture = new Uint8Array(pictureBytes(YUV, 4, 4)).fill(200);
  placePicture(YUV, { picture, box: { x: 2, y: 0, width: 4, height: 4 }, frame, out });
  expect([...out.subarray(0, 8)]).toEqual([16, 16, 200, 200, 200, 200, 16, 16]);
  expect([...out.subarray(32, 36)]).toEqual([128, 200, 200, 128]);
});

test('shrinking keeps the mean, also where the size does not divide', () => {
  const data = Uint8Array.from({ length: 7 * 5 }, (_, i) => (i * 37) % 256);
  const out = new Uint8Array(1);
  shrinkPlane({ data, width: 7, height: 5, out, outWidth: 1, outHeight: 1 });
  expect(out[0]).toBe(Math.round(data.reduce((a, b) => a + b, 0) / 35));
  const same = new Uint8Array(35);
  shrinkPlane({ data, width: 7, height: 5, out: same, outWidth: 7, outHeight: 5 });
  expect([...same]).toEqual([...data]);
});

test('a difference of equal pictures is black', () => {
  const a = Uint8ClampedArray.of(10, 20, 30, 255);
  const out = new Uint8ClampedArray(4);
  differenceRgba(a, a, 16, out);
  expect([...out]).toEqual([0, 0, 0, 255]);
  differenceRgba(a, Uint8ClampedArray.of(10, 23, 30, 255), 4, out);
  expect([...out]).toEqual([12, 12, 12, 255]);
});

test('a picture fills the frame or lies pixel for pixel; what is cut off is known', () => {
  const [old, wide] = [
    { width: 720, height: 576 },
    { width: 1920, height: 1080 },
  ];
  expect(placeBox(old, wide, 'fill')).toEqual({ x: 0, y: -228, width: 1920, height: 1536 });
  expect(placeBox(old, wide, 'as-is')).toEqual({ x: 600, y: 252, width: 720, height: 576 });
  expect(placeBox({ width: 3840, height: 2160 }, wide, 'as-is')).toEqual({ x: -960, y: -540, width: 3840, height: 2160 });
});

test('what reaches over the edges of the frame is cut, plane by plane', () => {
  const layout = pixelLayout('yuv420p') as NonNullable<ReturnType<typeof pixelLayout>>;
  const picture = Uint8Array.from({ length: pictureBytes(layout, 8, 4) }, (_, i) => i);
  const frame = { width: 4, height: 8 };
  const out = new Uint8Array(pictureBytes(layout, 4, 8));
  fillWith(layout, { width: 4, height: 8, out, over: blackSamples(layout) });
  placePicture(layout, { picture, box: { x: -2, y: 2, width: 8, height: 4 }, frame, out });
  expect([...out.subarray(0, 12)]).toEqual([16, 16, 16, 16, 16, 16, 16, 16, 2, 3, 4, 5]);
  expect([...out.subarray(32, 40)]).toEqual([128, 128, 33, 34, 37, 38, 128, 128]);
});

test.each([
  ['left', 0, 0.5],
  ['topleft', 0, 0],
  ['center', 0.5, 0.5],
  ['bottomleft', 0, 1],
] as const)('colour of a layer is where its light is, in frames whose halved chroma lies %s', (siting, across, down) => {
  const over = pixelLayout('yuva444p') as NonNullable<ReturnType<typeof pixelLayout>>;
  const [width, height] = [48, 32];
  const n = width * height;
  const middle = { x: 21, y: 15 };
  const picture = new Uint8Array(4 * n)
    .fill(100, 0, n)
    .fill(128, n, 3 * n)
    .fill(255, 3 * n);
  for (let i = 0; i < n; i++)
    picture[n + i] =
      128 + Math.round(100 * Math.exp(-(((i % width) - middle.x) ** 2 + (Math.floor(i / width) - middle.y) ** 2) / 12));
  const frame = { width, height };
  const out = new Uint8Array(pictureBytes(YUV, width, height)).fill(128, n);
  overlay(over, YUV, { picture, box: { x: 0, y: 0, ...frame }, frame, full: false, siting, out });
  let [sum, x, y] = [0, 0, 0];
  for (let i = 0; i < n / 4; i++) {
    const value = (out[n + i] as number) - 128;
    sum += value;
    x += value * (i % (width / 2));
    y += value * Math.floor(i / (width / 2));
  }
  expect(Math.abs((2 * x) / sum + across - middle.x)).toBeLessThan(0.05);
  expect(Math.abs((2 * y) / sum + down - middle.y)).toBeLessThan(0.05);
});

test('a picture with alpha over a frame: colour for several pixels takes its part of each', () => {
  const over = pixelLayout('yuva444p') as NonNullable<ReturnType<typeof pixelLayout>>;
  const frame = { width: 4, height: 2 };
  const out = new Uint8Array(pictureBytes(YUV, 4, 2)).fill(100, 0, 8).fill(128, 8);
  // Two by two pixels at (2, 0): the left column opaque and light, with colour, the right one not there.
  const picture = Uint8Array.of(...[200, 16, 200, 16], ...[168, 128, 168, 128], ...[128, 128, 128, 128], ...[255, 0, 255, 0]);
  overlay(over, YUV, { picture, box: { x: 2, y: 0, width: 2, height: 2 }, frame, full: false, out });
  expect([...out.subarray(0, 8)]).toEqual([100, 100, 200, 100, 100, 100, 200, 100]);
  // Half of the block has 40 more than no colour.
  expect([...out.subarray(8)]).toEqual([128, 148, 128, 128]);
  const half = new Uint8Array(12).fill(100, 0, 8).fill(128, 8);
  layOver(YUV, {
    picture: Uint8Array.of(200, 200, 200, 200, 128, 128),
    box: { x: 2, y: 0, width: 2, height: 2 },
    frame,
    opacity: 0.5,
    out: half,
  });
  expect([...half.subarray(0, 8)]).toEqual([100, 100, 150, 150, 100, 100, 150, 150]);
});

test('colour for every fourth pixel of a line has all lines: halved down it loses some', () => {
  expect(pictureLosses('yuv411p', 'yuv420p')).toEqual(['colour of 4:1:1 becomes that of 4:2:0']);
  expect(pictureLosses('yuv411p', 'yuv422p')).toEqual([]);
  expect(pictureLosses('yuv440p', 'yuv422p')).toEqual(['colour of 4:4:0 becomes that of 4:2:2']);
});

test('formats are told by name: what planar one holds their samples, and what a coder loses of them', () => {
  expect(
    ['nv12', 'rgb24', 'bgra', 'p010le', 'yuyv422', 'ya8', 'pal8', 'rgb48be', 'yuv411p', 'gbrpf32le'].map(workingFormat),
  ).toEqual([...['yuv420p', 'gbrp', 'gbrap', 'yuv420p10le', 'yuv422p', 'gbrap', 'gbrap', 'gbrp16le', 'yuv422p', 'gbrp16le']]);
  expect(codedAs('h264', 'yuv444p12le')).toEqual({ format: 'yuv444p10le', losses: ['depth'] });
  expect(codedAs('prores', 'gbrap')).toEqual({ format: 'yuva444p10le', losses: ['model'] });
  expect(codedAs('ffv1', 'yuva420p12le').losses).toEqual([]);
  expect(pictureLosses('yuva422p10le', 'yuv420p')).toEqual([
    'alpha is not kept',
    'colour of 4:2:2 becomes that of 4:2:0',
    '10 bit becomes 8',
  ]);
  expect(pixelWords('yuva444p10le')).toBe('4:4:4, 10 bit, with alpha');
});

test('a colour of a screen among pictures of high range: white is 203 cd/m2 (BT.2408), black stays black', () => {
  const layout = pixelLayout('yuv444p10le') as NonNullable<ReturnType<typeof pixelLayout>>;
  const wide = { matrix: 'bt2020nc', range: 'limited', primaries: 'bt2020' } as const;
  const luma = (paint: readonly [number, number, number], transfer: string): number[] =>
    paintSamples(layout, paint, { ...wide, transfer });
  // BT.2408, table 1: reference white at 58 % of PQ and 75 % of HLG.
  expect(luma([255, 255, 255], 'smpte2084')).toEqual([64 + Math.round(876 * 0.5807), 512, 512]);
  expect(luma([255, 255, 255], 'arib-std-b67')).toEqual([64 + Math.round(876 * 0.75), 512, 512]);
  expect(luma([0, 0, 0], 'smpte2084')).toEqual([64, 512, 512]);
  expect(luma([0, 0, 0], 'arib-std-b67')).toEqual([64, 512, 512]);
  // Red of BT.709 is no full red of BT.2020: 2.4th roots of 0.6274, 0.0691 and 0.0164.
  const [red = 0] = paintSamples({ ...layout, rgb: true }, [255, 0, 0], { ...wide, transfer: 'bt2020-10' }).slice(2);
  expect(red).toBe(Math.round(1023 * 0.6274 ** (1 / 2.4)));
});
