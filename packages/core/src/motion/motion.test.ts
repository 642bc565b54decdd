import { Filmed, movingScenes } from '@thawline/rig';
import { type PixelLayout, pictureBytes, pixelLayout, planeSizes } from '../picture/index.js';
import { levelsOf } from './engine.js';
import { KernelMotion, type MotionEngine, ReferenceMotion } from './index.js';
import { TAPS } from './warp.js';

const layoutOf = (name: string): PixelLayout => pixelLayout(name) as PixelLayout;

/** A picture of smooth waves that are shifted by (dx, dy): any size and depth, and what it should be is known everywhere. */
function waves(layout: PixelLayout, width: number, height: number, dx: number, dy: number): Uint8Array {
  const out = new Uint8Array(pictureBytes(layout, width, height));
  const samples = layout.bytes === 2 ? new Uint16Array(out.buffer) : out;
  const scale = 2 ** (layout.bits - 8);
  let at = 0;
  planeSizes(layout, width, height).forEach((size, plane) => {
    const kx = width / size.width;
    const ky = height / size.height;
    for (let y = 0; y < size.height; y++) {
      for (let x = 0; x < size.width; x++) {
        // Where the middle of the sample lies in luma samples.
        const px = (x + 0.5) * Math.round(kx) - 0.5 - dx;
        const py = (y + 0.5) * Math.round(ky) - 0.5 - dy;
        const value =
          plane === 0
            ? 120 +
              34 * Math.sin(px * 0.21 + 0.7 * Math.sin(py * 0.13)) +
              26 * Math.sin(py * 0.27 + 1.1 * Math.sin(px * 0.083)) +
              20 * Math.sin(px * 0.043 - py * 0.037)
            : 128 + 30 * Math.sin(px * 0.09 + plane) * Math.sin(py * 0.07);
        samples[at++] = Math.round(value * scale);
      }
    }
  });
  return out;
}

/** Mean squared difference of the samples of a plane, in 8-bit steps. */
function apart(layout: PixelLayout, width: number, height: number, a: Uint8Array, b: Uint8Array): number[] {
  const read = (bytes: Uint8Array) =>
    layout.bytes === 2 ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) : bytes;
  const [p, q] = [read(a), read(b)];
  let at = 0;
  return planeSizes(layout, width, height).map((size) => {
    let sum = 0;
    const n = size.width * size.height;
    for (let i = 0; i < n; i++, at++) sum += (((p[at] as number) - (q[at] as number)) / 2 ** (layout.bits - 8)) ** 2;
    return sum / n;
  });
}

const decibel = (mse: number): number => 10 * Math.log10((255 * 255) / Math.max(mse, 1e-6));

function makeBoth(engines: readonly MotionEngine[], a: Uint8Array, b: Uint8Array, t: number): Uint8Array[] {
  return engines.map((engine) => {
    engine.push(a);
    engine.push(b);
    const out = new Uint8Array(a.length);
    expect(engine.make(t, out).moved).toBe(true);
    return out;
  });
}

