import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type PixelLayout, pixelLayout, planeSizes } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg, type PictureRequest } from './index.js';

/** Colour stays where it is when there are more or fewer samples of it. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-siting-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 32 };
const [WIDTH, HEIGHT] = [SIZE.width, SIZE.height];
const CENTRE = { x: 31, y: 15 };

/** A soft spot of colour, for each pixel. */
function spot(): Uint8Array {
  const out = new Uint8Array(3 * WIDTH * HEIGHT).fill(100, 0, WIDTH * HEIGHT).fill(128, WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      out[WIDTH * HEIGHT + y * WIDTH + x] = 128 + Math.round(100 * Math.exp(-((x - CENTRE.x) ** 2 + (y - CENTRE.y) ** 2) / 18));
  return out;
}

/** Where a plane's spot has its middle, in samples of the plane. */
function middleOf(picture: Uint8Array, format: string, plane = 1): { x: number; y: number } {
  const layout = pixelLayout(format) as PixelLayout;
  const sizes = planeSizes(layout, WIDTH, HEIGHT);
  const at = sizes.slice(0, plane).reduce((sum, { width, height }) => sum + width * height, 0);
  const { width, height } = sizes[plane] as { width: number; height: number };
  let [sum, x, y] = [0, 0, 0];
  for (let i = 0; i < width * height; i++) {
    const value = Math.max(0, (picture[at + i] as number) - 131);
    sum += value;
    x += value * (i % width);
    y += value * Math.floor(i / width);
  }
  return { x: x / sum, y: y / sum };
}

/** The spot stored with halved chroma at a place. */
function stored(place: 'left' | 'topleft' | 'center'): string {
  const path = join(folder, `${place}.mkv`);
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'yuv444p', '-s', `${WIDTH}x${HEIGHT}`, '-i', 'pipe:0'];
  const sited = [
    '-vf',
    `zscale=chromal=${place},format=yuv420p`,
    '-c:v',
    'libx264',
    '-qp',
    '0',
    '-chroma_sample_location',
    place,
  ];
  const run = spawnSync('ffmpeg', ['-v', 'error', '-y', ...raw, ...sited, path], { input: spot() });
  if (run.status !== 0) throw new Error(String(run.stderr));
  return path;
}

async function read(path: string, request: PictureRequest): Promise<Uint8Array> {
  for await (const picture of ffmpeg.openPictures(path, await ffmpeg.probe(path), request)) return picture;
  throw new Error('no picture');
}

const BT709 = { matrix: 'smpte170m', range: 'limited' } as const;

test.each(['left', 'topleft', 'center'] as const)(
  'chroma that lies %s is brought to every pixel, and to red, green and blue',
  async (place) => {
    const path = stored(place);
    expect((await ffmpeg.probe(path)).siting).toBe(place);
    for (const colour of [undefined, BT709]) {
      const whole = middleOf(await read(path, { pixelFormat: 'yuv444p', ...(colour ? { colour } : {}) }), 'yuv444p');
      expect(Math.hypot(whole.x - CENTRE.x, whole.y - CENTRE.y)).toBeLessThan(0.1);
    }
    // Blue is what that kind of chroma shows most.
    const blue = (await read(path, { pixelFormat: 'gbrp', colour: BT709 })).map((value) => value * 0.9);
    const middle = middleOf(blue, 'gbrp', 1);
    expect(Math.hypot(middle.x - CENTRE.x, middle.y - CENTRE.y)).toBeLessThan(0.25);
  },
);

test.each(['left', 'topleft', 'center'] as const)(
  'colour for each pixel is halved to lie %s where that is asked for',
  async (siting) => {
    const path = join(folder, 'whole.mkv');
    await ffmpeg.encode(
      path,
      { ...SIZE, rate: rate(25), pixelFormat: 'yuv444p', form: 'mkv', colour: { ...BT709, primaries: null, transfer: null } },
      [spot()],
    );
    const half = middleOf(await read(path, { pixelFormat: 'yuv420p', colour: { ...BT709, siting } }), 'yuv420p');
    const [across, down] = { left: [0, 0.5], topleft: [0, 0], center: [0.5, 0.5] }[siting] as [number, number];
    expect(Math.abs(2 * half.x + across - CENTRE.x)).toBeLessThan(0.1);
    expect(Math.abs(2 * half.y + down - CENTRE.y)).toBeLessThan(0.1);
  },
);

test('scaled by three quarters it stays where it is', async () => {
  const path = stored('left');
  const size = { width: 48, height: 24 };
  const small = await read(path, { pixelFormat: 'yuv420p', ...size });
  const n = size.width * size.height;
  const plane = small.subarray(n, n + n / 4);
  let [sum, x] = [0, 0];
  plane.forEach((value, i) => {
    sum += Math.max(0, value - 131);
    x += Math.max(0, value - 131) * (i % 24);
  });
  // Middles of pixels: (31 + .5) x 3/4 - .5, and chroma on every second.
  expect(Math.abs((2 * x) / sum - (31.5 * 0.75 - 0.5))).toBeLessThan(0.12);
});

test('where its place is another than is asked for, it is moved, and left alone where it is the same', async () => {
  const path = stored('topleft');
  const same = await read(path, { pixelFormat: 'yuv420p', colour: { ...BT709, siting: 'topleft' } });
  expect(Buffer.compare(same, await read(path, { pixelFormat: 'yuv420p' }))).toBe(0);
  const moved = middleOf(await read(path, { pixelFormat: 'yuv420p', colour: BT709 }), 'yuv420p');
  expect(Math.abs(2 * moved.y + 0.5 - CENTRE.y)).toBeLessThan(0.1);
});

test('a coder that has more of it gets it where it lies', async () => {
  const path = stored('topleft');
  const probe = await ffmpeg.probe(path);
  const out = join(folder, 'finer.mov');
  const pictures = ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p' });
  const request = { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mov' as const, siting: 'topleft' };
  await ffmpeg.encode(out, request, pictures);
  const middle = middleOf(await read(out, { pixelFormat: 'yuv444p' }), 'yuv444p');
  expect(Math.hypot(middle.x - CENTRE.x, middle.y - CENTRE.y)).toBeLessThan(0.15);
});
