import { extname } from 'node:path';
import { type Curve, curveFault, frameContent, furthestRun } from '@thawline/core/cadence';
import { type FieldOrder, filmOfField, framesOfFilm, type LowPass, weaveFields } from '@thawline/core/fields';
import { type Mix, type PixelLayout, pictureBytes, pixelLayout } from '@thawline/core/picture';
import { type Rate, rate, rateToNumber, spedUp, times, timingLength } from '@thawline/core/time';
import { type EncodeRequest, MediaError, type Probe } from '@thawline/media';
import { resampled, SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound } from '../audio/stretch.js';
import { type FrameTally, framesAhead, framesOf, noFrames } from '../compose/clipFrames.js';
import { Moving, mixing } from '../compose/interpolate.js';
import { PictureWalk } from '../compose/pictureWalk.js';
import { atomicWrite } from '../files/atomicWrite.js';
import type { JobContext } from '../jobs/context.js';
import { MotionPool, type MotionThreads } from '../motion/pool.js';

/** What is shown between two pictures: the earlier one, a mix of both, or one interpolated by motion. */
export type MakeMethod = 'nearest' | 'blend' | 'motion';

export interface MakeOptions {
  readonly rate: Rate;
  readonly method: MakeMethod;
  /** How a blend is mixed; as stored when left out. */
  readonly mix?: Mix;
  /** Of the pictures; other than 1 leaves the sound out. */
  readonly speed?: Rate;
  /** Which picture a frame shows, instead of an even speed; leaves the sound out. It goes on to the source's end, or its own where it runs back. */
  readonly curve?: Curve;
  /** 0 to 360: how much of a frame the shutter is open, what it covers is averaged; 0 shows the frame's own moment alone. */
  readonly shutterDegrees?: number;
  /** Each frame holds two fields, this one first, each at its own moment. */
  readonly fields?: FieldsWritten;
  /** Threads for pictures made by motion: how many, and the compiled file motion/worker. Else they are made here. */
  readonly threads?: MotionThreads;
}

/** How fields are written. */
export interface FieldsWritten {
  readonly order: FieldOrder;
  readonly lowPass: LowPass;
  /** The rate is film's, whose pictures are spread over fields by 2:3: the frames come a quarter faster. Else each field has its own moment. */
  readonly pulldown: boolean;
}

export interface MakeResult extends Readonly<FrameTally> {
  readonly file: string;
  /** Of the file: with pulldown another one than was asked for. */
  readonly rate: Rate;
  readonly frames: number;
}

type MakeForm = Exclude<EncodeRequest['form'], 'png'>;

const FORMS: Record<string, MakeForm> = { '.mp4': 'mp4', '.mkv': 'mkv', '.y4m': 'y4m' };

/** The form that a file's ending means; null for any other ending. */
export function formOf(path: string): MakeForm | null {
  return FORMS[extname(path).toLowerCase()] ?? null;
}

/** A curve that ends on its furthest picture is continued to the source's end. */
function curveFrames(curve: Curve, toEnd: number): number {
  const last = curve.at(-1);
  if (!last) return toEnd;
  return curve.some((pin) => pin.picture > last.picture) ? last.frame + 1 : toEnd;
}

/** The same pins where each frame is two. */
function doubled(curve: Curve): Curve {
  return curve.map((pin) => ({ ...pin, frame: 2 * pin.frame }));
}

/** Frames whose fields show pictures that come one after the other; each is good until the next. */
async function* woven(
  pictures: AsyncGenerator<Uint8Array>,
  {
    layout,
    width,
    height,
    frames,
    written,
  }: {
    readonly layout: PixelLayout;
    readonly width: number;
    readonly height: number;
    readonly frames: number;
    readonly written: FieldsWritten;
  },
): AsyncGenerator<Uint8Array> {
  const { order, lowPass, pulldown } = written;
  const out = new Uint8Array(pictureBytes(layout, width, height));
  let [at, current]: [number, Uint8Array | null] = [-1, null];
  const pictureAt = async (wanted: number): Promise<Uint8Array> => {
    while (at < wanted) {
      const { done, value } = await pictures.next();
      // A clip of one field has both of its frame's.
      if (done) break;
      current = value.slice();
      at++;
    }
    if (!current) throw new MediaError('decode-failed', 'no picture could be decoded');
    return current;
  };
  try {
    for (let n = 0; n < frames; n++) {
      const of = (field: number): Promise<Uint8Array> => pictureAt(pulldown ? filmOfField(field) : field);
      const first = await of(2 * n);
      const second = await of(2 * n + 1);
      weaveFields(layout, { width, height, first, second, order, lowPass, out });
      yield out;
    }
  } finally {
    await pictures.return(undefined);
  }
}

