import {
  HLG,
  type LightOfPictures,
  mixLight,
  mixLightRgba,
  type PixelLayout,
  PQ,
  pictureBytes,
  pixelLayout,
  pqOf,
} from './index.js';

const layoutOf = (name: string): PixelLayout => pixelLayout(name) ?? fail();
const fail = (): never => {
  throw new Error('no layout');
};
/** A picture of one colour, samples as they are stored. */
function plain(layout: PixelLayout, width: number, height: number, y: number, u: number, v: number): Uint8Array {
  const bytes = new Uint8Array(pictureBytes(layout, width, height));
  const samples = layout.bytes === 2 ? new Uint16Array(bytes.buffer) : bytes;
  const luma = width * height;
  const chroma = (samples.length - luma) / 2;
  samples.fill(y, 0, luma);
  samples.fill(u, luma, luma + chroma);
  samples.fill(v, luma + chroma);
  return bytes;
}
function mixed(name: string, a: [number, number, number], b: [number, number, number], share: number): number[] {
  const layout = layoutOf(name);
  const [width, height] = [6, 4];
  const out = new Uint8Array(pictureBytes(layout, width, height));
  mixLight(layout, { width, height, a: plain(layout, width, height, ...a), b: plain(layout, width, height, ...b), share, out });
  const samples = layout.bytes === 2 ? new Uint16Array(out.buffer) : out;
  const luma = width * height;
  return [samples[0] as number, samples[luma] as number, samples.at(-1) as number];
}

test('half of white and black is half of the light, far from half of the numbers', () => {
  const level = Math.round(16 + 219 * 0.5 ** (1 / 2.4));
  expect(level).toBe(180);
  for (const name of ['yuv420p', 'yuv422p', 'yuv444p'])
    expect(mixed(name, [235, 128, 128], [16, 128, 128], 128)).toEqual([180, 128, 128]);
  expect(mixed('yuv420p10le', [940, 512, 512], [64, 512, 512], 128)[0]).toBe(Math.round(64 + 876 * 0.5 ** (1 / 2.4)));
});

test('all of one is that one, and the same stays the same, bit for bit, beyond black and white too', () => {
  for (const [y, u, v] of [
    [16, 128, 128],
    [235, 128, 128],
    [90, 70, 200],
    [1, 128, 128],
    [254, 128, 128],
    [180, 40, 60],
  ] as const) {
    expect(mixed('yuv420p', [y, u, v], [y, u, v], 77)).toEqual([y, u, v]);
    expect(mixed('yuv444p', [y, u, v], [100, 120, 140], 0)).toEqual([y, u, v]);
    expect(mixed('yuv444p', [100, 120, 140], [y, u, v], 256)).toEqual([y, u, v]);
  }
});

test('colours mix as light of their own: red and green', () => {
  // BT.709 red and green, and what half of each comes to in signal: 0.5 ^ (1 / 2.4) of both.
  const half = 0.5 ** (1 / 2.4);
  const [r, g, b] = [half, half, 0];
  const y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  const wanted = [16 + 219 * y, 128 + (224 * (b - y)) / 1.8556, 128 + (224 * (r - y)) / 1.5748];
  const red: [number, number, number] = [63, 102, 240];
  const green: [number, number, number] = [173, 42, 26];
  const off = mixed('yuv444p', red, green, 128).map((value, i) => Math.abs(value - (wanted[i] as number)));
  expect(Math.max(...off)).toBeLessThanOrEqual(1.5);
});

test('whatever bytes a file holds, what comes out is a number of its size', () => {
  for (const colour of [
    [0, 0, 0],
    [255, 255, 255],
    [255, 0, 255],
    [0, 255, 0],
    [255, 255, 0],
  ] as const)
    for (const value of mixed('yuv420p', [...colour], [120, 90, 160], 128)) expect(value).toBeGreaterThan(0);
});

