import { KernelMotion } from '@thawline/core/motion';
import { pixelLayout, rgbaToYuv420, yuv420ToRgba } from '@thawline/core/picture';
import type { Ask, FromMaker } from './protocol.js';

/** Makes pictures between two of a source, at the size of a preview, from the very pictures that the player shows. */
const scope = self as unknown as {
  postMessage(message: FromMaker, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<Ask>) => void) | null;
};

/** Widest preview, in pixels. */
const WIDEST = 640;
/** Pictures as planes that are held on to: neighbours share theirs. */
const HELD = 24;

const found = pixelLayout('yuv420p');
if (!found) throw new Error('no such layout');
const LAYOUT = found;

interface Planes {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

const held = new Map<string, Promise<Planes>>();
let engine: { readonly motion: KernelMotion; readonly width: number; readonly height: number; pair: string } | null = null;

// One after the other: the engine holds two pictures at a time.
let line: Promise<void> = Promise.resolve();
scope.onmessage = ({ data }) => {
  // On their way while those before are made.
  void planesOf(data.mediaId, data.picture).catch(() => undefined);
  void planesOf(data.mediaId, data.next).catch(() => undefined);
  line = line.then(() => make(data)).catch(() => scope.postMessage({ type: 'failed', id: data.id }, []));
};

async function make({ id, mediaId, picture, next, share }: Ask): Promise<void> {
  const [a, b] = await Promise.all([planesOf(mediaId, picture), planesOf(mediaId, next)]);
  const { width, height } = a;
  if (engine?.width !== width || engine.height !== height)
    engine = { motion: new KernelMotion(LAYOUT, width, height), width, height, pair: '' };
  const [first, second] = [`${mediaId}/${picture}`, `${mediaId}/${next}`];
  const pair = `${first} ${second}`;
  if (engine.pair !== pair) {
    if (!engine.pair.endsWith(` ${first}`)) engine.motion.push(a.data);
    engine.motion.push(b.data);
    engine.pair = pair;
  }
  const out = new Uint8Array(a.data.length);
  const { certainty, moved } = engine.motion.make(share, out);
  const image = new ImageData(width, height);
  yuv420ToRgba(out, width, height, image.data);
  const bitmap = await createImageBitmap(image);
  scope.postMessage({ type: 'made', id, bitmap, certainty, moved }, [bitmap]);
}

function planesOf(mediaId: string, picture: number): Promise<Planes> {
  const key = `${mediaId}/${picture}`;
  const known = held.get(key) ?? load(mediaId, picture);
  held.delete(key);
  held.set(key, known);
  // What did not come is asked for again.
  known.catch(() => held.delete(key));
  for (const old of held.keys()) {
    if (held.size <= HELD) break;
    held.delete(old);
  }
  return known;
}

async function load(mediaId: string, picture: number): Promise<Planes> {
  const reply = await fetch(`/api/media/${encodeURIComponent(mediaId)}/pictures/${picture}`);
  if (!reply.ok) throw new Error(`picture ${picture} did not come`);
  const bitmap = await createImageBitmap(await reply.blob());
  const scale = Math.min(1, WIDEST / bitmap.width);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  const [width, height] = [even(bitmap.width), even(bitmap.height)];
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  context.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  const data = new Uint8Array((width * height * 3) / 2);
  rgbaToYuv420(context.getImageData(0, 0, width, height).data, width, height, data);
  return { width, height, data };
}
