import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mix8 } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import type { CommandInput } from '@thawline/project';
import { after, projectOf } from '../fixtures/project.fixture.js';
import { composed } from './compose.js';
import { type RenderInput } from './input.js';

/** What frames of retimed clips are made of, from real files, bit for bit. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-compose-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT, PICTURES] = [64, 36, 200];

/** A picture that says its number, soft enough for motion to follow. */
function numbered(k: number): Uint8Array {
  const picture = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      picture[y * WIDTH + x] = 128 + 50 * Math.sin((x + k * 0.7) * 0.35) + 30 * Math.cos(y * 0.3 + (x - k) * 0.1) + (k % 5);
  return picture;
}
const REAL = Array.from({ length: PICTURES }, (_, k) => numbered(k));

/** The clip's file at 25 on a timeline of 25, then what is done to it; every frame as a render composes it. */
const frames = (...commands: object[]): Promise<Uint8Array[]> => framesOf(REAL, commands);

async function framesOf(
  stored: readonly Uint8Array[],
  commands: readonly object[],
  more: Partial<RenderInput> = {},
): Promise<Uint8Array[]> {
  const path = join(folder, 'clip.mkv');
  await ffmpeg.encode(path, { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, stored);
  const placed = await projectOf({ width: WIDTH, height: HEIGHT }, [path, 'nearest', 0]);
  const said = { timelineId: 't', clipId: 'c0', clipIds: ['c0'], follow: 'move' };
  const input = { ...after(placed, ...commands.map((c) => ({ ...said, ...c }) as unknown as CommandInput)), ...more };
  const out: Uint8Array[] = [];
  for await (const frame of composed({ media: ffmpeg }, input, input.timeline)) out.push(frame.slice());
  return out;
}

/** Numbers of the real pictures that frames are, bit for bit; -1 where one is none. */
const numbersOf = (shown: readonly Uint8Array[]): number[] =>
  shown.map((frame) => REAL.findIndex((real) => Buffer.compare(frame, real) === 0));

test('backward every picture comes once, in its order, over more pictures than are held at once', async () => {
  const pins = [
    { frame: 0, picture: PICTURES - 1, way: 'even' },
    { frame: PICTURES - 1, picture: 0, way: 'even' },
  ];
  const shown = numbersOf(await frames({ type: 'retimeClip', pins }));
  expect(shown).toEqual(Array.from({ length: PICTURES }, (_, n) => PICTURES - 1 - n));
});

test('forward, standing, back and forward again are the pictures the pins name', async () => {
  const pins = [
    { frame: 0, picture: 0, way: 'even' },
    { frame: 50, picture: 150, way: 'held' },
    { frame: 60, picture: 150, way: 'even' },
    { frame: 100, picture: 10, way: 'even' },
    { frame: 120, picture: 199, way: 'even' },
  ];
  const shown = numbersOf(await frames({ type: 'retimeClip', pins }));
  expect(shown).toHaveLength(121);
  expect([0, 10, 49, 50, 59, 60, 80, 99, 100, 110, 120].map((n) => shown[n])).toEqual([
    ...[0, 30, 147, 150, 150, 150, 80, 13],
    ...[10, 104, 199],
  ]);
  expect(shown).not.toContain(-1);
});

test('slowed down by motion real pictures stand untouched, and for single frames another way is taken', async () => {
  const half = [
    { type: 'setFit', fit: 'motion' },
    { type: 'retimeClip', speed: rate(1, 2), length: 40 },
  ];
  const plain = await frames(...half);
  expect(numbersOf(plain).map((k, n) => (n % 2 === 0 ? k : 0))).toEqual(
    Array.from({ length: 40 }, (_, n) => (n % 2 ? 0 : n / 2)),
  );
  expect(numbersOf(plain).filter((k) => k === -1)).toHaveLength(20);
  const chosen = await frames(
    ...half,
    { type: 'chooseFrames', frames: [5], as: 'nearest' },
    { type: 'chooseFrames', frames: [9], as: 'blend' },
  );
  expect(numbersOf(chosen)[5]).toBe(3);
  const mixed = new Uint8Array(REAL[4]?.length ?? 0);
  mix8(REAL[4] as Uint8Array, REAL[5] as Uint8Array, 128, mixed);
  expect(Buffer.compare(chosen[9] as Uint8Array, mixed)).toBe(0);
  // The others are as they were.
  for (const n of [1, 3, 7, 11, 39]) expect(Buffer.compare(chosen[n] as Uint8Array, plain[n] as Uint8Array)).toBe(0);
});

test('threads give the very same frames, on a curve that turns round, too', async () => {
  const pins = [
    { frame: 0, picture: 4, way: 'even' },
    { frame: 14, picture: 9, way: 'eased', handles: [0.3, 0, 0.6, 1] },
    { frame: 30, picture: 2, way: 'even' },
  ];
  const commands = [
    { type: 'setFit', fit: 'motion' },
    { type: 'retimeClip', pins, length: 31 },
  ];
  const threads = { count: 2, entry: new URL('../../dist/motion/worker.js', import.meta.url) };
  const [here, there] = [await framesOf(REAL, commands), await framesOf(REAL, commands, { threads })];
  expect(here).toHaveLength(31);
  expect(there.map((frame, n) => Buffer.compare(frame, here[n] as Uint8Array))).toEqual(here.map(() => 0));
});

test('held pictures give way to made ones, which come nearer to what was there than what was held', async () => {
  const padded = REAL.slice(0, 60).map((_, k) => REAL[k - (k % 3)] as Uint8Array);
  const held = padded.flatMap((_, k) => (k % 3 === 0 ? [] : [k]));
  const shown = await framesOf(padded, [{ type: 'rebuildSource', sourceId: 'i0', held }]);
  expect(shown).toHaveLength(60);
  const off = (a: Uint8Array, b: Uint8Array): number => {
    let sum = 0;
    for (let i = 0; i < WIDTH * HEIGHT; i++) sum += ((a[i] as number) - (b[i] as number)) ** 2;
    return sum;
  };
  for (let k = 0; k < 57; k++) {
    const [is, was, truth] = [shown[k], padded[k], REAL[k]] as [Uint8Array, Uint8Array, Uint8Array];
    if (k % 3 === 0) expect(Buffer.compare(is, truth)).toBe(0);
    else expect(off(is, truth)).toBeLessThan(off(was, truth) / 3);
  }
});

test('an open shutter averages what it covers', async () => {
  const shown = await frames({ type: 'retimeClip', speed: rate(4) }, { type: 'setShutter', degrees: 180 });
  const wanted = (n: number, i: number): number => ((REAL[4 * n]?.[i] ?? 0) + (REAL[4 * n + 1]?.[i] ?? 0)) / 2;
  for (const n of [0, 7, 30])
    for (const i of [3, 500, 1999]) expect(Math.abs((shown[n]?.[i] ?? 0) - wanted(n, i))).toBeLessThanOrEqual(0.5);
});

test('a dissolve is a mix of both clips, each going on beyond its cut', async () => {
  const shown = await frames(
    { type: 'splitClips', frame: 100, seed: 's' },
    { type: 'slipClips', clipIds: ['s-0'], byPictures: -50 },
    { type: 'setDissolve', clipId: 's-0', before: 4, after: 6 },
  );
  const mixed = (n: number): Uint8Array => {
    const out = new Uint8Array(shown[0]?.length ?? 0);
    mix8(REAL[n] as Uint8Array, REAL[n - 50] as Uint8Array, Math.round(((2 * (n - 96) + 1) * 256) / 20), out);
    return out;
  };
  expect(shown).toHaveLength(PICTURES);
  expect(numbersOf(shown.slice(90, 96))).toEqual([90, 91, 92, 93, 94, 95]);
  for (let n = 96; n < 106; n++) expect(Buffer.compare(shown[n] as Uint8Array, mixed(n))).toBe(0);
  expect(numbersOf(shown.slice(106, 110))).toEqual([56, 57, 58, 59]);
});
