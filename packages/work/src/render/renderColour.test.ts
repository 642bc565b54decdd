import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bent, luminanceOf, PQ, pqOf, WHITE } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { type ColourChoice, formSchema, type RenderFormInput } from '@thawline/project';
import { projectOf, rendered } from '../fixtures/project.fixture.js';
import { measureReceipt } from '../index.js';
import { colourFor } from './colour.js';

/** A dawn in PQ at 100 cd/m2 and a day in BT.709 at white, on one timeline: their numbers are worked out, not read off. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-colour-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 48 };
const N = SIZE.width * SIZE.height;
const [dawn, day] = [join(folder, 'dawn.mkv'), join(folder, 'day.mkv')];
const high = { primaries: 'bt2020', transfer: PQ, matrix: 'bt2020nc', range: 'limited' as const };
const plain = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' as const };

function grey(level: number): Uint8Array {
  const samples = new Uint16Array((3 * N) / 2).fill(level, 0, N).fill(512, N);
  return new Uint8Array(samples.buffer);
}

beforeAll(async () => {
  const request = { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p10le', form: 'mkv' as const };
  const twelve = (level: number): Uint8Array[] => Array.from({ length: 12 }, () => grey(level));
  await ffmpeg.encode(dawn, { ...request, colour: high }, twelve(Math.round(64 + 876 * pqOf(100))));
  await ffmpeg.encode(day, { ...request, colour: plain }, [...twelve(940), ...twelve(940)]);
});

/** The luma of two frames of a render, one of each source, at 10 bit. */
async function lumas(name: string, choice: ColourChoice | undefined) {
  const made = await projectOf(SIZE, [dawn, 'nearest', 0], [day, 'nearest', 12]);
  const input = { ...made, timeline: { ...made.timeline, ...(choice ? { colour: choice } : {}) } };
  const form: RenderFormInput = { kind: 'mkv', depth: 10 };
  const { paths } = await rendered(input, join(folder, name), form);
  const path = paths[0] ?? '';
  const probe = await ffmpeg.probe(path);
  const found: number[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p10le' }))
    found.push(new Uint16Array(picture.buffer)[N / 2] as number);
  return { input, form, path, probe, dawn: found[2] as number, day: found[20] as number };
}

test('standard range fills most frames: the dawn is bent under its white, the day stays bit for bit', async () => {
  const made = await lumas('most', undefined);
  const light = luminanceOf(bent(pqOf(100), 1000, WHITE));
  expect(Math.abs(made.dawn - (64 + 876 * (light / WHITE) ** (1 / 2.4)))).toBeLessThan(1.01);
  expect(made.day).toBe(940);
  expect(made.probe.colour).toEqual(plain);
});

test('PQ as chosen: the dawn stays bit for bit, white of the day is at 203 cd/m2', async () => {
  const made = await lumas('pq', 'pq');
  expect(made.dawn).toBe(Math.round(64 + 876 * pqOf(100)));
  expect(Math.abs(made.day - (64 + 876 * pqOf(203)))).toBeLessThan(1.01);
  expect(made.probe.colour).toEqual(high);
  const request = { input: made.input, form: formSchema.parse(made.form), files: [made.path] };
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
  expect(receipt.lines.filter((line) => !line.same)).toEqual([]);
  expect(receipt.lines.find((line) => line.what === 'colour')?.measured).toContain('transfer PQ');
});

test('display and light of high range are carried into HEVC, where the sources agree, and measured there', async () => {
  const path = join(folder, 'lit.mp4');
  const highRange = {
    display: { least: 0.005, most: 1000, red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06], white: [0.3127, 0.329] },
    light: { most: 800, average: 200 },
  } as const;
  const request = {
    ...SIZE,
    rate: rate(25),
    pixelFormat: 'yuv420p10le',
    form: 'mp4' as const,
    codec: 'hevc' as const,
    colour: high,
    highRange,
  };
  await ffmpeg.encode(
    path,
    request,
    Array.from({ length: 12 }, (_, k) => grey(200 + 9 * k)),
  );
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  const form = formSchema.parse({ kind: 'mp4', codec: 'hevc', depth: 10 });
  const { paths } = await rendered(input, join(folder, 'lit-out'), { kind: 'mp4', codec: 'hevc', depth: 10 });
  expect((await ffmpeg.probe(paths[0] ?? '')).highRange).toEqual(highRange);
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, { input, form, files: paths });
  expect(receipt.lines.filter((line) => !line.same)).toEqual([]);
  expect(receipt.lines.find((line) => line.what === 'light')?.measured).toBe(
    'display of 0.005 to 1000 cd/m\u00b2, 800 at most, 200 on average',
  );
});

test('a file whose colours were only re-labelled is told by its receipt', async () => {
  const made = await lumas('asked', 'pq');
  // The very samples of a render in BT.709, under the tags of PQ.
  const other = await lumas('plain', 'bt709');
  const path = join(folder, 'labelled.mkv');
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p10le', '-video_size', '64x48', '-framerate', '25', '-i', 'pipe:0'];
  const bytes = execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-i',
    other.path,
    '-f',
    'rawvideo',
    '-pix_fmt',
    'yuv420p10le',
    'pipe:1',
  ]);
  const tags = ['-color_primaries', 'bt2020', '-color_trc', PQ, '-colorspace', 'bt2020nc', '-color_range', 'tv'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...raw, '-c:v', 'ffv1', ...tags, path], { input: bytes });
  const request = { input: made.input, form: formSchema.parse(made.form), files: [path] };
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
  expect(receipt.lines.find((line) => line.what === 'colour')?.same).toBe(true);
  expect(receipt.differs).toBeGreaterThan(0);
});

test('a range has the colours of its timeline, whatever lies in it', async () => {
  const input = await projectOf(SIZE, [dawn, 'nearest', 0], [day, 'nearest', 12]);
  expect(colourFor({ ...input, range: { from: 0, to: 12 } })).toEqual(colourFor(input));
});

test('what is asked of a render are the colours of what its files say now', async () => {
  const input = await projectOf(SIZE, [dawn, 'nearest', 0]);
  expect(colourFor(input)).toEqual(high);
});
