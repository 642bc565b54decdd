import type { Readable } from 'node:stream';
import {
  deepen,
  deepFormat,
  multipliedLayout,
  multiply,
  type PixelLayout,
  pictureBytes,
  pixelFacts,
  pixelLayout,
  type Size,
  settledColour,
  workingFormat,
} from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { rawInput } from './encode.js';
import { exactFilters } from './exact.js';
import { lightFilters } from './light.js';
import { fedWith, slices } from './pipes.js';
import { type Known, MediaError, type PictureRequest, type Pictures } from './port.js';
import { run } from './process.js';

/** Opens a file's pictures as they are stored. */
type OpenStored = (path: string, known: Known, request: PictureRequest) => Pictures;

/** Whether pictures are asked for that have to be multiplied at 16 bit, so that they can be divided by alpha again without loss. */
export function isDeep({ pixelFormat, multiplied }: Pick<PictureRequest, 'pixelFormat' | 'multiplied'>): boolean {
  const facts = pixelFacts(pixelFormat);
  return multiplied === true && facts?.alpha === true && facts.bits === 16;
}

/**
 * Pictures with alpha, multiplied at 16 bit. Alpha and the multiplication are done here: FFmpeg 5.1 brings alpha to more bits by shifting, so that all
 * there is becomes a little less. FFmpeg converts and scales what is multiplied already, where that is asked for.
 * @param known with alpha
 */
export async function* deepPictures(
  open: OpenStored,
  path: string,
  known: Known,
  request: PictureRequest,
): AsyncGenerator<Uint8Array> {
  const native = workingFormat(known.pixelFormat);
  const layout = pixelLayout(native);
  if (!layout) throw new MediaError('decode-failed', `no such pixel format: ${native}`);
  const { from, count, threads, signal, pixelFormat, colour } = request;
  const own: Size = { width: known.width, height: known.height };
  const size: Size = { width: request.width ?? own.width, height: request.height ?? own.height };
  const deep = deepFormat(native);
  const lights = colour ? lightFilters({ ...known, pixelFormat: deep }, colour, { pixelFormat: 'gbrap16le', alpha: true }) : [];
  const isStraight = known.alpha !== 'multiplied';
  const stored = settledColour(known.colour, known.height);
  const made: PixelLayout = { ...multipliedLayout(layout), alpha: true };
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    for await (const picture of open(path, known, { pixelFormat: native, from, count, threads, signal })) {
      const out = new Uint8Array(pictureBytes(made, own.width, own.height));
      if (isStraight && lights.length === 0) multiply(layout, { ...own, full: stored.range === 'full' }, picture, out);
      else deepen(layout, own, picture, out);
      yield out;
    }
  };
  const filters = [
    ...lights,
    ...(lights.length > 0 && isStraight ? ['premultiply=inplace=1'] : []),
    ...exactFilters(
      {
        pixelFormat: lights.length > 0 ? 'gbrap16le' : deep,
        ...own,
        encoding: lights.length > 0 && colour ? colour : stored,
        siting: known.siting,
      },
      { pixelFormat, ...size, encoding: colour ?? stored, siting: colour ? colour.siting : known.siting },
    ),
  ];
  if (filters.length === 0) {
    yield* pictures();
    return;
  }
  yield* through(pictures(), { ...own, pixelFormat: deep }, filters, { ...size, pixelFormat, signal });
}

/** Raw pictures through FFmpeg's filters. */
async function* through(
  pictures: AsyncGenerator<Uint8Array>,
  input: Size & { readonly pixelFormat: string },
  filters: readonly string[],
  { width, height, pixelFormat, signal }: Size & { readonly pixelFormat: string; readonly signal?: AbortSignal | undefined },
): AsyncGenerator<Uint8Array> {
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new MediaError('decode-failed', `no such pixel format: ${pixelFormat}`);
  const args = [
    ...['-hide_banner', '-v', 'error', '-protocol_whitelist', 'file,pipe', ...rawInput({ ...input, rate: rate(25) })],
    ...['-fps_mode', 'passthrough', '-vf', filters.join(','), '-f', 'rawvideo', '-pix_fmt', pixelFormat, 'pipe:1'],
  ];
  const process = run('ffmpeg', args, { stdio: ['pipe', 'pipe', 'pipe'], failure: 'decode-failed', signal });
  const fed = fedWith(process, pictures);
  yield* slices(fed.child.stdout as Readable, pictureBytes(layout, width, height), fed);
}
