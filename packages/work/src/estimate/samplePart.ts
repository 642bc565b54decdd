import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { meanSquare, planeSizes } from '@thawline/core/picture';
import type { EncodeRequest, Known } from '@thawline/media';
import type { SettledForm } from '@thawline/project';
import { composed } from '../compose/compose.js';
import { layoutOf, type RenderInput, rangeOf } from '../compose/input.js';
import type { MediaContext } from '../jobs/context.js';
import { closerLook } from '../receipt/closerLook.js';
import { shownSmall } from '../receipt/pictureLines.js';
import type { RenderColour } from '../render/colour.js';
import { partForm, partRequest, type WantedPart } from '../render/writeParts.js';

/** What a little of a part took, written and measured as a render does both. */
export interface TriedPart {
  readonly part: WantedPart;
  readonly frames: number;
  /** Bytes of the key picture, and the mean of the others. */
  readonly keyBytes: number;
  readonly frameBytes: number;
  /** Of all of the part, where all of it was tried; else null. */
  readonly wholeBytes: number | null;
  /** Seconds until the first frame was there, for each frame until it was coded, and for the file's end. */
  readonly startSeconds: number;
  readonly frameSeconds: number;
  readonly endSeconds: number;
  /** Seconds that measuring a frame takes, and looking closely at those of them that have to be, shared out among all. */
  readonly measureSeconds: number;
  /** Mean squared difference of coded and composed luma; null where depth is not 8 bit. */
  readonly square: number | null;
}

export interface TryRequest {
  readonly input: RenderInput;
  readonly form: SettledForm;
  readonly colour: RenderColour;
  /** A folder for what is written. */
  readonly work: string;
}

/** Frames that pictures are compared by: enough for a mean. */
const COMPARED = 8;
/** Seconds that an encoder takes for its end at most: what it takes longer is for pictures that it still holds. */
const END_MOST = 0.08;
/** However slow they are, so many frames are tried: fewer are mostly their key picture. */
const FRAMES_LEAST = 6;

/**
 * Writes the middle of a part, for so many frames or so many seconds at most, and measures it.
 * @param most frames
 */
export async function tryPart(
  context: MediaContext,
  {
    request,
    part,
    most,
    secondsMost,
  }: { readonly request: TryRequest; readonly part: WantedPart; readonly most: number; readonly secondsMost: number },
): Promise<TriedPart> {
  const { media } = context;
  const { input, form, colour, work } = request;
  const { signal } = context;
  const length = part.to - part.from;
  const from = part.from + Math.floor(Math.max(0, length - most) / 2);
  const range = { from, to: Math.min(part.to, from + most) };
  const path = join(work, `trial-${part.content}.${partForm(input, form)}`);
  const layout = layoutOf(input);
  const kept: Uint8Array[] = [];
  const clock = { begun: performance.now(), first: 0, last: 0 };
  let frames = 0;
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    for await (const picture of composed(context, { ...input, range }, input.timeline)) {
      clock.last = performance.now();
      if (frames++ === 0) clock.first = clock.last;
      const copy = picture.slice();
      if (layout.bytes === 1 && kept.length < COMPARED) kept.push(copy);
      yield copy;
      if (frames >= FRAMES_LEAST && performance.now() - clock.first > secondsMost * 1000) return;
    }
  };
  const encoding = partRequest({ context, input, form, colour });
  try {
    await media.encode(path, encoding, pictures());
    const ended = performance.now();
    const [key = 0, ...rest] = await media.packetBytes(path, signal);
    const mean = rest.length === 0 ? key : rest.reduce((sum, n) => sum + n, 0) / rest.length;
    const endSeconds = Math.min(END_MOST, (ended - clock.last) / 1000);
    return {
      part,
      frames,
      keyBytes: key,
      frameBytes: mean,
      wholeBytes: frames === length ? (await stat(path)).size : null,
      startSeconds: (clock.first - clock.begun) / 1000,
      frameSeconds: ((ended - clock.first) / 1000 - endSeconds) / frames,
      endSeconds,
      measureSeconds: await measurePace(context, { ...request, input: { ...input, range: { from, to: from + frames } } }, path),
      square: layout.bytes === 1 ? await squareOf(context, path, encoding, kept) : null,
    };
  } finally {
    await rm(path, { force: true });
  }
}

function knownOf({ width, height, rate, pixelFormat }: EncodeRequest, pictures: number): Known {
  const timing = { kind: 'constant', rate, pictures } as const;
  return { timing, firstSeconds: 0, width, height, container: 'mp4', pixelFormat };
}

/** Seconds a frame that a receipt takes for it: composed and decoded small, beside each other, and what is doubtful once more. */
async function measurePace(context: MediaContext, { input, form }: TryRequest, path: string): Promise<number> {
  const { media, signal } = context;
  const probe = await media.probe(path, signal);
  const { from, to } = rangeOf(input);
  const asked = { input, file: { path, probe }, form };
  const begun = performance.now();
  let first = 0;
  const { shown } = await shownSmall({ ...context, progress: () => undefined }, input, asked.file, () => {
    first ||= performance.now();
  });
  const small = performance.now();
  await closerLook({ ...context, progress: () => undefined }, { ...asked, shown });
  const closely = shown.doubtful.length > 0 ? performance.now() - small : 0;
  const frames = to - from;
  return ((small - (first || begun)) / Math.max(1, frames - 1) + closely / frames) / 1000;
}

async function squareOf(
  context: MediaContext,
  path: string,
  encoding: EncodeRequest,
  kept: readonly Uint8Array[],
): Promise<number> {
  const { media } = context;
  const [luma] = planeSizes(
    layoutOf({ look: { pixelFormat: encoding.pixelFormat, colour: null } }),
    encoding.width,
    encoding.height,
  );
  const bytes = luma ? luma.width * luma.height : 0;
  const request = { pixelFormat: encoding.pixelFormat, count: kept.length };
  let [sum, n] = [0, 0];
  for await (const picture of media.openPictures(path, knownOf(encoding, kept.length), request)) {
    const before = kept[n++];
    if (before) sum += meanSquare(before.subarray(0, bytes), picture.subarray(0, bytes));
  }
  return n === 0 ? 0 : sum / n;
}
