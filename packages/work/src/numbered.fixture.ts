import { join } from 'node:path';
import type { Rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { SOUND_RATE } from './index.js';

/** Small made-up films whose pictures say their numbers. */

export const WIDTH = 64;
export const HEIGHT = 36;

/** A picture that says its number: a bright column that moves one place a picture, over a slope that brightens with it. */
export function numbered(k: number): Uint8Array {
  const picture = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
  for (let i = 0; i < WIDTH * HEIGHT; i++) picture[i] = i % WIDTH === k % WIDTH ? 235 : 30 + ((k * 3) % 90) + (i % 7);
  return picture;
}

/** A short click at one sample in silence, stereo. */
export function click(seconds: number, at: number): Float32Array {
  const sound = new Float32Array(Math.round(seconds * SOUND_RATE) * 2);
  for (let n = 0; n < 40; n++) {
    sound[2 * (at + n)] = 0.8;
    sound[2 * (at + n) + 1] = 0.8;
  }
  return sound;
}

/** A file of so many pictures; @returns its path */
export async function source(folder: string, name: string, r: Rate, pictures: number, sound?: Float32Array): Promise<string> {
  const path = join(folder, name);
  const request = {
    width: WIDTH,
    height: HEIGHT,
    rate: r,
    pixelFormat: 'yuv420p',
    form: 'mkv' as const,
    ...(sound ? { sound: { sampleRate: SOUND_RATE, channels: 2 } } : {}),
  };
  await ffmpeg.encode(
    path,
    request,
    Array.from({ length: pictures }, (_, k) => numbered(k)),
    sound ? [sound] : undefined,
  );
  return path;
}

export async function decoded(path: string, pixelFormat = 'yuv420p'): Promise<Uint8Array[]> {
  const probe = await ffmpeg.probe(path);
  const out: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat })) out.push(picture);
  return out;
}

/** Its sound, mono. */
export async function heard(path: string): Promise<Float32Array> {
  const blocks: number[] = [];
  for await (const block of ffmpeg.openSound(path, { sampleRate: SOUND_RATE, channels: 1 }))
    for (const v of block) blocks.push(v);
  return Float32Array.from(blocks);
}
