import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from './index.js';

/** The port's contract on channels and tracks of sound. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-sound-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A file of constant channels, 0.05 more each; their places as FFmpeg names them. */
function made(name: string, channels: number, places?: string): string {
  const path = join(folder, name);
  const values = Array.from({ length: channels }, (_, c) => (0.05 * (c + 1)).toFixed(2)).join('|');
  const source = `aevalsrc=${values}:d=0.2:s=48000${places ? `:c=${places}` : ''}`;
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', source, '-c:a', 'pcm_f32le', path]);
  if (status !== 0) throw new Error(String(stderr));
  return path;
}

/** The first sample of each channel, in twentieths. */
async function first(path: string, channels: number, asStored: boolean): Promise<number[]> {
  for await (const block of ffmpeg.openSound(path, { sampleRate: 48_000, channels, asStored }))
    return Array.from(block.subarray(0, channels), (value) => Math.round(value * 200) / 10);
  return [];
}

test.each([
  [3, '3.0'],
  [4, 'quad'],
  [6, 'hexagonal'],
  [6, '5.1(side)'],
  [12, undefined],
])('%d channels (%s) come as they are stored, each in its place', async (channels, places) => {
  const path = made(`own-${channels}-${places}.wav`, channels, places);
  expect(await first(path, channels, true)).toEqual(Array.from({ length: channels }, (_, c) => c + 1));
});

test('more channels than have places are mixed: odd ones left, even ones right, or all together', async () => {
  const path = made('many.wav', 12);
  expect(await first(path, 2, false)).toEqual([6, 7]);
  expect(await first(path, 1, false)).toEqual([6.5]);
});

test('tracks beside the first are counted', async () => {
  const [one, two] = [made('one.wav', 1), made('two.wav', 2)];
  const path = join(folder, 'tracks.mov');
  const maps = ['-map', '0', '-map', '1', '-map', '1'];
  spawnSync('ffmpeg', ['-v', 'error', '-y', '-i', one, '-i', two, ...maps, '-c:a', 'pcm_s24le', path]);
  expect((await ffmpeg.probe(path)).sound).toMatchObject({ channels: 1, others: 2 });
  expect((await ffmpeg.probe(one)).sound).not.toHaveProperty('others');
});
