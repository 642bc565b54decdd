import type { Readable } from 'node:stream';
import {
  type Encoding,
  isHighRange,
  isLight,
  type Light,
  lightOfSignals,
  PQ,
  pictureBytes,
  pixelFacts,
  pixelLayout,
  signalsOfLight,
} from '@thawline/core/picture';
import { slices } from './pipes.js';
import { type AnyIterable, type EncodeRequest, type Known, MediaError, type PictureRequest } from './port.js';
import type { Running } from './process.js';

/** Pictures of light itself: FFmpeg gives and takes floats, signals of 16 bit are made of them here (its zscale takes alpha for luma on the way). */

/** A file whose pictures are given as signals: what they are then, and the file as it is. */
export type Lit = Known & { readonly light?: Known };

/** A file of light as the signals that are wanted of it: PQ where high range is, else the curve of a screen. Other files stay. */
export function litKnown(known: Lit, to: (Encoding & Partial<Light>) | undefined): Lit {
  if (known.light || !known.colour || !isLight(known)) return known;
  const hasAlpha = pixelFacts(known.pixelFormat)?.alpha === true;
  const transfer = isHighRange(to?.transfer ?? null) ? PQ : 'bt709';
  const primaries = to?.primaries === 'bt2020' ? 'bt2020' : known.colour.primaries;
  return {
    ...known,
    pixelFormat: hasAlpha ? 'gbrap16le' : 'gbrp16le',
    colour: { ...known.colour, primaries, transfer },
    ...(hasAlpha && known.alpha === 'multiplied' ? { alpha: 'straight' as const } : {}),
    light: known,
  };
}

/** A decoder of a file of light: planes of floats. */
type OpenFloats = (stored: Known, output: readonly string[]) => Running;

/** The signals of a file of light, 16 bit. */
export async function* litPictures(
  open: OpenFloats,
  { light, ...known }: Lit & { readonly light: Known },
  { count }: Pick<PictureRequest, 'count'>,
): AsyncGenerator<Uint8Array> {
  const layout = pixelLayout(known.pixelFormat);
  if (!layout) throw new RangeError(`no such pixel format: ${known.pixelFormat}`);
  const { width, height } = known;
  const n = width * height;
  // FFmpeg makes white of grey floats on the way to others.
  const isGrey = pixelFacts(light.pixelFormat)?.model === 'grey';
  const format = isGrey ? 'grayf32le' : layout.alpha ? 'gbrapf32le' : 'gbrpf32le';
  const process = open(light, ['-f', 'rawvideo', '-pix_fmt', format, 'pipe:1']);
  const samples = pictureBytes(layout, width, height) / 2;
  const plain: Light = { primaries: null, transfer: null };
  const alpha = layout.alpha ? (light.alpha ?? 'straight') : null;
  const how = { n, alpha, from: light.colour ?? plain, to: known.colour ?? plain };
  const lights = new Float32Array(samples);
  for await (const picture of slices(process.child.stdout as Readable, 4 * (isGrey ? n : samples), process, count)) {
    const floats = new Float32Array(picture.buffer, picture.byteOffset, picture.byteLength / 4);
    for (let at = 0; at < samples; at += floats.length) lights.set(floats, at);
    const out = new Uint16Array(samples);
    signalsOfLight(lights, how, out);
    yield new Uint8Array(out.buffer);
  }
}

/** Pictures of a request for light, and the request for its floats: what goes in is red, green and blue of 16 bit. */
export function asLight(
  request: EncodeRequest,
  pictures: AnyIterable<Uint8Array>,
): { readonly request: EncodeRequest; readonly pictures: AnyIterable<Uint8Array> } {
  const { colour, width, height, pixelFormat } = request;
  if (!/^gbra?p16le$/.test(pixelFormat)) throw new MediaError('encode-failed', 'EXR is made of red, green and blue of 16 bit');
  const from = { primaries: colour?.primaries ?? null, transfer: colour?.transfer ?? null };
  async function* floats(): AsyncGenerator<Uint8Array> {
    for await (const picture of pictures) {
      const samples = picture.byteLength / 2;
      const out = new Float32Array(samples);
      // A buffer of its own: what is given may begin at an odd byte.
      lightOfSignals(new Uint16Array(picture.slice().buffer), { n: width * height, from }, out);
      yield new Uint8Array(out.buffer);
    }
  }
  return { request: { ...request, pixelFormat: pixelFormat.replace('16le', 'f32le') }, pictures: floats() };
}
