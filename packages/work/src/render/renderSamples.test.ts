import { mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { type PixelLayout, pictureBytes, pixelLayout } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg, seriesPattern } from '@thawline/media';
import { formSchema, type RenderFormInput } from '@thawline/project';
import { decoded } from '../fixtures/numbered.fixture.js';
import { projectOf, rendered } from '../fixtures/project.fixture.js';
import { measureReceipt } from '../index.js';

/** Samples of sources through renders: where source and form have the same kind, every one is as it was. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-samples-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 256, height: 128 };

/** A ramp that moves, with colour that changes from pixel to pixel. */
async function source(pixelFormat: string): Promise<{ path: string; pictures: Uint8Array[] }> {
  const layout = pixelLayout(pixelFormat) as PixelLayout;
  const pictures = [0, 1, 2, 3, 4, 5].map((k) => {
    const out = new Uint8Array(pictureBytes(layout, SIZE.width, SIZE.height));
    const samples = layout.bytes === 2 ? new Uint16Array(out.buffer) : out;
    const unit = 2 ** (layout.bits - 8);
    for (let i = 0; i < samples.length; i++) samples[i] = (32 + ((i * 3 + 17 * k) % 180)) * unit + (unit > 1 ? i % unit : 0);
    return out;
  });
  const path = join(folder, `${pixelFormat}.mkv`);
  const colour = { primaries: null, transfer: null, matrix: 'smpte170m', range: 'limited' as const };
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat, form: 'mkv', colour }, pictures);
  return { path, pictures };
}

const FORMS: readonly (readonly [string, RenderFormInput])[] = [
  ['yuv444p', { kind: 'mkv', chroma: '444' }],
  ['yuv422p', { kind: 'mkv', chroma: '422' }],
  ['yuv422p10le', { kind: 'mkv', chroma: '422', depth: 10 }],
  ['yuv444p10le', { kind: 'mkv', chroma: '444', depth: 10 }],
  ['yuv444p', { kind: 'y4m', chroma: '444' }],
  ['yuv444p', { kind: 'mp4', chroma: '444', quality: 0 }],
  ['yuv422p10le', { kind: 'mp4', chroma: '422', depth: 10, quality: 0 }],
  ['yuv444p10le', { kind: 'mp4', codec: 'hevc', chroma: '444', depth: 10, quality: 0 }],
  ['yuv422p12le', { kind: 'mkv', chroma: '422', depth: 12 }],
  ['yuv420p16le', { kind: 'mkv', depth: 16 }],
  ['yuv444p12le', { kind: 'y4m', chroma: '444', depth: 12 }],
  ['yuv422p12le', { kind: 'mp4', codec: 'hevc', chroma: '422', depth: 12, quality: 0 }],
  ['yuv420p12le', { kind: 'webm', depth: 12, quality: 0 }],
  ['gbrp', { kind: 'mkv', chroma: 'rgb' }],
  ['gbrp12le', { kind: 'mkv', chroma: 'rgb', depth: 12 }],
  ['gbrp16le', { kind: 'mkv', chroma: 'rgb', depth: 16 }],
  ['gbrp', { kind: 'mp4', codec: 'hevc', chroma: 'rgb', quality: 0 }],
  ['gbrp12le', { kind: 'mp4', codec: 'hevc', chroma: 'rgb', depth: 12, quality: 0 }],
  ['gbrp10le', { kind: 'webm', chroma: 'rgb', depth: 10, quality: 0 }],
  ['gbrp', { kind: 'png' }],
  ['gbrp16le', { kind: 'png', depth: 16 }],
  ['gbrp16le', { kind: 'tiff', depth: 16 }],
];
async function backFrom(path: string, pixelFormat: string): Promise<Uint8Array[]> {
  if (!statSync(path).isDirectory()) return decoded(path, pixelFormat);
  const names = readdirSync(path);
  const pattern = seriesPattern(path, extname(names[0] ?? '').slice(1));
  const probe = await ffmpeg.probeSeries(pattern, { pictures: names.length, rate: rate(25) });
  const out: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(pattern, probe, { pixelFormat })) out.push(picture);
  return out;
}

