import { createWriteStream } from 'node:fs';
import { rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Media, Probe } from '@thawline/media';
import type { Progress } from './check.js';

/** Proxies are at most this wide. */
export const PROXY_WIDTH = 960;
/** FFmpeg's mjpeg scale: 2 is finest, 31 coarsest. */
const PROXY_QUALITY = 4;

/** The two files of a proxy: JPEGs one after the other, and where each begins and the last ends (JSON, bytes). */
export function proxyFiles(folder: string): { pictures: string; offsets: string } {
  return { pictures: join(folder, 'proxy.jpegs'), offsets: join(folder, 'proxy.json') };
}

/** Size of a proxy picture: the shape as shown (square samples), even, no larger than the source. */
export function proxySize(probe: Pick<Probe, 'width' | 'height' | 'sampleAspect'>): { width: number; height: number } {
  const shownWidth = probe.width * probe.sampleAspect;
  const scale = Math.min(1, PROXY_WIDTH / shownWidth);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  return { width: even(shownWidth), height: even(probe.height) };
}

/** Writes every picture as a JPEG of its own, so that any one can be shown at once and exactly. The offsets come last: they say it is whole. */
export async function makeProxy(
  media: Media,
  path: string,
  probe: Probe,
  folder: string,
  progress: Progress,
  signal?: AbortSignal,
): Promise<{ pictures: number }> {
  const files = proxyFiles(folder);
  const partial = `${files.pictures}.partial`;
  const offsets = [0];
  async function* jpegs(): AsyncGenerator<Uint8Array> {
    const request = { ...proxySize(probe), quality: PROXY_QUALITY, ...(signal ? { signal } : {}) };
    for await (const jpeg of media.openJpegs(path, probe, request)) {
      offsets.push((offsets.at(-1) ?? 0) + jpeg.length);
      if (offsets.length % 25 === 0) progress(offsets.length - 1, probe.pictures, 'making a proxy');
      yield jpeg;
    }
  }
  try {
    await pipeline(jpegs, createWriteStream(partial));
    await rename(partial, files.pictures);
    await writeFile(`${files.offsets}.partial`, JSON.stringify({ ...proxySize(probe), offsets }));
    await rename(`${files.offsets}.partial`, files.offsets);
  } catch (error) {
    await Promise.all([partial, `${files.offsets}.partial`].map((file) => rm(file, { force: true })));
    throw error;
  }
  return { pictures: offsets.length - 1 };
}