/**
 * Writes the source at another rate, in real time: frame n shows the source at n / rate, frame 0 is picture 0, and there
 * are floor(length x rate) frames, at least 1. Sound goes along untouched where the form holds sound.
 */
export async function make(
  context: JobContext,
  {
    input,
    probe,
    output,
    options,
  }: { readonly input: string; readonly probe: Probe; readonly output: string; readonly options: MakeOptions },
): Promise<MakeResult> {
  const { media, progress, signal } = context;
  const form = formOf(output);
  if (!form) throw new MediaError('encode-failed', 'the output has to end in .y4m, .mkv or .mp4');
  if (probe.kind === 'still') throw new MediaError('no-picture');
  const pixelFormat = pixelLayout(probe.pixelFormat) ? probe.pixelFormat : 'yuv420p';
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new MediaError('decode-failed', pixelFormat);
  const bytes = pictureBytes(layout, probe.width, probe.height);
  const speed = options.speed ?? { num: 1, den: 1 };
  const timing = spedUp(probe.timing, speed);
  const shutter = options.shutterDegrees ?? 0;
  const written = options.fields;
  // Each field is a frame of twice the rate; a curve's frames are those of the file.
  const pictureRate = written && !written.pulldown ? times(options.rate, rate(2)) : options.rate;
  const curve = options.curve && pictureRate !== options.rate ? doubled(options.curve) : (options.curve ?? null);
  const fault = curve && curveFault(curve, probe.pictures);
  if (fault) throw new RangeError(`the pins make no curve: ${fault}`);
  const run = { timing, timeline: pictureRate, fit: options.method, inPicture: 0, headTrim: 0, curve, shutterDegrees: shutter };
  const pictureFrames = curve ? curveFrames(curve, furthestRun(run)) : timingLength(timing, run.timeline);
  const mapping = { ...run, length: pictureFrames };
  const frames = !written ? pictureFrames : Math.max(1, written.pulldown ? framesOfFilm(pictureFrames) : pictureFrames >> 1);
  const rateOfFile = written?.pulldown ? times(options.rate, rate(5, 4)) : options.rate;
  const tally = noFrames();
  const moving = options.method === 'motion';
  const between = moving ? new Moving(layout, probe.width, probe.height) : mixing(layout, probe.width, probe.height, options.mix);
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    const { threads } = options;
    const size = { layout, width: probe.width, height: probe.height };
    const pool = moving && threads ? new MotionPool(threads, size) : null;
    const walk = new PictureWalk((from) => media.openPictures(input, probe, { pixelFormat, from, signal }), 0, between, bytes);
    const content = (n: number) => frameContent(mapping, n);
    const ahead = pool ? framesAhead(pool, shutter) : 0;
    let n = 0;
    const made = framesOf({ walk, between, pool, ahead, layout, bytes, frames: pictureFrames, content }, tally);
    for await (const frame of written ? woven(made, { ...size, frames, written }) : made) {
      yield frame;
      if (n++ % 10 === 0) progress(n, frames, 'writing frames');
    }
  };
  const withSound = probe.sound !== null && form !== 'y4m' && rateToNumber(speed) === 1 && !curve;
  await atomicWrite(output, (partial) =>
    media.encode(
      partial,
      {
        width: probe.width,
        height: probe.height,
        rate: rateOfFile,
        ...(written ? { fields: written.order } : {}),
        pixelFormat,
        form,
        ...(withSound ? { sound: { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS } } : {}),
        signal,
      },
      pictures(),
      withSound
        ? sourceSound(context, input, probe, {
            samples: sampleOfFrame(frames, rateOfFile),
            ...resampled(0, rate(1)),
            signal,
          })
        : undefined,
    ),
  );
  progress(frames, frames, 'done');
  return { file: output, rate: rateOfFile, frames, ...tally };
}
