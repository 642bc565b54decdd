import { type MotionEngine, openMotion } from '@thawline/core/motion';
import { Average, pixelLayout, rgbaToYuv420, yuv420ToRgba } from '@thawline/core/picture';
import { type Composed, draw } from './draw.js';
import type { Ask, FromMaker } from './makerProtocol.js';

/** Makes pictures between two of a source, and averages what an open shutter sees, at the size of a preview, from the very pictures that the player shows. */
const scope = self as unknown as {
  postMessage(message: FromMaker, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<Ask>) => void) | null;
};

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
let engine: {
  readonly motion: MotionEngine;
  readonly width: number;
  readonly height: number;
  readonly sphere: boolean;
  first: string;
  second: string;
} | null = null;

// One after the other: the engine holds two pictures at a time.
let line: Promise<void> = Promise.resolve();
scope.onmessage = ({ data }) => {
  // On their way while those before are made.
  for (const { from, to } of data.seen) for (const one of [from, to]) void planesOf(one).catch(() => undefined);
  line = line.then(() => make(data)).catch(() => scope.postMessage({ type: 'failed', id: data.id }, []));
};

async function make({ id, seen }: Ask): Promise<void> {
  const [first] = seen;
  if (!first) throw new RangeError('nothing is asked for');
  const { width, height, data } = await planesOf(first.from);
  const out = new Uint8Array(data.length);
  // What is of one moment stays as it was made.
  const average = seen.length === 1 && first.share > 0 ? null : new Average(LAYOUT, { width, height });
  let [certainty, moved] = [1, false];
  for (const { from, to, share, weight } of seen) {
    if (share === 0) {
      average?.add((await planesOf(from)).data, weight);
      continue;
    }
    const found = (await between(from, to)).make(share, out);
    certainty = Math.min(certainty, found.certainty);
    moved ||= found.moved;
    average?.add(out, weight);
  }
  average?.take(out);
  const image = new ImageData(width, height);
  yuv420ToRgba(out, width, height, image.data);
  const bitmap = await createImageBitmap(image);
  scope.postMessage({ type: 'made', id, bitmap, certainty, moved }, [bitmap]);
}

/** The engine with these two pictures in it. */
async function between(from: Composed, to: Composed): Promise<MotionEngine> {
  const [a, b] = await Promise.all([planesOf(from), planesOf(to)]);
  const { width, height } = a;
  const sphere = from.sphere === true;
  if (engine?.width !== width || engine.height !== height || engine.sphere !== sphere) {
    const motion = openMotion(LAYOUT, { width, height }, { sphere });
    engine = { motion, width, height, sphere, first: '', second: '' };
  }
  if (engine.first !== from.key || engine.second !== to.key) {
    if (engine.second !== from.key) engine.motion.push(a.data);
    engine.motion.push(b.data);
    engine.first = from.key;
    engine.second = to.key;
  }
  return engine.motion;
}

function planesOf(picture: Composed): Promise<Planes> {
  const { key } = picture;
  const known = held.get(key) ?? load(picture);
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

async function load(picture: Composed): Promise<Planes> {
  const canvas = await draw(picture);
  const { width, height } = canvas;
  const pixels = canvas.getContext('2d')?.getImageData(0, 0, width, height);
  if (!pixels) throw new Error('no canvas');
  const data = new Uint8Array((width * height * 3) / 2);
  rgbaToYuv420(pixels.data, width, height, data);
  return { width, height, data };
}
