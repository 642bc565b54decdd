import type { FieldOrder } from '@thawline/core/fields';
import type { Shape } from '@thawline/core/picture';

/** A picture's place in a frame and the visible part of it, in shares of the frame. */
export interface FramedBox {
  readonly box: Shape;
  readonly seen: Shape;
}

/** A picture of a file within a frame, as Layer has it; null: black. */
export interface DrawnLayer extends FramedBox {
  readonly mediaId: string | null;
  readonly picture: number;
  readonly opacity: number;
}

/** One picture of a source, put together from pictures of files: its own, or those that a placed timeline's frame shows. */
export interface Composed {
  /** Same key, same picture. */
  readonly key: string;
  readonly width: number;
  readonly height: number;
  /** Lowest first. */
  readonly parts: readonly DrawnLayer[];
}

/** Previews are no wider than this, in pixels. */
const WIDEST = 640;

/** Size of a preview: even, its shape kept. */
export function previewSize({ width, height }: Pick<Composed, 'width' | 'height'>): { width: number; height: number } {
  const scale = Math.min(1, WIDEST / width);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

/** Draws a picture at the size of a preview, in the page or in a worker; fails where one of its files' pictures does not come. */
export async function draw(composed: Composed): Promise<OffscreenCanvas> {
  const { width, height } = previewSize(composed);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  const bitmaps = await Promise.all(
    composed.parts.map(({ mediaId, picture }) => (mediaId === null ? null : load(mediaId, picture))),
  );
  context.fillStyle = '#000';
  context.fillRect(0, 0, width, height);
  for (const [i, { opacity, ...framed }] of composed.parts.entries()) {
    const bitmap = bitmaps[i] ?? null;
    drawFramed(context, framed, opacity, bitmap);
    bitmap?.close();
  }
  return canvas;
}

/** Draws a picture (null: black) at its place in a frame that fills the canvas. */
export function drawFramed(
  context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
  { box, seen }: FramedBox,
  opacity: number,
  bitmap: ImageBitmap | null,
): void {
  const { width, height } = context.canvas;
  context.save();
  context.globalAlpha = opacity;
  context.beginPath();
  context.rect(seen.x * width, seen.y * height, seen.width * width, seen.height * height);
  context.clip();
  if (bitmap) context.drawImage(bitmap, box.x * width, box.y * height, box.width * width, box.height * height);
  else context.fillRect(0, 0, width, height);
  context.restore();
}

/** Which lines a field has of the two kinds: 0 for the first line of a picture and every second after it. */
export function fieldLines(order: FieldOrder, field: 'first' | 'second'): 0 | 1 {
  return (order === 'top') === (field === 'first') ? 0 : 1;
}

/** Lets whatever is drawn touch every second line alone; `restore` ends it. */
export function clipToLines(context: CanvasRenderingContext2D, lines: 0 | 1): void {
  const { width, height } = context.canvas;
  context.beginPath();
  for (let y = lines; y < height; y += 2) context.rect(0, y, width, 1);
  context.clip();
}

async function load(mediaId: string, picture: number): Promise<ImageBitmap> {
  const reply = await fetch(`/api/media/${encodeURIComponent(mediaId)}/pictures/${picture}`);
  if (!reply.ok) throw new Error(`picture ${picture} did not come`);
  return createImageBitmap(await reply.blob());
}
