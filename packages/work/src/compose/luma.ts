import type { LumaPicture } from '@thawline/core/truth';
import { layoutOf, type RenderInput } from './input.js';

/** The luma of a composed picture, 8 bit, in a buffer of its own. */
export function lumaOf(input: RenderInput, picture: Uint8Array): LumaPicture {
  const { width, height } = input.timeline;
  const layout = layoutOf(input);
  if (layout.bytes === 1) return { width, height, data: picture.slice(0, width * height) };
  const words = new Uint16Array(picture.buffer, picture.byteOffset, width * height);
  return { width, height, data: Uint8Array.from(words, (value) => value >> (layout.bits - 8)) };
}
