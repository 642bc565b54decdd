import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { opaqueFormat } from '@thawline/core/picture';
import type { LumaPicture } from '@thawline/core/truth';
import type { SettledForm } from '@thawline/project';
import { composed } from '../compose/compose.js';
import { type RenderInput, rangeOf } from '../compose/input.js';
import { lumaOf } from '../compose/luma.js';
import type { JobContext } from '../jobs/context.js';
import type { RenderColour } from '../render/colour.js';
import { chunksOf } from '../render/plan.js';
import { partForm, partRequest } from '../render/writeParts.js';

/** More parts are not coded anew: a file that is wrong in so many places is not so by its coding. */
const PARTS_MOST = 6;

export interface CodedAnew {
  /** With its look. */
  readonly input: RenderInput;
  readonly form: SettledForm;
  readonly colour: RenderColour;
}

/**
 * What coding makes of frames as they were asked for: the parts they lie in are composed and coded once more, as a render does both. A coder
 * leaves faint changes out, and shows the picture before in their place: that is no fault of the file.
 * @param frames by their number in the range
 * @returns decoded frames by the same number
 */
export async function codedAnew(
  context: JobContext,
  { input, form, colour }: CodedAnew,
  frames: readonly number[],
): Promise<Map<number, LumaPicture>> {
  const { media, progress, signal } = context;
  const coded = new Map<number, LumaPicture>();
  if (frames.length === 0) return coded;
  const { from } = rangeOf(input);
  const wanted = new Set(frames);
  const parts = chunksOf(input).filter((part) => frames.some((n) => from + n >= part.from && from + n < part.to));
  if (parts.length > PARTS_MOST) return coded;
  const folder = await mkdtemp(join(tmpdir(), 'thawline-anew-'));
  try {
    for (const [i, part] of parts.entries()) {
      progress(i, parts.length, 'coding doubtful parts anew');
      const path = join(folder, `${i}.${partForm(input, form)}`);
      const pictures = async function* (): AsyncGenerator<Uint8Array> {
        for await (const picture of composed(context, { ...input, range: part }, input.timeline)) yield picture.slice();
      };
      await media.encode(path, partRequest({ context, input, form, colour }), pictures());
      let n = part.from - from;
      const { pixelFormat, colour: encoding } = input.look ?? { pixelFormat: 'yuv420p', colour: null };
      const seen = { ...input, look: { pixelFormat: opaqueFormat(pixelFormat), colour: encoding } };
      const request = { pixelFormat: opaqueFormat(pixelFormat), ...(encoding ? { colour: encoding } : {}), signal };
      for await (const picture of media.openPictures(path, await media.probe(path), request)) {
        if (wanted.has(n)) coded.set(n, lumaOf(seen, picture));
        n++;
      }
      await rm(path, { force: true });
    }
    return coded;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
