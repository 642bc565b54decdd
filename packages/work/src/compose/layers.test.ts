import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { layersAt, noTiming, picturesOfLayers } from '@thawline/project';
import { changed, projectOf, rendered, timelineOf, withOver } from '../fixtures/project.fixture.js';
import type { RenderInput } from '../index.js';

/** A light disc with a soft edge over a moving ground, on two lanes: sums are written out for every pixel. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-layers-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 48 };
const N = SIZE.width * SIZE.height;
const ground = join(folder, 'ground.mkv');

const level = (k: number, i: number): number => 60 + (((i % SIZE.width) + Math.floor(i / SIZE.width) + 3 * k) % 90);
const opaqueAt = (k: number, i: number): number =>
  Math.max(0, Math.min(1, (16 - Math.hypot((i % SIZE.width) - 24 - k, Math.floor(i / SIZE.width) - 24)) / 7));

beforeAll(async () => {
  const colour = { primaries: null, transfer: null, matrix: 'smpte170m', range: 'limited' as const };
  const pictures = Array.from({ length: 8 }, (_, k) =>
    Uint8Array.from({ length: (N * 3) / 2 }, (_, i) => (i < N ? level(k, i) : 128)),
  );
  await ffmpeg.encode(ground, { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', colour }, pictures);
});

/** A grey disc, so that its luma is one number; hidden colour is what is asked for. */
async function disc(name: string, kind: 'straight' | 'multiplied', hidden: number): Promise<string> {
  const path = join(folder, `${name}.mkv`);
  const pictures = Array.from({ length: 8 }, (_, k) => {
    const out = new Uint8Array(4 * N);
    for (let i = 0; i < N; i++) {
      const alpha = Math.round(255 * opaqueAt(k, i)) / 255;
      const shade = kind === 'multiplied' ? 220 * alpha : alpha === 0 ? hidden : 220;
      for (let at = 0; at < 3 * N; at += N) out[at + i] = Math.round(shade);
      out[3 * N + i] = Math.round(255 * alpha);
    }
    return out;
  });
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat: 'gbrap', form: 'mkv' }, pictures);
  return path;
}

/** The ground on the lower lane, a file on the upper one from frame 2 on. */
async function twoLanes(path: string): Promise<RenderInput> {
  return withOver(await projectOf(SIZE, [ground, 'nearest', 0]), path, 2);
}

async function lumas(input: RenderInput, name: string): Promise<Uint8Array[]> {
  const { paths } = await rendered(input, join(folder, name), { kind: 'mkv' });
  const found: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(paths[0] ?? '', await ffmpeg.probe(paths[0] ?? ''), { pixelFormat: 'yuv420p' }))
    found.push(picture);
  return found;
}

test.each([
  ['straight', 0],
  ['straight', 255],
  ['multiplied', 0],
] as const)('a disc of %s colour lies over the ground, which is seen through it (hidden colour %d)', async (kind, hidden) => {
  const input = await twoLanes(await disc(`${kind}-${hidden}`, kind, hidden));
  const frames = await lumas(input, `out-${kind}-${hidden}`);
  // Before the disc the ground is as it was, bit for bit.
  for (const k of [0, 1])
    expect([...(frames[k] as Uint8Array).subarray(0, N)]).toEqual(Array.from({ length: N }, (_, i) => level(k, i)));
  const disced = 16 + (219 * 220) / 255;
  for (const n of [2, 5, 7]) {
    const off = Array.from({ length: N }, (_, i) => {
      const alpha = Math.round(255 * opaqueAt(n - 2, i)) / 255;
      return Math.abs((frames[n]?.[i] as number) - (disced * alpha + level(n, i) * (1 - alpha)));
    });
    // FFmpeg rounds alpha of 8 bit, colour times alpha, and luma of that: a step and a half at most, and the frame's own.
    expect(Math.max(...off)).toBeLessThan(2.5);
    // Grey stays grey.
    expect(Math.max(...[...(frames[n] as Uint8Array).subarray(N)].map((c) => Math.abs(c - 128)))).toBeLessThanOrEqual(1);
  }
  // After the ground has ended the disc lies over black.
  const corner = frames[9]?.[0];
  expect(corner).toBe(16);
});

test('what lies beneath is part of what a part shows: with another ground beneath nothing is taken from the cache', async () => {
  const input = await twoLanes(await disc('parts', 'straight', 0));
  const cache = join(folder, 'cache');
  const reused = async (name: string, of: RenderInput): Promise<number> => {
    const made = await rendered(of, join(folder, name), { kind: 'mkv' }, cache);
    return made.reused;
  };
  expect(await reused('one', input)).toBe(0);
  expect(await reused('two', input)).toBe(10);
  const project = changed(input.project, { type: 'removeClips', timelineId: 't', clipIds: ['c0'] });
  expect(await reused('three', { ...input, project, timeline: timelineOf(project) })).toBe(0);
});

test('a clip of some opacity shows what lies beneath it, alpha or none', async () => {
  const clear = await twoLanes(await disc('half', 'straight', 0));
  const seen = (input: RenderInput, opacity: number): RenderInput => {
    const clipId = input.timeline.clips.find((c) => c.laneId === 'p2')?.id ?? '';
    const project = changed(input.project, { type: 'setOpacity', timelineId: 't', clipIds: [clipId], opacity });
    return { ...input, project, timeline: timelineOf(project) };
  };
  const half = await lumas(seen(clear, 0.5), 'half');
  const middle = 24 * SIZE.width + 25;
  expect(Math.abs((half[3]?.[middle] as number) - ((16 + (219 * 220) / 255) / 2 + level(3, middle) / 2))).toBeLessThan(2);
  const same = await lumas(seen(await twoLanes(ground), 0.25), 'quarter');
  expect(Math.abs((same[4]?.[middle] as number) - (0.25 * level(2, middle) + 0.75 * level(4, middle)))).toBeLessThan(0.51);
  const none = await lumas(seen(await twoLanes(ground), 0), 'none');
  expect([...(none[4] as Uint8Array).subarray(0, N)]).toEqual(Array.from({ length: N }, (_, i) => level(4, i)));
});

test('the viewer draws the ground beneath the disc', async () => {
  const { project, timeline } = await twoLanes(await disc('viewer', 'straight', 0));
  expect(picturesOfLayers(layersAt(project, timeline, 5, noTiming)).map((l) => l.source?.id)).toEqual(['i0', 'over']);
  expect(picturesOfLayers(layersAt(project, timeline, 0, noTiming)).map((l) => l.source?.id)).toEqual(['i0']);
});
