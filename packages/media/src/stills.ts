import type { Readable, Writable } from 'node:stream';
import {
  type Colour,
  type Encoding,
  isHighRange,
  isSeenThrough,
  type Light,
  pixelFacts,
  settledColour,
  workingFormat,
} from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { nameOf } from './colour.js';
import { rawInput } from './encode.js';
import { lightFilters } from './light.js';
import { litKnown } from './linear.js';
import { complete, decoding, overBlack } from './pictures.js';
import type { Known } from './port.js';
import { GUARD, run } from './process.js';

/** Pictures for looking at: each a file of its own, in the colours of screens. */

interface StillRequest {
  readonly width: number;
  readonly height: number;
  /** FFmpeg's scale of JPEG: 2 is finest, 31 coarsest. */
  readonly quality: number;
  readonly from?: number;
  readonly count?: number;
  readonly signal?: AbortSignal;
}

/** Primaries beyond those that screens are made for. */
const WIDE = /^(bt2020|smpte428|smpte431|smpte432|film)$/;

/** Whether colours look wrong where nobody converts them. */
function isWide(colour: Colour | undefined): boolean {
  return isHighRange(colour?.transfer ?? null) || WIDE.test(colour?.primaries ?? '');
}

/** What screens show. */
const SCREEN = { matrix: 'bt709', range: 'limited', primaries: 'bt709', transfer: 'bt709' } as const;

/** JPEGs are told by their first bytes; what is not one is WebP here. */
const isJpeg = (still: Uint8Array): boolean => still[0] === 0xff && still[1] === 0xd8;

/** The type of a picture of openStills, by its first bytes. */
export function stillType(still: Uint8Array): 'image/jpeg' | 'image/webp' {
  return isJpeg(still) ? 'image/jpeg' : 'image/webp';
}

/** One JPEG a picture (baseline, from FFmpeg's mjpeg), or one WebP where pictures have alpha. */
export function openStills(path: string, file: Known, request: StillRequest): AsyncGenerator<Uint8Array> {
  const known = litKnown(file, SCREEN);
  return complete(isSeenThrough(known) ? webps(path, known, request) : jpegs(path, known, request), known, request);
}

/** Where a JPEG ends: entropy-coded data never holds FF D9 (FF is stuffed with 00). 0 where the end is not there yet. */
function jpegEnd(bytes: Uint8Array, searched: number): number {
  for (let at = Math.max(1, searched); at < bytes.length; at++) if (bytes[at] === 0xd9 && bytes[at - 1] === 0xff) return at + 1;
  return 0;
}

/** Where a WebP ends: its head says how long it is (RIFF). */
function webpEnd(bytes: Uint8Array): number {
  if (bytes.length < 8) return 0;
  const end = 8 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true);
  return bytes.length >= end ? end : 0;
}

function jpegs(path: string, known: Known, request: StillRequest): AsyncGenerator<Uint8Array> {
  const { matrix, range } = known.colour ?? { matrix: null, range: null };
  // Raw pictures do not say what the file said of itself.
  const said = known.fieldsRead
    ? [...(matrix ? [`in_color_matrix=${nameOf(matrix)}`] : []), `in_range=${range ?? 'limited'}`]
    : [];
  const sized = `scale=${request.width}:${request.height}:flags=bicubic`;
  const lights = isWide(known.colour) ? lightFilters(known, SCREEN, { pixelFormat: 'yuv444p', alpha: false, size: request }) : [];
  const seen =
    lights.length > 0
      ? [sized, ...lights, 'scale=iw:ih:in_color_matrix=bt709:in_range=limited:out_color_matrix=bt601:out_range=full']
      : [[sized, ...said, 'out_range=full'].join(':')];
  const filters = [...seen, 'format=yuvj420p'];
  const output = ['-c:v', 'mjpeg', '-q:v', String(request.quality), '-f', 'image2pipe', 'pipe:1'];
  return cut(path, known, request, { filters, output, endOf: jpegEnd });
}

/** FFmpeg's scale of WebP, 0 to 100; about as fine as JPEGs are here. */
const WEBP_QUALITY = '86';

function webps(path: string, known: Known, request: StillRequest): AsyncGenerator<Uint8Array> {
  const lights = isWide(known.colour) ? lightFilters(known, SCREEN, { pixelFormat: 'gbrap', alpha: true }) : [];
  const filters = [
    ...lights,
    // What lies where nothing is seen must not be mixed in when they are made smaller.
    ...overBlack(known),
    `scale=${request.width}:${request.height}:flags=bicubic`,
    'format=gbrap',
    'unpremultiply=inplace=1',
    'scale=iw:ih:out_color_matrix=bt601:out_range=limited',
    'format=yuva420p',
  ];
  const output = ['-c:v', 'libwebp', '-quality', WEBP_QUALITY, '-f', 'image2pipe', 'pipe:1'];
  return cut(path, known, request, { filters, output, endOf: webpEnd });
}