test.each(FORMS)('%s comes through %j as it was', async (pixelFormat, form) => {
  const { path, pictures } = await source(pixelFormat);
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  const { paths } = await rendered(input, join(folder, `${pixelFormat}-${JSON.stringify(form).replace(/\W/g, '')}`), form);
  const back = await backFrom(paths[0] ?? '', pixelFormat);
  expect(back.map((picture, k) => Buffer.compare(picture, pictures[k] as Uint8Array))).toEqual(pictures.map(() => 0));
});

test('chroma that lies at the top left passes as it is where all sources have it so, and the file says it', async () => {
  const { pictures } = await source('yuv420p');
  const path = join(folder, 'sited.mp4');
  const colour = { primaries: null, transfer: null, matrix: 'smpte170m', range: 'limited' as const };
  const own = { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4', crf: 0, siting: 'topleft', colour } as const;
  await ffmpeg.encode(path, own, pictures);
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  const form = { kind: 'mp4', quality: 0 } as const;
  const { paths } = await rendered(input, join(folder, 'sited-out'), form);
  const back = await decoded(paths[0] ?? '', 'yuv420p');
  expect(back.map((picture, k) => Buffer.compare(picture, pictures[k] as Uint8Array))).toEqual(pictures.map(() => 0));
  const request = { input, form: formSchema.parse(form), files: paths };
  const { lines } = await measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
  expect(lines.find((l) => l.what === 'colour')).toMatchObject({
    same: true,
    measured: expect.stringContaining('chroma topleft'),
  });
});

test('numbered pictures have the names that were asked for, from any number on, and are found by them', async () => {
  const { path, pictures } = await source('gbrp');
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  const form = { kind: 'png', numbered: { name: '100% thaw-###.x', first: 998 } } as const;
  const { paths } = await rendered(input, join(folder, 'named'), form);
  const [made = ''] = paths;
  const names = ['998', '999', '1000', '1001', '1002', '1003'].map((number) => `100% thaw-${number}.x.png`);
  expect(readdirSync(made).sort()).toEqual([...names].sort());
  const request = { input, form: formSchema.parse(form), files: paths };
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
  expect(receipt.lines.filter((line) => !line.same)).toEqual([]);
  const last = await decoded(join(made, '100% thaw-1003.x.png'), 'gbrp');
  expect(Buffer.compare(last[0] as Uint8Array, pictures[5] as Uint8Array)).toBe(0);
});

const CODED: readonly RenderFormInput[] = [
  { kind: 'mov', codec: 'prores', chroma: '444' },
  { kind: 'mov', codec: 'dnxhr', chroma: '444' },
  { kind: 'mov', codec: 'mpeg2', chroma: '422' },
  { kind: 'webm', chroma: '444', depth: 10 },
  { kind: 'mp4', codec: 'hevc', chroma: '422', depth: 10 },
  { kind: 'mp4', codec: 'hevc', quality: 0 },
  { kind: 'mp4', chroma: '422', depth: 10 },
  { kind: 'png' },
  { kind: 'tiff', depth: 16 },
  { kind: 'exr' },
  { kind: 'mkv', chroma: 'rgb' },
  { kind: 'mkv', chroma: 'rgb', depth: 16 },
  { kind: 'mkv', chroma: '444', depth: 12 },
  { kind: 'mov', codec: 'dnxhr', chroma: 'rgb' },
  { kind: 'webm', chroma: 'rgb' },
  { kind: 'webm', depth: 12 },
  { kind: 'mp4', codec: 'hevc', chroma: 'rgb', depth: 10 },
  { kind: 'mp4', codec: 'hevc', depth: 12 },
];
test.each(CODED)('a render as %j is found to be what was asked', async (form) => {
  const { path } = await source('yuv444p');
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  const { paths } = await rendered(input, join(folder, `coded-${JSON.stringify(form).replace(/\W/g, '')}`), form);
  const request = { input, form: formSchema.parse(form), files: paths };
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
  expect(receipt.lines.filter((line) => !line.same)).toEqual([]);
  expect(receipt.differs).toBe(0);
});