test('on a screen black and white mix to the same half, and the same stays the same', () => {
  const out = new Uint8ClampedArray(8);
  mixLightRgba(
    Uint8ClampedArray.of(0, 0, 0, 255, 9, 80, 200, 255),
    Uint8ClampedArray.of(255, 255, 255, 255, 9, 80, 200, 255),
    0.5,
    out,
  );
  expect([...out]).toEqual([191, 191, 191, 255, 9, 80, 200, 255]);
});

test('odd sizes are mixed to their edges', () => {
  const layout = layoutOf('yuv420p');
  const out = new Uint8Array(pictureBytes(layout, 5, 3)).fill(7);
  mixLight(layout, {
    width: 5,
    height: 3,
    a: plain(layout, 5, 3, 235, 128, 128),
    b: plain(layout, 5, 3, 16, 128, 128),
    share: 128,
    out,
  });
  expect([...out.subarray(0, 15)].every((v) => v === 180)).toBe(true);
  expect([...out.subarray(15)].every((v) => v === 128)).toBe(true);
});

describe('light of other numbers', () => {
  const half = (light: LightOfPictures, bright: number, dark: number): number => {
    const layout = layoutOf('yuv444p10le');
    const [a, b] = [bright, dark].map((level) => plain(layout, 4, 4, level, 512, 512)) as [Uint8Array, Uint8Array];
    const out = new Uint8Array(a.length);
    mixLight(layout, { width: 4, height: 4, a, b, share: 128, out, light });
    return new Uint16Array(out.buffer)[0] as number;
  };
  const limited = (signal: number): number => Math.round(64 + 876 * signal);

  test('PQ: half of 100 and 1 cd/m2 are 50.5', () => {
    const pq = { matrix: 'bt2020nc', range: 'limited', transfer: PQ } as const;
    expect(Math.abs(half(pq, limited(pqOf(100)), limited(pqOf(1))) - limited(pqOf(50.5)))).toBeLessThanOrEqual(1);
    // Dark ones, too: 0.1 and 0.
    expect(Math.abs(half(pq, limited(pqOf(0.1)), limited(0)) - limited(pqOf(0.05)))).toBeLessThanOrEqual(1);
  });

  test('HLG: light that reached the camera adds up: half of a signal of .5 and none is .5 over the root of 2', () => {
    const hlg = { matrix: 'bt2020nc', range: 'limited', transfer: HLG } as const;
    expect(Math.abs(half(hlg, limited(0.5), limited(0)) - limited(0.5 / Math.SQRT2))).toBeLessThanOrEqual(1);
    expect(half(hlg, limited(1), limited(1))).toBe(limited(1));
  });

  test('full range: black is 0', () => {
    const full = { matrix: 'bt709', range: 'full', transfer: null } as const;
    expect(half(full, 1023, 0)).toBe(Math.round(1023 * 0.5 ** (1 / 2.4)));
  });

  test('red, green and blue each by themselves, at any depth', () => {
    const layout = layoutOf('gbrp16le');
    const picture = (level: number): Uint8Array => new Uint8Array(new Uint16Array(3 * 16).fill(level).buffer);
    const out = new Uint8Array(96);
    mixLight(layout, { width: 4, height: 4, a: picture(65535), b: picture(0), share: 128, out });
    expect(Math.abs((new Uint16Array(out.buffer)[20] as number) - 65535 * 0.5 ** (1 / 2.4))).toBeLessThan(20);
  });

  test('with alpha, what is not seen in one has no say, and alpha itself is mixed', () => {
    const layout = layoutOf('gbrap');
    const picture = (level: number, alpha: number): Uint8Array => new Uint8Array(64).fill(level, 0, 48).fill(alpha, 48);
    const out = new Uint8Array(64);
    mixLight(layout, { width: 4, height: 4, a: picture(200, 255), b: picture(13, 0), share: 128, out });
    expect([out[0], out[63]]).toEqual([200, 128]);
    mixLight(layout, { width: 4, height: 4, a: picture(200, 0), b: picture(90, 255), share: 64, out });
    expect([out[0], out[63]]).toEqual([90, 64]);
  });
});
