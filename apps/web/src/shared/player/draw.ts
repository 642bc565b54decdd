import type { FieldOrder } from '@thawline/core/fields';
import type { Size } from '@thawline/core/picture';
import type { Framed } from '@thawline/project';

/** A picture of a file within a frame, as PictureLayer has it; null: black. */
export interface DrawnPicture extends Framed {
  readonly mediaId: string | null;
  readonly picture: number;
  readonly opacity: number;
}

/** Pictures, and groups of them that are put together first and then drawn as one. */
type Layered<P> = P | { readonly opacity: number; readonly layers: readonly Layered<P>[] };

export type DrawnLayer = Layered<DrawnPicture>;

/** One picture of a source, put together from pictures of files: its own, or those that a placed timeline's frame shows. */
export interface Composed {
  /** Same key, same picture. */
  readonly key: string;
  readonly width: number;
  readonly height: number;
  /** A picture of all around: its left and right edges are neighbours. */
  readonly sphere?: true;
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

/** Draws layers at a size of its own, over nothing; fails where one of their pictures does not come. */
export async function drawAt(layers: readonly DrawnLayer[], { width, height }: Size): Promise<OffscreenCanvas> {
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  await drawLoaded(context, layers);
  return canvas;
}

/** Draws a picture at the size of a preview, in the page or in a worker; fails where one of its files' pictures does not come. */
export async function draw(composed: Composed): Promise<OffscreenCanvas> {
  const { width, height } = previewSize(composed);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  context.fillStyle = BLACK;
  context.fillRect(0, 0, width, height);
  await drawLoaded(context, composed.parts);
  return canvas;
}

async function drawLoaded(context: Context, layers: readonly DrawnLayer[]): Promise<void> {
  const bitmaps = new Map<DrawnPicture, ImageBitmap>();
  await Promise.all(
    drawnPictures(layers).map(async (one) => {
      if (one.mediaId !== null) bitmaps.set(one, await load(one.mediaId, one.picture));
    }),
  );
  drawLayers(context, layers, (one) => bitmaps.get(one) ?? null);
  for (const bitmap of bitmaps.values()) bitmap.close();
}

/** All pictures of layers, those of groups included. */
export function drawnPictures(layers: readonly DrawnLayer[]): DrawnPicture[] {
  return layers.flatMap((layer) => ('layers' in layer ? drawnPictures(layer.layers) : [layer]));
}

/** What an area is filled with. */
export type Fill = string;
const BLACK = '#000';

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** Draws layers one over the other, groups as one; what has no picture is ground. */
export function drawLayers<P extends Framed & { readonly opacity: number }>(
  context: Context,
  layers: readonly Layered<P>[],
  bitmapOf: (picture: P) => ImageBitmap | null,
  ground: Fill = BLACK,
): void {
  for (const layer of layers) {
    if (!('layers' in layer)) {
      drawFramed(context, layer, layer.opacity, bitmapOf(layer) ?? ground);
      continue;
    }
    const { width, height } = context.canvas;
    const group = new OffscreenCanvas(width, height).getContext('2d');
    if (!group) continue;
    drawLayers(group, layer.layers, bitmapOf, ground);
    context.save();
    context.globalAlpha = layer.opacity;
    context.drawImage(group.canvas, 0, 0);
    context.restore();
  }
}

/** Draws a picture (or one colour) at its place in a frame that fills the canvas. */
export function drawFramed(context: Context, { matrix, seen }: Framed, opacity: number, shown: ImageBitmap | Fill): void {
  const { width, height } = context.canvas;
  const [first, ...others] = seen;
  if (!first) return;
  context.save();
  context.globalAlpha = opacity;
  context.beginPath();
  context.moveTo(first.x * width, first.y * height);
  for (const { x, y } of others) context.lineTo(x * width, y * height);
  context.closePath();
  context.clip();
  const { a, b, c, d, e, f } = matrix;
  context.transform(a * width, b * height, c * width, d * height, e * width, f * height);
  // The picture's sides are 1.
  if (typeof shown === 'string') {
    context.fillStyle = shown;
    context.fillRect(0, 0, 1, 1);
  } else context.drawImage(shown, 0, 0, 1, 1);
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
