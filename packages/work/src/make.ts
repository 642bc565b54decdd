import { extname } from 'node:path';
import { type Position, positionAt } from '@thawline/core/cadence';
import type { MadePicture } from '@thawline/core/motion';
import { pictureBytes, pixelLayout } from '@thawline/core/picture';
import { type Rate, rateToNumber, spedUp, timingLength } from '@thawline/core/time';
import { type EncodeRequest, type Media, MediaError, type Probe } from '@thawline/media';
import { Moving, mixing } from './between.js';
import type { Progress } from './check.js';
import { MotionPool } from './motionPool.js';
import { PictureWalk } from './pictures.js';
import { SOUND_CHANNELS, SOUND_RATE, sourceSound } from './sound.js';
import { writeWhole } from './whole.js';

/** What stands at a moment between two pictures: the earlier one, a mix of both, or one made by motion. */
export type MakeMethod = 'nearest' | 'blend' | 'motion';

export interface MakeOptions {
  readonly rate: Rate;
  readonly method: MakeMethod;
  /** Of the pictures; other than 1 leaves the sound out. */
  readonly speed?: Rate;
  /** Threads for pictures made by motion: how many, and the compiled motionWorker file. Else they are made here. */
  readonly threads?: { readonly count: number; readonly entry: URL };
  readonly signal?: AbortSignal;
}

export interface MakeResult {
  readonly file: string;
  readonly frames: number;
  /** Frames that show a source picture untouched. */
  readonly real: number;
  readonly blended: number;
  /** Frames made by motion. */
  readonly made: number;
  /** Frames between two pictures that show different things, where the nearer one stands. */
  readonly cuts: number;
  /** Of the made frame that is least sure, 0 to 1; null when none was made. */
  readonly leastCertainty: number | null;
  /** Frames that repeat the one before. */
  readonly held: number;
}

type MakeForm = Exclude<EncodeRequest['form'], 'png'>;

const FORMS: Record<string, MakeForm> = { '.mp4': 'mp4', '.mkv': 'mkv', '.y4m': 'y4m' };

/** The form that a file's ending stands for; null when it is none of them. */
export function formOf(path: string): MakeForm | null {
  return FORMS[extname(path).toLowerCase()] ?? null;
}

/**
 * Writes the source at another rate, in real time: frame n shows the source at n / rate, frame 0 is picture 0, and there
 * are floor(length x rate) frames, at least 1. Sound goes along untouched where the form holds sound.
 */
export async function make(
  media: Media,
  input: string,
  probe: Probe,
  output: string,
  options: MakeOptions,
  progress: Progress,
): Promise<MakeResult> {
  const form = formOf(output);
  if (!form) throw new MediaError('encode-failed', 'the output has to end in .y4m, .mkv or .mp4');
  if (probe.kind === 'still') throw new MediaError('no-picture');
  const pixelFormat = pixelLayout(probe.pixelFormat) ? probe.pixelFormat : 'yuv420p';
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new MediaError('decode-failed', pixelFormat);
  const bytes = pictureBytes(layout, probe.width, probe.height);
  const speed = options.speed ?? { num: 1, den: 1 };
  const timing = spedUp(probe.timing, speed);
  const frames = timingLength(timing, options.rate);
  const mapping = {
    timing,
    timeline: options.rate,
    fit: options.method === 'nearest' ? ('nearest' as const) : ('blend' as const),
    inPicture: 0,
    headTrim: 0,
    length: frames,
  };
  const tally = { real: 0, blended: 0, held: 0, made: 0, cuts: 0 };
  let leastCertainty: number | null = null;
  const tell = ({ moved, certainty }: MadePicture): void => {
    if (!moved) tally.cuts++;
    else {
      tally.made++;
      leastCertainty = Math.min(leastCertainty ?? 1, certainty);
    }
  };
  const between = options.method === 'motion' ? new Moving(layout, probe.width, probe.height, tell) : mixing(layout);
  const signal = options.signal ? { signal: options.signal } : {};
  const pool =
    options.method === 'motion' && options.threads
      ? new MotionPool(options.threads.count, { layout, width: probe.width, height: probe.height }, options.threads.entry)
      : null;
  /** Made frames that are on their way, so that no thread waits for the encoder. */
  const ahead = pool ? 4 * (options.threads?.count ?? 1) : 0;
  async function* pictures(): AsyncGenerator<Uint8Array> {
    const stream = media.openPictures(input, probe, { pixelFormat, ...signal });
    const walk = new PictureWalk(stream, 0, between, bytes);
    let before = { picture: -1, nextShare: 0 };
    const waiting: (Uint8Array | Promise<Uint8Array>)[] = [];
    const made = async (k: number, a: Uint8Array, b: Uint8Array, share: number): Promise<Uint8Array> => {
      const found = await (pool as MotionPool).make(k, a, b, share / between.parts);
      tell(found);
      return found.picture;
    };
    try {
      for (let n = 0; n < frames; n++) {
        const wanted = settled(positionAt(mapping, n, between.parts), between.parts);
        const { k, a, b } = await walk.seek(wanted);
        if (!a) throw new MediaError('decode-failed', 'no picture could be decoded');
        if (wanted.nextShare > 0) tally.blended += options.method === 'motion' ? 0 : 1;
        else if (wanted.picture === before.picture && before.nextShare === 0) tally.held++;
        else tally.real++;
        before = wanted;
        const frame = b && pool ? made(k, a, b, wanted.nextShare) : ((await walk.at(wanted)) as Uint8Array);
        // Whoever waits for it hears of a failure; nobody else has to.
        if (frame instanceof Promise) frame.catch(() => undefined);
        waiting.push(frame);
        while (waiting.length > ahead) yield await (waiting.shift() as Uint8Array | Promise<Uint8Array>);
        if (n % 10 === 0) progress(n, frames, 'writing frames');
      }
      for (const frame of waiting) yield await frame;
    } finally {
      await Promise.all([walk.close(), pool?.close()]);
    }
  }
  const withSound = probe.sound !== null && form !== 'y4m' && rateToNumber(speed) === 1;
  await writeWhole(output, (partial) =>
    media.encode(
      partial,
      {
        width: probe.width,
        height: probe.height,
        rate: options.rate,
        pixelFormat,
        form,
        ...(withSound ? { sound: { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS } } : {}),
        ...signal,
      },
      pictures(),
      withSound ? sourceSound(media, input, probe, { timeline: options.rate, frames, ...signal }) : undefined,
    ),
  );
  progress(frames, frames, 'done');
  return { file: output, frames, ...tally, leastCertainty };
}

/** A moment within a 256th of a picture's own is that picture: real pictures stay untouched where rates almost match. */
function settled({ picture, nextShare }: Position, parts: number): Position {
  if (nextShare * 256 < parts) return { picture, nextShare: 0 };
  return nextShare * 256 > parts * 255 ? { picture: picture + 1, nextShare: 0 } : { picture, nextShare };
}