describe('kernels do what the reference says', () => {
  test.each([
    ['yuv420p', 96, 64, 3.4, -1.7, 0.5],
    ['yuv420p', 97, 75, -6.2, 2.3, 0.25],
    ['yuv422p', 81, 64, 2.5, 0.5, 0.75],
    ['yuv444p', 64, 81, 0.4, 4.1, 0.4],
    ['yuv420p10le', 95, 63, -2.5, -2.5, 0.5],
    ['yuv422p10le', 64, 48, 1.3, 0.2, 0.1],
    ['yuv444p10le', 50, 51, 1.3, 0.2, 0.9],
    ['gray', 60, 44, 2.2, 1.4, 0.5],
    ['gray16le', 60, 44, 2.2, 1.4, 0.5],
    ['yuv420p16le', 64, 48, -1.8, 0.7, 0.3],
    ['gbrp', 64, 49, 2.5, -0.5, 0.6],
    ['gbrp12le', 63, 48, 1.5, 1.5, 0.5],
    ['yuva420p', 66, 50, 3.1, 0.4, 0.5],
    ['gbrap16le', 64, 48, -2.2, 1.1, 0.7],
  ] as const)('%s of %d x %d moved by %d, %d at %d', (name, width, height, dx, dy, t) => {
    const layout = layoutOf(name);
    const a = waves(layout, width, height, 0, 0);
    const b = waves(layout, width, height, dx, dy);
    const engines = [new KernelMotion(layout, width, height), new ReferenceMotion(layout, width, height)] as const;
    const [kernels, reference] = makeBoth(engines, a, b, t) as [Uint8Array, Uint8Array];
    // Sums of whole numbers are the same; averages of vectors are of 32 bits in one and of 64 in the other.
    let differ = 0;
    for (let i = 0; i < kernels.length; i += layout.bytes) if (kernels[i] !== reference[i]) differ++;
    expect(differ / (kernels.length / layout.bytes)).toBeLessThan(0.01);
    const [k, r] = engines.map((engine) => engine.risk()) as [Float32Array, Float32Array];
    expect(k.length).toBe(r.length);
    let off = 0;
    for (let i = 0; i < k.length; i++) if (Math.abs((k[i] as number) - (r[i] as number)) > 0.01 + 0.01 * (r[i] as number)) off++;
    expect(off / k.length).toBeLessThan(0.02);
    const truth = waves(layout, width, height, dx * t, dy * t);
    for (const mse of apart(layout, width, height, kernels, truth)) expect(decibel(mse)).toBeGreaterThan(30);
  });

  test('in a scene with things that cover each other', () => {
    const moving = movingScenes(3).find((s) => s.name === 'crossing objects');
    if (!moving) throw new Error('no such scene');
    const layout = layoutOf('yuv420p');
    const filmed = new Filmed(moving, 320, 180, 3);
    const engines = [new KernelMotion(layout, 320, 180), new ReferenceMotion(layout, 320, 180)];
    const [kernels, reference] = makeBoth(engines, filmed.real(1), filmed.real(2), 0.5) as [Uint8Array, Uint8Array];
    expect(decibel(apart(layout, 320, 180, kernels, reference)[0] as number)).toBeGreaterThan(45);
  });
});

