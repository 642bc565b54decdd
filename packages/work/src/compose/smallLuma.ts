import { type Size, shrinkPlane } from '@thawline/core/picture';
import type { MediaContext } from '../jobs/context.js';
import { composed } from './compose.js';
import { type RenderInput } from './input.js';

/** A timeline's frames are composed at about this width, and averaged from there. */
const COMPOSED_WIDTH = 256;

/** Small luma pictures of a timeline's frames as they would be rendered (or small pictures of their alpha), 8 bit; each in a buffer of its own. */
export async function* smallFrames(
  context: MediaContext,
  input: RenderInput,
  size: Size,
  plane: 'luma' | 'alpha' = 'luma',
): AsyncGenerator<Uint8Array> {
  const { width, height } = input.timeline;
  const scale = Math.min(1, COMPOSED_WIDTH / width);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  const frame = { width: Math.max(size.width, even(width)), height: Math.max(size.height, even(height)) };
  for await (const picture of composed(context, input, frame)) {
    const small = new Uint8Array(size.width * size.height);
    shrinkPlane({
      data: plane === 'luma' ? picture : picture.subarray(picture.length - frame.width * frame.height),
      width: frame.width,
      height: frame.height,
      out: small,
      outWidth: size.width,
      outHeight: size.height,
    });
    yield small;
  }
}
