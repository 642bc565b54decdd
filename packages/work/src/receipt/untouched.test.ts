import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { type Clip, formSchema, type RenderFormInput, renderedAt } from '@thawline/project';
import { composed } from '../compose/compose.js';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { measureReceipt, type Receipt, type RenderInput } from '../index.js';

/** A receipt never objects to a render that nobody touched, and finds what is planted, on material that tries it. (`bench receipts`: more.) */
const folder = mkdtempSync(join(tmpdir(), 'thawline-untouched-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const [WIDTH, HEIGHT, PICTURES, FRAMES] = [160, 90, 24, 18];
type Sample = (k: number, x: number, y: number) => number;

const grain = (k: number, x: number, y: number): number => ((k * 7919 + x * 104_729 + y * 1_299_709) % 9) - 4;
const hills: Sample = (k, x, y) => 120 + 50 * Math.sin((x + 2 * k) / 9) + 30 * Math.cos((y - k) / 7) + grain(k, x, y);
const MATERIALS: Record<string, Sample> = {
  dot: (k, x, y) => (x >= 20 + 3 * k && x < 32 + 3 * k && y >= 30 && y < 42 ? 235 : 16),
  flashes: (k, x, y) => (k % 7 === 3 ? 215 + hills(k, x, y) / 8 : hills(k, x, y)),
  // Two moments in a picture, line by line.
  fields: (k, x, y) => ((x + 6 * k + 3 * (y % 2)) % 48 < 24 ? 60 : 190),
  cuts: (k, x, y) => (Math.floor(k / 5) % 2 ? 250 - hills(k, x, y) : hills(k, x, y)),
};

async function sourceOf(material: string): Promise<string> {
  const path = join(folder, `${material}.mkv`);
  const sample = MATERIALS[material] as Sample;
  const picture = (k: number): Uint8Array => {
    const plane = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
    for (let y = 0; y < HEIGHT; y++) for (let x = 0; x < WIDTH; x++) plane[y * WIDTH + x] = Math.round(sample(k, x, y));
    return plane;
  };
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' as const };
  await ffmpeg.encode(
    path,
    request,
    Array.from({ length: PICTURES }, (_, k) => picture(k)),
  );
  return path;
}

interface Case {
  readonly material: string;
  readonly fit: Clip['fit'];
  /** Of the timeline; clips lie on 25 at half their speed or as they are. */
  readonly speed: number;
  readonly form: RenderFormInput;
}
const QUIET = { sound: 'off', timecode: false } as const;
const CASES: readonly Case[] = [
  { material: 'dot', fit: 'nearest', speed: 1, form: { kind: 'png' } },
  { material: 'flashes', fit: 'motion', speed: 1, form: { kind: 'mp4', rate: rate(60), way: 'motion' } },
  { material: 'fields', fit: 'motion', speed: 2, form: { kind: 'png' } },
  { material: 'cuts', fit: 'motion', speed: 2, form: { kind: 'mp4', rate: rate(30000, 1001), way: 'blend' } },
];

async function inputOf({ material, fit, speed, form }: Case): Promise<RenderInput> {
  const placed = await projectOf({ width: WIDTH, height: HEIGHT }, [await sourceOf(material), 'nearest', 0]);
  const clipIds = placed.timeline.clips.map((c) => c.id);
  const slow = after(
    placed,
    ...(speed === 1
      ? []
      : [
          {
            type: 'retimeClip' as const,
            timelineId: 't',
            clipId: clipIds[0] ?? '',
            pins: [
              { frame: 0, picture: 0, way: 'even' as const },
              { frame: 40, picture: 40 / speed, way: 'even' as const },
            ],
            follow: 'keep' as const,
          },
        ]),
    { type: 'setFit', timelineId: 't', clipIds, fit },
  );
  const at = renderedAt(slow.project, slow.timeline, formSchema.parse(form));
  return { ...slow, ...at, range: { from: at.range.from, to: Math.min(at.range.to, at.range.from + FRAMES) } };
}

const quiet = (): void => undefined;
const measured = (input: RenderInput, files: readonly string[], form: RenderFormInput): Promise<Receipt> =>
  measureReceipt({ media: ffmpeg, progress: quiet }, { input, form: formSchema.parse(form), files });

/** A lossless file of some frames, as if it had been rendered. */
async function pretend(input: RenderInput, frames: readonly Uint8Array[], name: string): Promise<string> {
  const path = join(folder, name);
  const { rate: at } = input.timeline;
  const pixelFormat = input.look?.pixelFormat ?? 'yuv420p';
  await ffmpeg.encode(path, { width: WIDTH, height: HEIGHT, rate: at, pixelFormat, form: 'mkv' }, frames);
  return path;
}

const steps = (a: Uint8Array, b: Uint8Array): number => {
  let most = 0;
  for (let i = 0; i < WIDTH * HEIGHT; i++) most = Math.max(most, Math.abs((a[i] as number) - (b[i] as number)));
  return most;
};

test.each(CASES)(
  '$material, $fit, as $form.kind: nothing is objected to, and a held frame is found',
  async (tried) => {
    const form = { ...QUIET, ...tried.form };
    const input = await inputOf(tried);
    const { paths, input: look } = await rendered(input, join(folder, `${tried.material}-${tried.fit}.x`), form);
    const receipt = await measured(look, paths, form);
    expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
    expect(receipt.wrong).toEqual([]);

    // The same with a frame that shows the one before: the dot of 12 samples one step late is enough.
    const plain = { ...QUIET, kind: 'mkv' as const };
    const { input: own } = await rendered(input, join(folder, `${tried.material}-${tried.fit}-plain.mkv`), plain);
    const frames: Uint8Array[] = [];
    for await (const frame of composed({ media: ffmpeg }, own, own.timeline)) frames.push(frame.slice());
    const at = frames.findIndex((f, n) => n > 6 && steps(f, frames[n - 1] as Uint8Array) > 20);
    expect(at).toBeGreaterThan(6);
    const held = frames.map((f, n) => (n === at ? (frames[n - 1] as Uint8Array) : f));
    const found = await measured(own, [await pretend(own, held, `${tried.material}-${tried.fit}-held.mkv`)], plain);
    expect(found.wrong).toMatchObject([{ frame: at, frames: 1 }]);
  },
  60_000,
);

test('frames that move by so little that coding hides each are told where all are shifted by one', async () => {
  MATERIALS.slow = (k, x, y) => 120 + 40 * Math.sin((x + 0.2 * k) / 6) + 30 * Math.cos((y - 0.2 * k) / 5);
  const input = await inputOf({ material: 'slow', fit: 'nearest', speed: 1, form: {} });
  const form = { ...QUIET, quality: 28 };
  const { input: own, paths } = await rendered(input, join(folder, 'slow.mp4'), form);
  expect(await measured(own, paths, form)).toMatchObject({ differs: 0 });
  const frames: Uint8Array[] = [];
  for await (const frame of composed({ media: ffmpeg }, own, own.timeline)) frames.push(frame.slice());
  const skipped = [...frames.slice(0, 8), ...frames.slice(9), frames.at(-1) as Uint8Array];
  const path = join(folder, 'slow-skipped.mp4');
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' as const, crf: 28 };
  const colour = { matrix: 'smpte170m', range: 'limited' as const, primaries: null, transfer: null };
  await ffmpeg.encode(path, { ...request, colour }, skipped);
  const found = await measured(own, [path], form);
  const [run, ...more] = found.wrong;
  expect(more).toEqual([]);
  // Coding takes from what comes next already: within two frames of where it was left out.
  expect(Math.abs((run?.frame ?? 0) - 8)).toBeLessThanOrEqual(2);
  expect(run?.shows).toBe((run?.frame ?? 0) + 1);
}, 60_000);

test('a texture that low quality takes away is as asked for as long as it lasts, but for a fault within it', async () => {
  const noise = (k: number, x: number, y: number): number =>
    Math.abs(Math.sin((k + 1) * 12.9898 + x * 78.233 + y * 37.719) * 43_758.5453) % 1;
  MATERIALS.grain = (k, x, y) => 60 + 120 * noise(k, x, y);
  const form = { ...QUIET, quality: 45 };
  const input = await inputOf({ material: 'grain', fit: 'nearest', speed: 1, form });
  const { input: own, paths } = await rendered(input, join(folder, 'grain.mp4'), form);
  expect(await measured(own, paths, form)).toMatchObject({ differs: 0 });
  const frames: Uint8Array[] = [];
  for await (const frame of composed({ media: ffmpeg }, own, own.timeline)) frames.push(frame.slice());
  const fault = frames.map((f, n) => (n === 17 ? f.map(() => 128).fill(16, 0, WIDTH * HEIGHT) : f));
  const path = join(folder, 'grain-black.mp4');
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' as const, crf: 45 };
  const colour = { matrix: 'smpte170m', range: 'limited' as const, primaries: null, transfer: null };
  await ffmpeg.encode(path, { ...request, colour }, fault);
  const found = await measured(own, [path], form);
  expect(found.wrong.some((w) => w.frame <= 17 && w.frame + w.frames > 17)).toBe(true);
}, 60_000);

test('a frame held in a slow fade is told, though each frame changes by less than coding leaves', async () => {
  MATERIALS.fade = (k, x, y) => 16 + (hills(k, x, y) - 16) * (1 - k / 30);
  const form = { ...QUIET, quality: 34 };
  const input = await inputOf({ material: 'fade', fit: 'nearest', speed: 1, form });
  const { input: own, paths } = await rendered(input, join(folder, 'fade.mp4'), form);
  expect(await measured(own, paths, form)).toMatchObject({ differs: 0 });
  const frames: Uint8Array[] = [];
  for await (const frame of composed({ media: ffmpeg }, own, own.timeline)) frames.push(frame.slice());
  const held = frames.map((f, n) => (n === 10 ? (frames[9] as Uint8Array) : f));
  const path = join(folder, 'fade-held.mp4');
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' as const, crf: 34 };
  const colour = { matrix: 'smpte170m', range: 'limited' as const, primaries: null, transfer: null };
  await ffmpeg.encode(path, { ...request, colour }, held);
  const found = await measured(own, [path], form);
  expect(found.wrong.some((w) => w.frame <= 10 && w.frame + w.frames > 10)).toBe(true);
}, 60_000);
