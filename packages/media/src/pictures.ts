import type { Readable } from 'node:stream';
import {
  type Encoding,
  isSeenThrough,
  pictureBytes,
  pixelFacts,
  pixelLayout,
  rgbaToPlanes,
  settledColour,
  workingFormat,
} from '@thawline/core/picture';
import { pictureCount, pictureSeconds, rate } from '@thawline/core/time';
import { conversion } from './colour.js';
import { deepPictures, isDeep } from './deepPictures.js';
import { rawInput } from './encode.js';
import { exactFilters, needsExact, sitedScale } from './exact.js';
import { lightFilters } from './light.js';
import { type Lit, litKnown, litPictures } from './linear.js';
import { fedWith, slices } from './pipes.js';
import { type Known, MediaError, type PictureRequest, type Pictures } from './port.js';
import { GUARD, run, SERIES, SERIES_GUARD, safePath } from './process.js';
import { picturesOfFields } from './readFields.js';

/** Containers whose index leads a seek to a key picture at or before the time; elsewhere pictures are counted from the start. */
const SEEKABLE = /mp4|matroska|mov/;
/** Seeking costs a new group of pictures anyway; below this many it is cheaper to count. */
const COUNT_UP_TO = 48;

/**
 * Input options that make the decoder's first output picture `from`, and the pictures still to drop after that.
 * The requested time is half a picture early, so that rounding to the container's ticks cannot skip the picture.
 */
function seekTo(known: Known, from: number, about = false): { options: string[]; drop: number } {
  if (from <= COUNT_UP_TO || !SEEKABLE.test(known.container)) return { options: [], drop: about ? 0 : from };
  const middle = (pictureSeconds(known.timing, from - 1) + pictureSeconds(known.timing, from)) / 2;
  const exact = about ? ['-noaccurate_seek'] : [];
  return { options: [...exact, '-seek_timestamp', '1', '-ss', (known.firstSeconds + middle).toFixed(6)], drop: 0 };
}

function inputArgs(
  path: string,
  known: Known,
  request: Pick<PictureRequest, 'from' | 'about' | 'count' | 'threads'>,
  filters: string[],
) {
  const series = known.container === SERIES;
  const { options, drop } = series
    ? { options: ['-start_number', String((known.firstNumber ?? 0) + (request.from ?? 0))], drop: 0 }
    : seekTo(known, request.from ?? 0, request.about);
  // What FFmpeg would make of a picture's name is not asked.
  if (series || /_pipe$/.test(known.container)) options.unshift('-f', known.container);
  // FFmpeg's own decoders of these drop the alpha beside them.
  if (pixelFacts(known.pixelFormat)?.alpha && /^vp[89]$/.test(known.codec ?? ''))
    options.unshift('-c:v', `libvpx${known.codec === 'vp9' ? '-vp9' : ''}`);
  const chain = [...(drop > 0 ? [`select=gte(n\\,${drop})`] : []), ...filters];
  return [
    '-nostdin',
    '-hide_banner',
    '-v',
    'error',
    ...(request.threads ? ['-threads', String(request.threads)] : []),
    ...(series ? SERIES_GUARD : GUARD),
    ...options,
    '-i',
    safePath(path),
    '-map',
    '0:v:0',
    '-an',
    '-sn',
    '-dn',
    '-fps_mode',
    'passthrough',
    ...(chain.length > 0 ? ['-vf', chain.join(',')] : []),
    ...(request.count === undefined ? [] : ['-frames:v', String(request.count)]),
  ];
}

/** Formats whose first plane is luma; others (RGB, palettes) are converted first. */
const WITH_LUMA = /^(yuv|gray)/;

/**
 * Pictures averaged down to this part of their width or less do without the codec's smoothing of block edges where no other
 * picture is built on them: it is gone at that size, and costs a twentieth of the decoding.
 */
const UNFILTERED_FROM = 4;

/** What makes pictures with alpha ready to be seen without it, over black: what lies where nothing is seen is not to show. */
export function overBlack(known: Known): string[] {
  return isSeenThrough(known) && known.alpha !== 'multiplied' ? ['premultiply=inplace=1'] : [];
}

/** Brings red, green and blue that were converted already to luma and chroma, where these are wanted. */
function recoded(from: string, to: string, colour: Encoding | undefined): string[] {
  if (!colour || pixelFacts(from)?.model !== 'rgb' || pixelFacts(to)?.model === 'rgb') return [];
  return [`scale=iw:ih:${conversion(from, colour, colour).join(':')}`];
}

