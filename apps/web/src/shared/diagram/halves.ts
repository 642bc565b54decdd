import type { FieldOrder } from '@thawline/core/fields';

/** How a weave draws fields: half a frame each, the one with the top line above. */

/** Where in a frame's box a field lies; all of it where frames are whole. */
export function halfOf(
  field: number,
  order: FieldOrder | undefined,
  box: number,
): { readonly y: number; readonly height: number } {
  if (!order) return { y: 0, height: box };
  const top = (field % 2 === 0) === (order === 'top');
  return { y: top ? 0 : box / 2, height: box / 2 };
}

/** What a frame of a clip is called, or a field of it: "12", "12.1" and "12.2". */
export function numberOf(n: number, firstFrame: number, order: FieldOrder | undefined): string {
  return order ? `${firstFrame + Math.floor(n / 2)}.${(n % 2) + 1}` : String(firstFrame + n);
}
