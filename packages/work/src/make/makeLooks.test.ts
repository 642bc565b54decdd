import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type PixelLayout, pictureBytes, pixelLayout } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { type EncodeRequest, ffmpeg } from '@thawline/media';
import { decoded } from '../fixtures/numbered.fixture.js';
import { type MakeOptions, make, makeLosses, makeRefusal } from './make.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-make-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [96, 64];
const N = WIDTH * HEIGHT;

/** A striped disc with a soft edge, further right with each picture; what lies under nothing is asked for. */
function disc(format: string, k: number, under: (i: number) => number): Uint8Array {
  const layout = pixelLayout(format) as PixelLayout;
  const out = new Uint8Array(pictureBytes(layout, WIDTH, HEIGHT));
  for (let i = 0; i < N; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const opaque = Math.max(0, Math.min(1, (22 - Math.hypot(x - 30 - 4 * k, y - 32)) / 6));
    [150, 120, 190].forEach((mean, plane) => {
      const shade = mean + 50 * Math.sin((x - 4 * k) * (0.3 + 0.05 * plane) + y * 0.2);
      out[plane * N + i] = Math.round(opaque === 0 ? under(plane * N + i + k * 999) : shade);
    });
    out[3 * N + i] = Math.round(255 * opaque);
  }
  return out;
}

async function source(name: string, under: (i: number) => number, more: Partial<EncodeRequest> = {}) {
  const path = join(folder, `${name}.mkv`);
  const format = more.pixelFormat ?? 'gbrap';
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), form: 'mkv' as const, ...more, pixelFormat: format };
  await ffmpeg.encode(
    path,
    request,
    [0, 1, 2, 3].map((k) => disc(format, k, under)),
  );
  return { input: path, probe: await ffmpeg.probe(path) };
}

async function made(from: Awaited<ReturnType<typeof source>>, to: string, options: Partial<MakeOptions>) {
  const output = join(folder, to);
  const context = { media: ffmpeg, progress: () => undefined };
  const result = await make(context, { ...from, output, options: { rate: rate(50), method: 'motion', ...options } });
  return { output, result };
}

const noise = (i: number): number => ((i * 2654435761) >>> 7) % 256;

describe('a foreground keyed over noise, black or a colour gives the same', () => {
  test.each([
    ['by motion', { method: 'motion' as const }],
    ['as a mix', { method: 'blend' as const }],
    ['by a shutter', { method: 'motion' as const, shutterDegrees: 180 }],
  ])('pictures made %s, to the bit', async (_, options) => {
    const all = await Promise.all(
      [noise, () => 0, () => 200].map(async (under, i) => {
        const { output } = await made(await source(`under-${i}`, under), `out-${i}.mkv`, options);
        return decoded(output, 'gbrap');
      }),
    );
    const [first, ...others] = all as [Uint8Array[], ...Uint8Array[][]];
    expect(first).toHaveLength(8);
    for (const other of others)
      for (let k = 1; k < 6; k += 2) expect(Buffer.compare(other[k] as Uint8Array, first[k] as Uint8Array)).toBe(0);
  });

  test('and the pictures that were there stay as they were, hidden parts too', async () => {
    const from = await source('kept', noise);
    const { output, result } = await made(from, 'kept-50.mkv', {});
    const pictures = await decoded(output, 'gbrap');
    for (const k of [0, 1, 2, 3]) expect(Buffer.compare(pictures[2 * k] as Uint8Array, disc('gbrap', k, noise))).toBe(0);
    expect(result).toMatchObject({ real: 4, made: 3, notKept: [] });
  });
});

test('alpha that a form cannot bear is refused, or goes over a colour that is asked for', async () => {
  const from = await source('refused', noise);
  await expect(made(from, 'no.mp4', {})).rejects.toThrow('Its pictures have alpha, which .mp4 cannot hold here.');
  expect(makeRefusal(from.probe, 'x.mov', {})).toBeNull();
  const { output, result } = await made(from, 'over.mkv', { over: [0, 0, 255] });
  const [first] = await decoded(output, 'gbrp');
  expect([first?.[0], first?.[N], first?.[2 * N]]).toEqual([0, 255, 0]);
  const middle = 32 * WIDTH + 30;
  expect(first?.[middle]).toBe(disc('gbrap', 0, noise)[middle]);
  expect(result.notKept).toEqual(['alpha is not kept: pictures go over a colour']);
});

test('what the file cannot hold is told beforehand, in words', async () => {
  const { probe } = await source('told', noise);
  expect(makeLosses(probe, 'x.mkv', {})).toEqual([]);
  expect(makeLosses(probe, 'x.mov', {})).toEqual(['RGB is converted to 4:4:4']);
  expect(makeLosses(probe, 'x.webm', {})).toEqual(['RGB is converted to 4:2:0']);
  const deep = { ...probe, pixelFormat: 'yuv444p12le', timecode: '01:00:00:00', projection: 'equirectangular' };
  expect(makeLosses(deep, 'x.mp4', {})).toEqual(['12 bit becomes 10', 'its timecode is not kept']);
  expect(makeLosses(deep, 'x.mkv', {})).toEqual([
    'that it is a 360\u00b0 picture is not kept in the file',
    'its timecode is not kept',
  ]);
});

test.each(['mkv', 'mp4'] as const)('colour tags, depth and the shape of samples come along into .%s', async (ending) => {
  const colour = { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc', range: 'limited' } as const;
  const path = join(folder, 'hlg.mkv');
  const request = {
    width: WIDTH,
    height: HEIGHT,
    rate: rate(25),
    form: 'mkv' as const,
    pixelFormat: 'yuv422p10le',
    colour,
    sampleAspect: 4 / 3,
  };
  const picture = new Uint8Array(N * 4).map((_, i) => (i % 2 === 0 ? (i * 7) % 200 : 1));
  await ffmpeg.encode(path, request, [picture, picture]);
  const { output } = await made({ input: path, probe: await ffmpeg.probe(path) }, `hlg-50.${ending}`, { method: 'nearest' });
  const probe = await ffmpeg.probe(output);
  expect(probe).toMatchObject({ colour, pixelFormat: 'yuv422p10le' });
  expect(probe.sampleAspect).toBeCloseTo(4 / 3, 5);
});