/** Decodes to packed raw pictures. */
export function openPictures(path: string, file: Lit, request: PictureRequest): AsyncGenerator<Uint8Array> {
  const known = litKnown(file, request.colour);
  const pictures =
    isDeep(request) && isSeenThrough(known)
      ? deepPictures(openPictures, path, known, request)
      : rawPictures(path, known, request);
  return complete(pictures, known, request);
}

/** FFmpeg ends a series quietly at a file that is gone or cannot be read; here that is a failure. */
export async function* complete(
  pictures: AsyncGenerator<Uint8Array>,
  known: Known,
  { from = 0, count = Number.POSITIVE_INFINITY }: { from?: number; count?: number },
): AsyncGenerator<Uint8Array> {
  // Sound alone has none.
  if (known.width === 0) throw new MediaError('no-picture');
  let given = 0;
  for await (const picture of pictures) {
    given++;
    yield picture;
  }
  const expected = Math.min(count, pictureCount(known.timing) - from);
  if (known.container === SERIES && given < expected)
    throw new MediaError('decode-failed', `picture ${from + given} is gone or cannot be read`);
}

async function* rawPictures(path: string, known: Lit, request: PictureRequest): AsyncGenerator<Uint8Array> {
  const layout = pixelLayout(request.pixelFormat);
  if (!layout) throw new MediaError('decode-failed', `no such pixel format: ${request.pixelFormat}`);
  const { crop } = request;
  const width = request.width ?? crop?.width ?? known.width;
  const height = request.height ?? crop?.height ?? known.height;
  const flags = `flags=${request.scaling === 'area' ? 'area' : 'bicubic'}${request.fields ? ':interl=1' : ''}`;
  // Colour is multiplied by alpha where that is asked for, or where alpha is left out.
  const multiplied = !layout.alpha || request.multiplied ? overBlack(known) : [];
  const grey = request.pixelFormat === 'gray';
  const luma = grey && WITH_LUMA.test(known.pixelFormat);
  // Of luma alone no chroma is rebuilt.
  const inputFormat = luma ? 'gray' : workingFormat(known.pixelFormat);
  // Pictures of a series may differ in size; all are given at the first one's.
  const scaled = request.width !== undefined || known.container === SERIES;
  const filters: string[] = [];
  // FFmpeg 5.1 rounds alpha of 8 bit on its way into planes; packed it is as it was.
  const isPacked = request.pixelFormat === 'gbrap' && known.pixelFormat !== 'gbrap';
  const outFormat = isPacked ? 'rgba' : request.pixelFormat;
  if (crop) filters.push(`crop=${crop.width}:${crop.height}:${crop.x}:${crop.y}:exact=1`);
  const lit = grey ? 'yuv444p' : outFormat;
  const clear = multiplied.length > 0 ? workingFormat(known.pixelFormat) : lit;
  const lights = request.colour
    ? lightFilters(known, request.colour, {
        size: { width, height },
        pixelFormat: clear,
        alpha: layout.alpha || multiplied.length > 0,
      })
    : [];
  if (lights.length === 0) filters.unshift(...multiplied);
  if (lights.length > 0)
    filters.push(
      ...(scaled ? [`scale=${width}:${height}:${flags}`] : []),
      ...lights,
      ...(multiplied.length > 0 ? [...multiplied, ...recoded(clear, lit, request.colour), `format=${lit}`] : []),
      ...(grey ? ['extractplanes=y'] : []),
    );
  // Luma as stored: a conversion to grey would stretch its range, were both not said to be the same; chroma is not scaled to be thrown away.
  else if (luma && scaled) filters.push(`scale=${width}:${height}:${flags}:in_range=full:out_range=full`, 'format=gray');
  else {
    const stored = settledColour(known.colour, known.height);
    const changed = request.colour ? conversion(known.pixelFormat, stored, request.colour) : [];
    const reformed = known.fieldsRead !== undefined && request.pixelFormat !== inputFormat;
    const { siting } = known;
    const sited = request.colour ? request.colour.siting : siting;
    const [from, to] = [
      { pixelFormat: known.fieldsRead ? inputFormat : known.pixelFormat, width, height, encoding: stored, siting },
      { pixelFormat: outFormat, width, height, encoding: request.colour ?? stored, siting: sited },
    ];
    const exact = !grey && needsExact(from, to) ? exactFilters(from, to) : [];
    const converted = exact.length > 0 ? [] : changed;
    if (scaled || converted.length > 0)
      filters.push(
        [`scale=${scaled ? `${width}:${height}` : 'iw:ih'}:${flags}${sitedScale(from.pixelFormat, siting)}`, ...converted].join(
          ':',
        ),
      );
    filters.push(...exact);
    // What has no luma of its own, or of another matrix or range, gets one first as it was asked for; then it is taken as it is.
    if (grey && !(luma && known.fieldsRead))
      filters.push(...(luma && converted.length === 0 ? [] : ['format=yuv444p']), 'extractplanes=y');
    // Named here, or FFmpeg would put a conversion of its own behind.
    else if (!grey && exact.length === 0 && (changed.length > 0 || reformed)) filters.push(`format=${outFormat}`);
  }
  if (known.fieldsRead && filters.length === 0) {
    yield* readFields(path, known, request, inputFormat);
    return;
  }
  if (known.light && filters.length === 0 && request.pixelFormat === known.pixelFormat) {
    yield* litOf(path, known, known.light, request);
    return;
  }
  const smoothless = request.scaling === 'area' && (crop?.width ?? known.width) >= UNFILTERED_FROM * width && !known.fieldsRead;
  const process = decoding(path, known, request, {
    inputFormat,
    filters,
    before: smoothless ? ['-skip_loop_filter', 'noref'] : [],
    output: ['-f', 'rawvideo', '-pix_fmt', outFormat, 'pipe:1'],
  });
  const pictures = slices(process.child.stdout as Readable, pictureBytes(layout, width, height), process, request.count);
  if (!isPacked) {
    yield* pictures;
    return;
  }
  for await (const packed of pictures) {
    const picture = new Uint8Array(packed.length);
    rgbaToPlanes(packed, picture);
    yield picture;
  }
}