describe('made pictures', () => {
  const layout = layoutOf('yuv420p');
  const [width, height] = [320, 180];

  test.each([
    ['pan of 60', 38],
    ['whip of 80', 34],
    ['zoom', 44],
    ['rotation', 44],
    ['crossing objects', 34],
    ['thin lines', 40],
    ['flicker with noise', 40],
    ['noise', 36],
  ] as const)('of %s are at least %d dB from the truth, borders and all', (name, floor) => {
    const moving = movingScenes(11).find((s) => s.name === name);
    if (!moving) throw new Error('no such scene');
    const filmed = new Filmed(moving, width, height, 5);
    const engine = new KernelMotion(layout, width, height);
    const out = new Uint8Array(pictureBytes(layout, width, height));
    engine.push(filmed.real(2));
    engine.push(filmed.real(3));
    for (const t of [0.25, 0.5]) {
      expect(engine.make(t, out).moved).toBe(true);
      expect(decibel(apart(layout, width, height, out, filmed.truth(2 + t))[0] as number)).toBeGreaterThan(floor);
    }
  });

  /** Luma of level ground with one thing on it, chroma grey. */
  function drawn(w: number, h: number, light: (x: number, y: number) => number): Uint8Array {
    const out = new Uint8Array(pictureBytes(layout, w, h)).fill(128);
    for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out[y * w + x] = Math.round(light(x, y));
    return out;
  }

  test('a pan of more than a third of the frame is followed', () => {
    const moving = movingScenes(11).find((scene) => scene.name === 'pan of 60');
    if (!moving) throw new Error('no such scene');
    const filmed = new Filmed(moving, width, height, 5);
    const engine = new KernelMotion(layout, width, height);
    const out = new Uint8Array(pictureBytes(layout, width, height));
    // Ten pixels a picture at this size: 120 of 320.
    engine.push(filmed.real(2));
    engine.push(filmed.real(14));
    expect(engine.make(0.5, out).moved).toBe(true);
    const off = (a: Uint8Array): number => decibel(apart(layout, width, height, a, filmed.truth(8))[0] as number);
    expect(off(out)).toBeGreaterThan(off(filmed.real(2)) + 10);
  });

  test('a small drop that falls farther than it is long is found', () => {
    const ground = (x: number, y: number): number => 90 + 8 * Math.sin(x * 0.11 + y * 0.05) + 6 * Math.sin(y * 0.13);
    const drop = (t: number) => (x: number, y: number) => {
      const inside = 6 - Math.hypot(x - 160, (y - 60 - 36 * t) * 0.8);
      return ground(x, y) + 120 * Math.max(0, Math.min(1, inside));
    };
    const engine = new KernelMotion(layout, width, height);
    engine.push(drawn(width, height, drop(0)));
    engine.push(drawn(width, height, drop(1)));
    const out = new Uint8Array(pictureBytes(layout, width, height));
    engine.make(0.5, out);
    const truth = drawn(width, height, drop(0.5));
    let off = 0;
    for (let i = 0; i < width * height; i++) if (Math.abs((out[i] as number) - (truth[i] as number)) > 40) off++;
    // Of the 150 samples it has; where it is not found it stands, half seen, where it was and where it will be.
    expect(off).toBeLessThan(20);
  });

  test('across a cut the nearer one is given, bit for bit', () => {
    const scenes = movingScenes(5);
    const shot = (name: string, moment: number): Uint8Array => {
      const moving = scenes.find((s) => s.name === name);
      if (!moving) throw new Error('no such scene');
      return new Filmed(moving, width, height, 5).real(moment);
    };
    const out = new Uint8Array(pictureBytes(layout, width, height));
    for (const [one, other] of [
      ['zoom', 'floes'],
      ['rotation', 'talking'],
      ['icicles', 'pan of 60'],
      ['noise', 'crossing objects'],
    ] as const) {
      const [a, b] = [shot(one, 1), shot(other, 1)];
      const engine = new KernelMotion(layout, width, height);
      engine.push(a);
      engine.push(b);
      expect(engine.make(0.4, out)).toEqual({ certainty: 0, moved: false });
      expect(Buffer.compare(out, a)).toBe(0);
      engine.make(0.6, out);
      expect(Buffer.compare(out, b)).toBe(0);
    }
  });

  test('a still picture stays itself', () => {
    const a = waves(layout, 64, 64, 0, 0);
    const engine = new KernelMotion(layout, 64, 64);
    engine.push(a);
    engine.push(a);
    const out = new Uint8Array(a.length);
    expect(engine.make(0.5, out).certainty).toBe(1);
    expect(Buffer.compare(out, a)).toBe(0);
  });

  test('the pair moves on with each picture, and nothing is remembered of those before', () => {
    const pictures = [0, 2, 5, 9].map((dx) => waves(layout, 96, 64, dx, dx / 2));
    const going = new KernelMotion(layout, 96, 64);
    for (let k = 0; k < 4; k++) {
      going.push(pictures[k] as Uint8Array);
      if (k === 0) {
        expect(going.ready).toBe(false);
        expect(() => going.make(0.5, new Uint8Array(0))).toThrow('two pictures');
        continue;
      }
      const fresh = new KernelMotion(layout, 96, 64);
      fresh.push(pictures[k - 1] as Uint8Array);
      fresh.push(pictures[k] as Uint8Array);
      const [one, other] = [new Uint8Array(pictures[0]?.length ?? 0), new Uint8Array(pictures[0]?.length ?? 0)];
      going.make(0.3, one);
      fresh.make(0.3, other);
      expect(Buffer.compare(one, other)).toBe(0);
    }
  });

  test.each([
    [1, 1],
    [2, 2],
    [3, 5],
    [17, 8],
    [8, 200],
    [7680, 16],
  ])('a size of %d x %d is no trouble', (w, h) => {
    const a = waves(layout, w, h, 0, 0);
    const engine = new KernelMotion(layout, w, h);
    engine.push(a);
    engine.push(waves(layout, w, h, 1, 0));
    const out = new Uint8Array(a.length);
    expect(engine.make(0.5, out).certainty).toBeGreaterThanOrEqual(0);
    const [mse] = apart(layout, w, h, out, waves(layout, w, h, 0.5, 0)) as [number];
    expect(decibel(mse)).toBeGreaterThan(28);
  });
});

test('taps of every place sum to 64, and at a sample itself only that one counts', () => {
  for (let k = 0; k <= 64; k++) expect(TAPS.subarray(k * 4, k * 4 + 4).reduce((a, b) => a + b, 0)).toBe(64);
  expect([...TAPS.subarray(0, 4)]).toEqual([0, 64, 0, 0]);
});

test('levels go down to where eighty pixels are a few', () => {
  expect(levelsOf(1920, 1080).map((l) => l.height)).toEqual([1080, 540, 270, 135, 68, 34]);
  expect(levelsOf(16, 16)).toEqual([
    { width: 16, height: 16 },
    { width: 8, height: 8 },
  ]);
});
