import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { formSchema, type RenderFormInput, showsSphere } from '@thawline/project';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { make, measurePan, measureReceipt, type RenderInput } from '../index.js';

/** Pictures of all around: what says so by hand, motion over the seam in a render, and files that say it again. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-sphere-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 256, height: 128 };
const N = SIZE.width * SIZE.height;
const context = { media: ffmpeg, progress: () => undefined };
const path = join(folder, 'around.mkv');

/** What is seen in all directions, as the camera turns by so many columns: the seam is nowhere in it. */
function around(turned: number): Uint8Array {
  const out = new Uint8Array((N * 3) / 2).fill(128);
  for (let y = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++) {
      const angle = ((x + turned) / SIZE.width) * 2 * Math.PI;
      let value = 0;
      for (let h = 1; h <= 24; h++) value += 18 * Math.sin(h * angle + h * h * 1.7 + (y * ((h % 5) - 2)) / 12);
      out[y * SIZE.width + x] = 128 + value * Math.sin((Math.PI * y) / SIZE.height);
    }
  return out;
}

beforeAll(async () => {
  const pictures = Array.from({ length: 8 }, (_, k) => around(6 * k));
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, pictures);
});

const said = (input: RenderInput, projection: 'equirectangular' | null): RenderInput =>
  after(input, { type: 'setProjection', sourceIds: ['i0'], projection });

/** Twice slower by motion: every second frame is made. */
async function slowed(): Promise<RenderInput> {
  return after(
    await projectOf(SIZE, [path, 'nearest', 0]),
    { type: 'setFit', timelineId: 't', clipIds: ['c0'], fit: 'motion' } as never,
    {
      type: 'retimeClip',
      timelineId: 't',
      clipId: 'c0',
      pins: [
        { frame: 0, picture: 0, way: 'even' },
        { frame: 14, picture: 7, way: 'even' },
      ],
      follow: 'move',
    } as never,
  );
}

/** Mean square error of luma in a strip of columns around the seam. */
async function seamError(input: RenderInput, name: string): Promise<number> {
  const { paths } = await rendered(input, join(folder, name), { kind: 'mkv' });
  let [k, sum, n] = [0, 0, 0];
  for await (const frame of ffmpeg.openPictures(paths[0] ?? '', await ffmpeg.probe(paths[0] ?? ''), { pixelFormat: 'yuv420p' })) {
    const truth = around(3 * k);
    for (let y = 16; y < 112 && k % 2 === 1 && k < 14; y++)
      for (const x of [0, 1, 2, 3, 4, 5, 250, 251, 252, 253, 254, 255]) {
        sum += ((frame[y * 256 + x] as number) - (truth[y * 256 + x] as number)) ** 2;
        n++;
      }
    k++;
  }
  return sum / n;
}

test('said by hand, made pictures go on over the seam', async () => {
  const flat = await slowed();
  const [without, with360] = [await seamError(flat, 'flat'), await seamError(said(flat, 'equirectangular'), 'round')];
  // At least 6 dB better.
  expect(10 * Math.log10(without / with360)).toBeGreaterThan(6);
});

test('a timeline is of all around while one such picture fills each of its frames', async () => {
  const input = said(await projectOf(SIZE, [path, 'nearest', 0]), 'equirectangular');
  const shows = ({ project, timeline }: RenderInput): boolean => showsSphere(project, timeline);
  expect(shows(input)).toBe(true);
  expect(shows(said(input, null))).toBe(false);
  const turned = { type: 'setPose', timelineId: 't', clipIds: ['c0'], pose: { turn: 5 } } as const;
  expect(shows(after(input, { ...turned, clipIds: ['c0'] }))).toBe(false);
  const later = { type: 'moveClips', timelineId: 't', clipIds: ['c0'], byFrames: 3, byLanes: 0 } as const;
  expect(shows(after(input, { ...later, clipIds: ['c0'] }))).toBe(false);
});

test.each([
  ['mp4', {}],
  ['mp4', { codec: 'hevc' }],
  ['mov', {}],
  ['mov', { codec: 'dnxhr' }],
  ['mkv', {}],
  ['webm', {}],
] as const)('%s %j says that it is of all around, and the receipt reads it', async (kind, more) => {
  const input = said(await projectOf(SIZE, [path, 'nearest', 0]), 'equirectangular');
  const form = { kind, ...more } as RenderFormInput;
  const { paths } = await rendered(input, join(folder, `said-${kind}-${Object.values(more).join()}`), form);
  const probe = await ffmpeg.probe(paths[0] ?? '');
  expect(probe).toMatchObject({ projection: 'equirectangular', pictures: 8 });
  const receipt = await measureReceipt(context, { input, form: formSchema.parse(form), files: paths });
  expect(receipt.lines.find((l) => l.what === 'around')).toMatchObject({ same: true });
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
});

test('make says it again in MP4 and MOV, its sound and all', async () => {
  const input = said(await projectOf(SIZE, [path, 'nearest', 0]), 'equirectangular');
  const { paths } = await rendered(input, join(folder, 'once'), { kind: 'mp4' });
  const probe = await ffmpeg.probe(paths[0] ?? '');
  for (const ending of ['mp4', 'mov']) {
    const output = join(folder, `again.${ending}`);
    const options = { rate: rate(50), method: 'motion' } as const;
    const { notKept } = await make(context, { input: paths[0] ?? '', probe, output, options });
    expect(notKept.join()).not.toMatch(/360/);
    expect(await ffmpeg.probe(output)).toMatchObject({ projection: 'equirectangular', pictures: 16 });
  }
});

test('a pan is measured over the seam: faster than a picture without neighbours shows', async () => {
  const fast = join(folder, 'fast.mkv');
  // Seven sixteenths of the whole turn from picture to picture.
  const pictures = Array.from({ length: 4 }, (_, k) => around(112 * k));
  await ffmpeg.encode(fast, { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, pictures);
  const probe = await ffmpeg.probe(path);
  const slow = await measurePan(context, { path, probe, sphere: true });
  for (const { x, y } of slow.shifts.slice(1)) {
    expect(x).toBeCloseTo(-6 / 256, 3);
    expect(Math.abs(y)).toBeLessThan(0.002);
  }
  const found = await measurePan(context, { path: fast, probe: await ffmpeg.probe(fast), sphere: true });
  for (const { x } of found.shifts.slice(1)) expect(x).toBeCloseTo(-112 / 256, 2);
});
