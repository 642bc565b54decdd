import { mkdir, rm, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { meanSquare, pictureBytes, planeSizes, psnrOf } from '@thawline/core/picture';
import { nominalRate, secondsOf } from '@thawline/core/time';
import { type Known, type Media, MediaError, seriesPattern } from '@thawline/media';
import { FORMS, type RenderForm, type SettledForm, settledForm } from '@thawline/project';
import type { Progress } from '../check.js';
import { composed, layoutOf, type RenderInput, rangeOf } from '../compose.js';
import { hasSound, mixedSound } from '../mix.js';
import type { Loudness } from '../wave.js';
import { isMaking } from './chunks.js';
import { listen } from './listen.js';
import { Parts } from './parts.js';
import { lookedAt, partsOf } from './render.js';
import { partForm, partRequest, type WantedPart } from './write.js';
import { bytesOf } from './written.js';

export interface TrialRequest {
  readonly input: RenderInput;
  readonly form: RenderForm;
  /** Where the file would be written: free space is told of there. */
  readonly path: string;
  /** A folder of its own. */
  readonly work: string;
  readonly cache: string | null;
  readonly signal?: AbortSignal;
}

/** What a render will cost, from little of it. */
export interface Trial extends Loudness {
  readonly frames: number;
  /** Frames whose pictures are there already. */
  readonly reused: number;
  /** Bytes of the file, and seconds until it is written and measured; estimates. */
  readonly bytes: number;
  readonly seconds: number;
  /** How near coded pictures come to the composed ones: luma, in dB; null for forms that lose nothing, 100 for the very same. */
  readonly psnr: number | null;
  /** Bytes that are free where it is written. */
  readonly free: number;
}

/** Stretches that are tried, and how many frames of each at most. */
const STRETCHES = 3;
const MADE_FRAMES = 4;
/** Measuring a file against the edit takes about so much of the time that writing it does. */
const MEASURING = 0.6;
/** Seconds that starting and putting together take, however little there is of it. */
const STARTING = 1.5;
/** Bytes a second of sound within a file, by form; the rest is as it is. */
const SOUND_BYTES = { mp4: 24_000, webm: 20_000, mkv: 110_000 } as const;
const WAV_BYTES = 48_000 * 2 * 3;
/** "FRAME" and a line's end before each picture of Y4M. */
const Y4M_MARK = 6;

export async function trial(media: Media, request: TrialRequest, progress: Progress): Promise<Trial> {
  const form = settledForm(request.form);
  const { input, colour } = lookedAt(request.input, form);
  const { from, to } = rangeOf(input);
  const frames = to - from;
  const folder = dirname(request.path);
  const { bsize, bavail } = await statfs(folder).catch(() => {
    throw new MediaError('no-folder', folder);
  });
  const free = bsize * bavail;
  const seconds = secondsOf(frames, input.timeline.rate);
  const sounds = form.kind === 'wav' || (form.sound !== 'off' && hasSound(input));
  progress(0, null, 'listening');
  const level = sounds ? await listen(mixedSound(media, input, request.signal)) : { loudness: null, peak: null };
  const { loudness, peak } = level;
  const soundBytes = !sounds ? 0 : seconds * (form.kind in SOUND_BYTES ? SOUND_BYTES[form.kind as 'mp4'] : WAV_BYTES);
  if (form.kind === 'wav') return { frames, reused: frames, bytes: soundBytes, seconds: 1, psnr: null, free, loudness, peak };
  const parts = new Parts(request.work, request.cache, partForm(form));
  await parts.open();
  try {
    const wanted = await partsOf(media, input, form, colour);
    const missing: WantedPart[] = [];
    let [there, thereBytes] = [0, 0];
    for (const part of wanted) {
      const path = await parts.find(part.content);
      if (!path) missing.push(part);
      else {
        there += part.to - part.from;
        thereBytes += (await stat(path)).size;
      }
    }
    const kinds = [false, true].map((making) => missing.filter((p) => isMaking(input, p) === making));
    const [plain, made] = [
      await tryParts(media, { ...request, input, form }, kinds[0] ?? [], nominalRate(input.timeline.rate), progress),
      await tryParts(media, { ...request, input, form }, kinds[1] ?? [], MADE_FRAMES, progress),
    ];
    const count = (some: readonly WantedPart[] = []): number => some.reduce((sum, p) => sum + p.to - p.from, 0);
    // A few frames are mostly their key picture: where longer stretches were tried, those tell the size.
    const perFrame = plain?.bytes ?? (there > 0 ? thereBytes / there : (made?.bytes ?? 0));
    const bytes = thereBytes + count(kinds[0]) * (plain?.bytes ?? 0) + count(kinds[1]) * perFrame;
    const writing = count(kinds[0]) * (plain?.seconds ?? 0) + count(kinds[1]) * (made?.seconds ?? 0);
    const pace = plain?.seconds ?? made?.seconds ?? 0.01;
    return {
      ...{ frames, reused: there, free, loudness, peak },
      bytes: Math.round((await sizeOf(media, { ...request, input, form }, bytes)) + soundBytes),
      seconds: STARTING + writing + frames * Math.min(pace, 0.05) * MEASURING,
      psnr: FORMS[form.kind].lossless ? null : (plain?.psnr ?? made?.psnr ?? null),
    };
  } finally {
    await parts.close();
  }
}

interface Tried {
  readonly seconds: number;
  readonly bytes: number;
  readonly psnr: number | null;
}

/** Writes the beginnings of some parts, evenly chosen: per frame what that takes. */
async function tryParts(
  media: Media,
  request: Omit<TrialRequest, 'form'> & { readonly form: SettledForm },
  some: readonly WantedPart[],
  most: number,
  progress: Progress,
): Promise<Tried | null> {
  if (some.length === 0) return null;
  const { input, form, signal } = request;
  const { colour } = lookedAt(input, form);
  const chosen = new Set(Array.from({ length: STRETCHES }, (_, i) => some[Math.floor(((i + 0.5) * some.length) / STRETCHES)]));
  const layout = layoutOf(input);
  const luma = planeSizes(layout, input.timeline.width, input.timeline.height)[0];
  const lumaBytes = luma ? luma.width * luma.height * layout.bytes : 0;
  let [frames, bytes, square, begun] = [0, 0, 0, 0];
  let spent = 0;
  for (const part of chosen) {
    if (!part) continue;
    const range = { from: part.from, to: Math.min(part.to, part.from + most) };
    progress(begun++, chosen.size, 'trying a little of it');
    const path = `${request.work}/trial-${part.content}.${partForm(form)}`;
    const kept: Uint8Array[] = [];
    const count = range.to - range.from;
    let handed = 0;
    // Decoder and encoder start once for many parts: counted is from the second frame on.
    let start = performance.now();
    const pictures = async function* (): AsyncGenerator<Uint8Array> {
      for await (const picture of composed(media, { ...input, range }, input.timeline, signal)) {
        const copy = picture.slice();
        if (handed++ === 0) start = performance.now();
        if (layout.bytes === 1 && kept.length < 8) kept.push(copy);
        yield copy;
      }
    };
    const encoding = partRequest({ media, input, form, colour, signal });
    await media.encode(path, encoding, pictures());
    spent += performance.now() - start;
    bytes += (await stat(path)).size;
    frames += count;
    square += await meanSquareOf(media, path, encoding, kept, lumaBytes);
    await rm(path, { force: true });
  }
  const psnr = layout.bytes === 1 ? psnrOf(square / chosen.size, 255) : null;
  return { seconds: spent / 1000 / Math.max(1, frames - chosen.size), bytes: bytes / frames, psnr };
}

async function meanSquareOf(
  media: Media,
  path: string,
  {
    width,
    height,
    rate,
    pixelFormat,
  }: { width: number; height: number; rate: RenderInput['timeline']['rate']; pixelFormat: string },
  kept: readonly Uint8Array[],
  lumaBytes: number,
): Promise<number> {
  const timing = { kind: 'constant', rate, pictures: kept.length } as const;
  const known: Known = { timing, firstSeconds: 0, width, height, container: 'mp4', pixelFormat };
  let [sum, n] = [0, 0];
  for await (const picture of media.openPictures(path, known, { pixelFormat, count: kept.length })) {
    const before = kept[n++];
    if (before) sum += meanSquare(before.subarray(0, lumaBytes), picture.subarray(0, lumaBytes));
  }
  return n === 0 ? 0 : sum / n;
}

/**
 * What the pictures of the file take up: as coded in its parts, but for forms that are made of them anew. Y4M holds samples as they are; a
 * few frames are tried as PNG.
 */
async function sizeOf(
  media: Media,
  { input, form, work, signal }: Omit<TrialRequest, 'form'> & { readonly form: SettledForm },
  coded: number,
): Promise<number> {
  const { width, height, rate } = input.timeline;
  const { from, to } = rangeOf(input);
  const frames = to - from;
  const layout = layoutOf(input);
  if (form.kind === 'y4m') return frames * (pictureBytes(layout, width, height) + Y4M_MARK);
  if (form.kind !== 'png') return coded;
  const tried = Math.min(STRETCHES, frames);
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    for (let i = 0; i < tried; i++) {
      const frame = from + Math.floor(((i + 0.5) * frames) / tried);
      const range = { from: frame, to: frame + 1 };
      for await (const picture of composed(media, { ...input, range }, input.timeline, signal)) yield picture.slice();
    }
  };
  const folder = join(work, 'trial-png');
  await mkdir(folder);
  const { colour } = lookedAt(input, form);
  const pixelFormat = input.look?.pixelFormat ?? 'yuv420p';
  const request = { width, height, rate, pixelFormat, colour, form: form.kind, ...(signal ? { signal } : {}) };
  await media.encode(seriesPattern(folder, 'png'), request, pictures());
  return (await bytesOf([folder])) * (frames / tried);
}
