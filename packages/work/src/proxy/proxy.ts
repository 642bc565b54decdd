import { createWriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Probe } from '@thawline/media';
import type { SourceFile } from '../compose/input.js';
import { atomicWrite, atomicWriteFile } from '../files/atomicWrite.js';
import type { JobContext } from '../jobs/context.js';

/** Proxies are at most this wide. */
export const PROXY_WIDTH = 960;
/** FFmpeg's mjpeg scale: 2 is finest, 31 coarsest. */
const PROXY_QUALITY = 4;

/** A thumbnail strip has at most so many pictures, evenly spread. */
export const THUMBS = 16;
/** They fit into this. */
const THUMB_BOX = { width: 128, height: 72 };

/**
 * The files of a proxy: JPEGs one after the other, where each begins and the last ends (JSON, bytes), and the thumbnail
 * strip: one JPEG of several pictures side by side.
 */
export function proxyFiles(folder: string): { pictures: string; offsets: string; thumbs: string } {
  return { pictures: join(folder, 'proxy.jpegs'), offsets: join(folder, 'proxy.json'), thumbs: join(folder, 'thumbs.jpeg') };
}

/** The pictures of a thumbnail strip: the middles of equal parts of the clip. */
export function thumbPictures(pictures: number): number[] {
  const tiles = Math.min(THUMBS, pictures);
  return Array.from({ length: tiles }, (_, i) => Math.floor(((2 * i + 1) * pictures) / (2 * tiles)));
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
  context: JobContext,
  { path, probe, folder }: SourceFile & { readonly folder: string },
): Promise<{ pictures: number }> {
  const { media, progress, signal } = context;
  const files = proxyFiles(folder);
  const offsets = [0];
  async function* jpegs(): AsyncGenerator<Uint8Array> {
    const request = { ...proxySize(probe), quality: PROXY_QUALITY, signal };
    for await (const jpeg of media.openStills(path, probe, request)) {
      offsets.push((offsets.at(-1) ?? 0) + jpeg.length);
      if (offsets.length % 25 === 0) progress(offsets.length - 1, probe.pictures, 'making a proxy');
      yield jpeg;
    }
  }
  await atomicWrite(files.pictures, (temporary) => pipeline(jpegs, createWriteStream(temporary)));
  const strip = await media.tileStills(await stripOf(files.pictures, offsets), thumbSize(proxySize(probe)), signal);
  await atomicWriteFile(files.thumbs, strip);
  await atomicWriteFile(files.offsets, JSON.stringify({ ...proxySize(probe), offsets }));
  return { pictures: offsets.length - 1 };
}

async function stripOf(path: string, offsets: readonly number[]): Promise<Uint8Array[]> {
  const file = await open(path);
  try {
    const strip: Uint8Array[] = [];
    for (const k of thumbPictures(offsets.length - 1)) {
      const [from, to] = [offsets[k] as number, offsets[k + 1] as number];
      const { buffer } = await file.read(new Uint8Array(to - from), 0, to - from, from);
      strip.push(buffer);
    }
    return strip;
  } finally {
    await file.close();
  }
}

function thumbSize(size: { width: number; height: number }): { width: number; height: number } {
  const scale = Math.min(1, THUMB_BOX.width / size.width, THUMB_BOX.height / size.height);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  return { width: even(size.width), height: even(size.height) };
}
