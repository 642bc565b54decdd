import { formSchema, type RenderForm, settledForm } from '@thawline/project';
import type { MediaContext } from '../jobs/context.js';
import { lookedAt } from '../render/renderTimeline.js';
import { composed } from './compose.js';
import { type RenderInput } from './input.js';

/** One frame as a render would write it, as JPEG at most so wide; null past the end. */
export async function askedFrame(
  context: MediaContext,
  request: { readonly input: RenderInput; readonly form?: RenderForm; readonly frame: number; readonly most: number },
): Promise<Uint8Array | null> {
  const { media, signal } = context;
  const { frame, most, form = formSchema.parse({}) } = request;
  const { input, colour } = lookedAt(request.input, settledForm(form));
  const range = { from: frame, to: frame + 1 };
  const { width, height } = input.timeline;
  for await (const picture of composed(context, { ...input, range }, input.timeline)) {
    const pixelFormat = input.look?.pixelFormat ?? 'yuv420p';
    return media.jpegOf(picture.slice(), { width, height, pixelFormat, colour, most }, signal);
  }
  return null;
}
