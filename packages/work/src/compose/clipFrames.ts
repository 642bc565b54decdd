import { type Exposed, type FrameContent, repeats, SHARES } from '@thawline/core/cadence';
import type { MadePicture } from '@thawline/core/motion';
import { Average, type PictureKind, type PixelLayout, pictureBytes, type Size } from '@thawline/core/picture';
import { MediaError } from '@thawline/media';
import type { MotionPool } from '../motion/pool.js';
import { type Between, Moving } from './interpolate.js';
import type { PictureWalk } from './pictureWalk.js';

/** What became of the frames. */
export interface FrameTally {
  /** Frames that show a source picture untouched. */
  real: number;
  /** Frames mixed from several real pictures. */
  blended: number;
  /** Frames made by motion, or mixed from such. */
  made: number;
  /** Frames that repeat their predecessor. */
  held: number;
  /** Frames between two pictures that show different things, where the nearer one stands. */
  cuts: number;
  /** Of the made picture that is least sure, 0 to 1; null when none was made. */
  leastCertainty: number | null;
}

export interface FrameSource {
  readonly walk: PictureWalk;
  readonly between: Between;
  /** Threads for pictures made by motion; null makes them here. */
  readonly pool: MotionPool | null;
  /** Frames that may be on their way, so that no thread waits for the encoder. */
  readonly ahead: number;
  readonly layout: PixelLayout;
  readonly size: Size;
  /** What the pictures are, beside their samples. */
  readonly kind: PictureKind;
  readonly frames: number;
  /** How frames are mixed that motion would make; left out where none is. */
  readonly mixing?: Between;
  /** What frame n is made of. */
  readonly content: (n: number) => FrameContent;
}

/** A tally of nothing yet. */
export function noFrames(): FrameTally {
  return { real: 0, blended: 0, held: 0, made: 0, cuts: 0, leastCertainty: null };
}

/** Frames that may be on their way through a pool: enough that no thread waits for the encoder. With a shutter each is several pictures. */
export function framesAhead(pool: MotionPool, shutterDegrees: number): number {
  return pool.count * (shutterDegrees > 0 ? 1 : 4);
}

interface WeighedPicture {
  readonly picture: Uint8Array;
  readonly weight: number;
  readonly made: MadePicture | null;
}

/** Frame after frame; each is good until the next is asked for. The tally is kept while they are taken. */
export async function* framesOf(source: FrameSource, tally: FrameTally): AsyncGenerator<Uint8Array> {
  const { walk, between, pool, layout, size, kind } = source;
  const bytes = pictureBytes(layout, size.width, size.height);
  /** Made when it is first needed. */
  let average: Average | null = null;
  let before: FrameContent | null = null;

  /** In a box: what is on its way must not be waited for here. */
  async function partOf(
    exposed: Exposed,
    { kind, parts }: FrameContent,
  ): Promise<{ readonly part: WeighedPicture | Promise<WeighedPicture> }> {
    const { weight } = exposed;
    const { a, b } = await walk.seek(exposed);
    if (!a) throw new MediaError('decode-failed', 'no picture could be decoded');
    if (!b) return { part: { picture: a.picture, weight, made: null } };
    if (source.mixing && kind === 'blended') {
      const picture = new Uint8Array(bytes);
      source.mixing.make(a, b, exposed.nextShare, picture);
      return { part: { picture, weight, made: null } };
    }
    if (pool) {
      const made = pool.make(a, b, exposed.nextShare / SHARES);
      return { part: made.then((found) => ({ picture: found.picture, weight, made: found })) };
    }
    const picture = (await walk.at(exposed)) as Uint8Array;
    const made = between instanceof Moving ? between.last : null;
    return { part: { picture: parts.length === 1 ? picture : picture.slice(), weight, made } };
  }

  function finish(parts: readonly WeighedPicture[], held: boolean): Uint8Array {
    const [only] = parts;
    for (const { made } of parts) if (made?.moved) tally.leastCertainty = Math.min(tally.leastCertainty ?? 1, made.certainty);
    if (held) tally.held++;
    else if (parts.some((p) => p.made?.moved)) tally.made++;
    else if (parts.some((p) => p.made)) tally.cuts++;
    if (only && parts.length === 1) return only.picture;
    average ??= new Average(layout, size, kind);
    for (const { picture, weight } of parts) average.add(picture, weight);
    const out = new Uint8Array(bytes);
    average.take(out);
    return out;
  }

  const waiting: (Uint8Array | Promise<Uint8Array>)[] = [];
  try {
    for (let n = 0; n < source.frames; n++) {
      const content = source.content(n);
      const parts: (WeighedPicture | Promise<WeighedPicture>)[] = [];
      for (const one of content.parts) parts.push((await partOf(one, content)).part);
      const held = before !== null && repeats(content, before);
      before = content;
      if (!held && content.kind !== 'made') tally[content.kind]++;
      const later = parts.some((p) => p instanceof Promise);
      const frame = later ? Promise.all(parts).then((all) => finish(all, held)) : finish(parts as WeighedPicture[], held);
      // A failure is reported to the caller that awaits it; this only avoids an unhandled rejection.
      if (frame instanceof Promise) frame.catch(() => undefined);
      waiting.push(frame);
      while (waiting.length > source.ahead) yield await (waiting.shift() as Uint8Array | Promise<Uint8Array>);
    }
    for (const frame of waiting) yield await frame;
  } finally {
    await Promise.all([walk.close(), pool?.close()]);
  }
}