/** Pictures that come one behind the other, each by itself. */
async function* cut(
  path: string,
  known: Known,
  request: StillRequest,
  {
    filters,
    output,
    endOf,
  }: {
    readonly filters: string[];
    readonly output: readonly string[];
    /** Where the first picture ends, where it is all there, else 0; up to `searched` no end was found. */
    readonly endOf: (bytes: Uint8Array, searched: number) => number;
  },
): AsyncGenerator<Uint8Array> {
  const process = decoding(path, known, request, { inputFormat: workingFormat(known.pixelFormat), filters, output });
  let rest: Uint8Array = new Uint8Array(0);
  let searched = 0;
  let finished = false;
  try {
    for await (const chunk of process.child.stdout as unknown as AsyncIterable<Uint8Array>) {
      const joined = new Uint8Array(rest.length + chunk.length);
      joined.set(rest);
      joined.set(chunk, rest.length);
      rest = joined;
      for (let end = endOf(rest, searched); end > 0; end = endOf(rest, 0)) {
        yield rest.slice(0, end);
        rest = rest.slice(end);
      }
      searched = rest.length;
    }
    finished = true;
  } finally {
    if (!finished) process.child.kill('SIGKILL');
  }
  await process.done;
}

/** A raw picture as a JPEG: see the port. */
export async function jpegOf(
  picture: Uint8Array,
  request: { width: number; height: number; pixelFormat: string; colour?: Encoding & Partial<Light>; most: number },
  signal?: AbortSignal,
): Promise<Uint8Array> {
  const even = (n: number): number => Math.max(2, Math.round(n / 2) * 2);
  const width = even(Math.min(request.most, request.width));
  const height = even((request.height * width) / request.width);
  const encoding = request.colour ?? settledColour(undefined, request.height);
  const colour: Colour = { primaries: null, transfer: null, ...encoding };
  const known = { width, height, pixelFormat: request.pixelFormat, colour };
  const lights = isWide(colour) ? lightFilters(known, SCREEN, { pixelFormat: 'yuv444p', alpha: false }) : [];
  const { matrix, range } = lights.length > 0 ? SCREEN : encoding;
  const colours = `in_color_matrix=${nameOf(matrix)}:in_range=${range}:out_color_matrix=bt601:out_range=full`;
  // What has alpha is shown over black.
  const black = pixelFacts(request.pixelFormat)?.alpha ? ['premultiply=inplace=1'] : [];
  const sized = [...black, `scale=${width}:${height}:flags=bicubic`].join(',');
  const filters = lights.length > 0 ? [sized, ...lights, `scale=iw:ih:${colours}`] : [`${sized}:${colours}`];
  const args = [
    ...['-hide_banner', '-v', 'error', '-protocol_whitelist', 'file,pipe', ...rawInput({ ...request, rate: rate(25) })],
    ...['-vf', [...filters, 'format=yuvj420p'].join(','), '-frames:v', '1'],
    ...['-c:v', 'mjpeg', '-q:v', '4', '-f', 'image2pipe', 'pipe:1'],
  ];
  return collected(run('ffmpeg', args, { stdio: ['pipe', 'pipe', 'pipe'], failure: 'decode-failed', signal }), [picture]);
}

/** Several pictures as one JPEG, side by side, those with alpha over black: see the port. */
export async function tileStills(
  stills: readonly Uint8Array[],
  tile: { width: number; height: number },
  signal?: AbortSignal,
): Promise<Uint8Array> {
  const jpeg = stills.every(isJpeg);
  const scale = `scale=${tile.width}:${tile.height}:flags=bicubic`;
  const args = [
    ...['-hide_banner', '-v', 'error', ...GUARD, '-f', jpeg ? 'jpeg_pipe' : 'webp_pipe', '-i', 'pipe:0'],
    ...['-vf', `${jpeg ? '' : 'premultiply=inplace=1,'}${scale},tile=${stills.length}x1`, '-frames:v', '1'],
    ...['-c:v', 'mjpeg', '-q:v', '5', '-f', 'image2pipe', 'pipe:1'],
  ];
  return collected(run('ffmpeg', args, { stdio: ['pipe', 'pipe', 'pipe'], failure: 'decode-failed', signal }), stills);
}

/** What a process gives back for what it is given. */
async function collected(process: ReturnType<typeof run>, given: readonly Uint8Array[]): Promise<Uint8Array> {
  const stdin = process.child.stdin as Writable;
  stdin.on('error', () => undefined);
  for (const bytes of given) stdin.write(bytes);
  stdin.end();
  const parts: Buffer[] = [];
  for await (const part of process.child.stdout as Readable) parts.push(part as Buffer);
  await process.done;
  return Buffer.concat(parts);
}