/** A file's pictures as its fields are read, in a planar format, whole. */
function readFields(
  path: string,
  known: Known,
  request: Pick<PictureRequest, 'from' | 'count' | 'threads' | 'signal'>,
  pixelFormat: string,
): AsyncGenerator<Uint8Array> {
  if (!known.fieldsRead) throw new MediaError('decode-failed', 'its fields are read as they are stored');
  const { from, count, threads, signal } = request;
  const open = (stored: Known, asked: PictureRequest): Pictures => openPictures(path, stored, asked);
  return picturesOfFields(open, known, known.fieldsRead, { pixelFormat, from, count, threads, signal });
}

/** The signals of a file of light. */
function litOf(
  path: string,
  known: Lit,
  light: Known,
  request: Pick<PictureRequest, 'from' | 'count' | 'threads' | 'signal'>,
): AsyncGenerator<Uint8Array> {
  const open = (stored: Known, output: readonly string[]) =>
    decoding(path, stored, request, { inputFormat: stored.pixelFormat, filters: [], output });
  return litPictures(open, { ...known, light }, request);
}

/** FFmpeg with a file's pictures going in: those that the file stores, what reading its fields makes of them, or signals of its light. */
export function decoding(
  path: string,
  known: Lit,
  request: Pick<PictureRequest, 'from' | 'about' | 'count' | 'threads' | 'signal'>,
  {
    filters,
    output,
    inputFormat,
    before = [],
  }: {
    readonly filters: string[];
    readonly output: readonly string[];
    /** In which a file's fields are read, where they are. */
    readonly inputFormat: string;
    readonly before?: readonly string[];
  },
): ReturnType<typeof run> {
  const { signal } = request;
  const failure = 'decode-failed';
  const { light } = known;
  if (!known.fieldsRead && !light) {
    const args = [...before, ...inputArgs(path, known, request, filters), ...output];
    return run('ffmpeg', args, { stdio: ['ignore', 'pipe', 'pipe'], failure, signal });
  }
  const { width, height } = known;
  const args = [
    ...['-hide_banner', '-v', 'error', '-protocol_whitelist', 'file,pipe'],
    ...rawInput({ width, height, pixelFormat: light ? known.pixelFormat : inputFormat, rate: rate(25) }),
    ...['-fps_mode', 'passthrough', ...(filters.length > 0 ? ['-vf', filters.join(',')] : []), ...output],
  ];
  const process = run('ffmpeg', args, { stdio: ['pipe', 'pipe', 'pipe'], failure, signal });
  return fedWith(process, light ? litOf(path, known, light, request) : readFields(path, known, request, inputFormat));
}
