import type { Exposed, Position } from '@thawline/core/cadence';
import type { MadePicture } from '@thawline/core/motion';
import { Average, type PixelLayout } from '@thawline/core/picture';
import { MediaError } from '@thawline/media';
import { type Between, Moving } from './between.js';
import type { MotionPool } from './motionPool.js';
import type { PictureWalk } from './pictures.js';

/** What became of the frames. */
export interface FrameTally {
  /** Frames that show a source picture untouched. */
  real: number;
  /** Frames mixed from several real pictures. */
  blended: number;
  /** Frames made by motion, or mixed from such. */
  made: number;
  /** Frames that repeat the one before. */
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
  readonly bytes: number;
  readonly frames: number;
  /** Frames for which a mix was chosen instead, and how it is made. */
  readonly mixed?: { readonly at: (n: number) => boolean; readonly by: Between };
  /** What frame n is made of. */
  readonly exposed: (n: number) => readonly Exposed[];
}

/** A tally of nothing yet. */
export function noFrames(): FrameTally {
  return { real: 0, blended: 0, held: 0, made: 0, cuts: 0, leastCertainty: null };
}

/** Frames that may be on their way through a pool: enough that no thread waits for the encoder. With a shutter each is several pictures. */
export function framesAhead(pool: MotionPool, shutterDegrees: number): number {
  return pool.count * (shutterDegrees > 0 ? 1 : 4);
}

interface Part {
  readonly picture: Uint8Array;
  readonly weight: number;
  readonly made: MadePicture | null;
}

/** Frame after frame; each is good until the next is asked for. The tally is kept while they are taken. */
export async function* framesOf(source: FrameSource, tally: FrameTally): AsyncGenerator<Uint8Array> {
  const { walk, between, pool, layout, bytes } = source;
  const average = new Average(layout, bytes);
  let before: Position = { picture: -1, nextShare: 0 };

  /** In a box: what is on its way must not be waited for here. */
  async function partOf(exposed: Exposed, alone: boolean, mixed: boolean): Promise<{ readonly part: Part | Promise<Part> }> {
    const { weight } = exposed;
    const wanted = settled(exposed, between.parts);
    const { a, b } = await walk.seek(wanted);
    if (!a) throw new MediaError('decode-failed', 'no picture could be decoded');
    if (!b) return { part: { picture: a.picture, weight, made: null } };
    const mix = mixed ? source.mixed?.by : null;
    if (mix) {
      const picture = new Uint8Array(bytes);
      const share = Math.round((wanted.nextShare * mix.parts) / between.parts);
      mix.make(a, b, Math.max(1, Math.min(mix.parts - 1, share)), picture);
      return { part: { picture, weight, made: null } };
    }
    if (pool) {
      const made = pool.make(a, b, wanted.nextShare / between.parts);
      return { part: made.then((found) => ({ picture: found.picture, weight, made: found })) };
    }
    const picture = (await walk.at(wanted)) as Uint8Array;
    const made = between instanceof Moving ? between.last : null;
    return { part: { picture: alone ? picture : picture.slice(), weight, made } };
  }

  function finish(parts: readonly Part[]): Uint8Array {
    const [only] = parts;
    for (const { made } of parts) if (made?.moved) tally.leastCertainty = Math.min(tally.leastCertainty ?? 1, made.certainty);
    if (parts.some((p) => p.made?.moved)) tally.made++;
    else if (parts.some((p) => p.made)) tally.cuts++;
    if (only && parts.length === 1) return only.picture;
    for (const { picture, weight } of parts) average.add(picture, weight);
    const out = new Uint8Array(bytes);
    average.take(out);
    return out;
  }

  const waiting: (Uint8Array | Promise<Uint8Array>)[] = [];
  try {
    for (let n = 0; n < source.frames; n++) {
      const exposed = source.exposed(n);
      const parts: (Part | Promise<Part>)[] = [];
      for (const one of exposed) parts.push((await partOf(one, exposed.length === 1, source.mixed?.at(n) ?? false)).part);
      const position = settled(exposed[0] as Exposed, between.parts);
      const moving = (pool !== null || between instanceof Moving) && !source.mixed?.at(n);
      const whole = exposed.length === 1 && position.nextShare === 0;
      if (!whole) tally.blended += moving && exposed.some((e) => settled(e, between.parts).nextShare > 0) ? 0 : 1;
      else if (position.picture === before.picture && before.nextShare === 0) tally.held++;
      else tally.real++;
      before = position;
      const later = parts.some((p) => p instanceof Promise);
      const frame = later ? Promise.all(parts).then(finish) : finish(parts as Part[]);
      // Whoever waits for it hears of a failure; nobody else has to.
      if (frame instanceof Promise) frame.catch(() => undefined);
      waiting.push(frame);
      while (waiting.length > source.ahead) yield await (waiting.shift() as Uint8Array | Promise<Uint8Array>);
    }
    for (const frame of waiting) yield await frame;
  } finally {
    await Promise.all([walk.close(), pool?.close()]);
  }
}

/** A moment within a 256th of a picture's own is that picture: real pictures stay untouched where rates almost match. */
function settled({ picture, nextShare, next }: Position, parts: number): Position {
  if (nextShare * 256 < parts) return { picture, nextShare: 0 };
  return nextShare * 256 > parts * 255 ? { picture: next ?? picture + 1, nextShare: 0 } : { picture, nextShare, next };
}
