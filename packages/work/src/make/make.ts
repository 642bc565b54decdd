import { dirname, extname } from 'node:path';
import { type Curve, curveFault, frameContent, furthestRun } from '@thawline/core/cadence';
import { type FieldOrder, filmOfField, framesOfFilm, type LowPass, weaveFields } from '@thawline/core/fields';
import {
  flatLayout,
  flatten,
  givenColour,
  isSeenThrough,
  lossWords,
  type Mix,
  opaqueFormat,
  type Paint,
  type PictureKind,
  type PixelLayout,
  paintSamples,
  pictureBytes,
  pixelFacts,
  pixelLayout,
  type Size,
  settledColour,
  workingFormat,
} from '@thawline/core/picture';
import { type Rate, rate, rateToNumber, spedUp, times, timingLength } from '@thawline/core/time';
import { codedOf, type EncodeRequest, MediaError, type Probe } from '@thawline/media';
import { FORMS, holdsChannels, isSeries } from '@thawline/project';
import { resampled, SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound } from '../audio/stretch.js';
import { type FrameTally, framesAhead, framesOf, noFrames } from '../compose/clipFrames.js';
import { kindOf } from '../compose/input.js';
import { Moving, mixing } from '../compose/interpolate.js';
import { PictureWalk } from '../compose/pictureWalk.js';
import { atomicWrite, folderIsThere } from '../files/atomicWrite.js';
import type { JobContext } from '../jobs/context.js';
import { MotionPool, type MotionThreads } from '../motion/pool.js';
import { isNumbered, NUMBERED, type WriteTo, writeNumbered } from './numbered.js';

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
  /** Pictures with alpha are written over this colour, without alpha. */
  readonly over?: Paint;
  /** Pictures are of all around, or are not, whatever the file says. */
  readonly sphere?: boolean;
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
  /** What of the source the file does not hold, in words. */
  readonly notKept: readonly string[];
}

type MakeForm = EncodeRequest['form'];

const ENDINGS: Record<string, MakeForm> = { '.mp4': 'mp4', '.mkv': 'mkv', '.mov': 'mov', '.webm': 'webm', '.y4m': 'y4m' };

/** The form that a file's name means by its ending; of numbered pictures also by the place for their number. Null for any other. */
export function formOf(path: string): MakeForm | null {
  const ending = extname(path).toLowerCase();
  return ENDINGS[ending] ?? (isNumbered(path) ? (NUMBERED[ending] ?? null) : null);
}

/** The planar format that the pictures of a file are written in. */
function writtenFormat({ pixelFormat }: Pick<Probe, 'pixelFormat'>, over: Paint | undefined): string {
  return over ? opaqueFormat(pixelFormat) : workingFormat(pixelFormat);
}

/** Why a file cannot be written so, in a sentence; null where it can. */
export function makeRefusal(probe: Probe, output: string, { over }: Pick<MakeOptions, 'over'>): string | null {
  const form = formOf(output);
  if (!form || over || !isSeenThrough(probe)) return null;
  const { losses } = codedOf({ form, pixelFormat: writtenFormat(probe, over) });
  if (!losses.includes('alpha')) return null;
  return `Its pictures have alpha, which .${form} cannot hold here. Write .mkv, .mov or .webm, or say what colour they go over.`;
}

/** Channels of a file's sound that a form holds: all, or else two. */
function soundChannels({ sound }: Pick<Probe, 'sound'>, form: MakeForm): number {
  const own = Math.max(SOUND_CHANNELS, sound?.channels ?? 0);
  const [codec] = FORMS[form].sounds;
  return codec && holdsChannels(codec, own) ? own : SOUND_CHANNELS;
}

/** What of a file is not kept when it is written so, in words; empty where all is. */
export function makeLosses(probe: Probe, output: string, { over, ...options }: Partial<MakeOptions>): string[] {
  const form = formOf(output);
  if (!form) return [];
  const lost: string[] = [];
  const pixelFormat = writtenFormat(probe, over);
  const [stored, working] = [pixelFacts(probe.pixelFormat), pixelFacts(workingFormat(probe.pixelFormat))];
  if (stored?.chroma !== working?.chroma && stored?.model === working?.model)
    lost.push(`colour of ${stored?.chroma} is spread to ${working?.chroma}`);
  if (form === 'webm' && probe.sampleAspect !== 1) lost.push('the shape of its samples is rounded to whole pixels');
  if (over && stored?.alpha) lost.push('alpha is not kept: pictures go over a colour');
  lost.push(...lossWords(pixelFormat, codedOf({ form, pixelFormat })));
  if (pixelFacts(probe.pixelFormat)?.float)
    lost.push('floating-point samples become 16 bit, and what is lighter than white is cut off');
  const { colour } = probe;
  const isSilent = form === 'y4m' || isSeries(form);
  if (isSilent && form !== 'exr' && (colour?.matrix ?? colour?.primaries ?? colour?.transfer))
    lost.push('its colour tags are not kept');
  if (probe.highRange) lost.push('its mastering display and light level are not kept');
  if (probe.projection && form !== 'mp4' && form !== 'mov') lost.push('that it is a 360\u00b0 picture is not kept in the file');
  if (probe.timecode) lost.push('its timecode is not kept');
  if (probe.sound) {
    const { others = 0 } = probe.sound;
    if (others > 0)
      lost.push(
        `${others === 1 ? 'its second track' : `its ${others} other tracks`} of sound ${others === 1 ? 'is' : 'are'} not kept`,
      );
    const timed = rateToNumber(options.speed ?? rate(1)) === 1 && !options.curve;
    if (isSilent || !timed) lost.push('its sound is not kept');
    else if (soundChannels(probe, form) < probe.sound.channels)
      lost.push(`${probe.sound.channels} channels of sound are mixed to ${SOUND_CHANNELS}`);
  }
  return lost;
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

/** Puts frames over a colour where that is asked for; null where nothing is to be done. The frame given is good until the next. */
function flattening(
  layout: PixelLayout,
  {
    size,
    kind,
    probe,
    over,
  }: { readonly size: Size; readonly kind: PictureKind; readonly probe: Probe; readonly over: Paint | undefined },
): ((frame: Uint8Array) => Uint8Array) | null {
  if (!layout.alpha || !over) return null;
  const samples = paintSamples(layout, over, settledColour(probe.colour, probe.height));
  const out = new Uint8Array(pictureBytes(flatLayout(layout), size.width, size.height));
  return (picture) => {
    flatten(layout, { ...size, picture, kind, over: samples, out });
    return out;
  };
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
  if (!form)
    throw new MediaError(
      'encode-failed',
      'the output has to end in .y4m, .mkv, .mov, .mp4 or .webm, or be numbered: shot-####.png',
    );
  if (probe.kind === 'still') throw new MediaError('no-picture');
  const pixelFormat = workingFormat(probe.pixelFormat);
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new MediaError('decode-failed', pixelFormat);
  const refusal = makeRefusal(probe, output, options);
  if (refusal) throw new MediaError('encode-failed', refusal);
  await folderIsThere(dirname(output));
  const given = givenColour(probe);
  const light = { ...settledColour(given, probe.height), transfer: given?.transfer ?? null };
  const kind: PictureKind = { ...kindOf(probe), light, ...(options.sphere === undefined ? {} : { sphere: options.sphere }) };
  const size = { width: probe.width, height: probe.height };
  const bytes = pictureBytes(layout, probe.width, probe.height);
  const speed = options.speed ?? { num: 1, den: 1 };
  const timing = spedUp(probe.timing, speed);
  const shutter = options.shutterDegrees ?? 0;
  const written = options.fields;
  // Each field is a frame of twice the rate; a curve's frames are those of the file.
  const pictureRate = written && !written.pulldown ? times(options.rate, rate(2)) : options.rate;
  const curve = options.curve && pictureRate !== options.rate ? doubled(options.curve) : (options.curve ?? null);
  const flat = flattening(layout, { size, kind, probe, over: options.over });
  const fault = curve && curveFault(curve, probe.pictures);
  if (fault) throw new RangeError(`the pins make no curve: ${fault}`);
  const run = { timing, timeline: pictureRate, fit: options.method, inPicture: 0, headTrim: 0, curve, shutterDegrees: shutter };
  const pictureFrames = curve ? curveFrames(curve, furthestRun(run)) : timingLength(timing, run.timeline);
  const mapping = { ...run, length: pictureFrames };
  const frames = !written ? pictureFrames : Math.max(1, written.pulldown ? framesOfFilm(pictureFrames) : pictureFrames >> 1);
  const rateOfFile = written?.pulldown ? times(options.rate, rate(5, 4)) : options.rate;
  const tally = noFrames();
  const moving = options.method === 'motion';
  const between = moving ? new Moving(layout, size, kind) : mixing(layout, size, options.mix, kind);
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    const { threads } = options;
    const pool = moving && threads ? new MotionPool(threads, { layout, ...size, kind }) : null;
    const walk = new PictureWalk((from) => media.openPictures(input, probe, { pixelFormat, from, signal }), 0, between, bytes);
    const content = (n: number) => frameContent(mapping, n);
    const ahead = pool ? framesAhead(pool, shutter) : 0;
    let n = 0;
    const made = framesOf({ walk, between, pool, ahead, layout, size, kind, frames: pictureFrames, content }, tally);
    for await (const frame of written ? woven(made, { layout, ...size, frames, written }) : made) {
      yield flat ? flat(frame) : frame;
      if (n++ % 10 === 0) progress(n, frames, 'writing frames');
    }
  };
  const withSound = probe.sound !== null && form !== 'y4m' && !isSeries(form) && rateToNumber(speed) === 1 && !curve;
  const channels = soundChannels(probe, form);
  const write = isSeries(form)
    ? (into: WriteTo) => writeNumbered(output, frames, into)
    : (into: WriteTo) => atomicWrite(output, into);
  await write((partial) =>
    media.encode(
      partial,
      {
        width: probe.width,
        height: probe.height,
        rate: rateOfFile,
        sampleAspect: probe.sampleAspect,
        ...(written ? { fields: written.order } : {}),
        pixelFormat: writtenFormat(probe, options.over),
        ...(given ? { colour: given } : {}),
        ...(probe.siting ? { siting: probe.siting } : {}),
        ...(kind.sphere ? { sphere: true } : {}),
        form,
        ...(withSound ? { sound: { sampleRate: SOUND_RATE, channels } } : {}),
        signal,
      },
      pictures(),
      withSound
        ? sourceSound(context, input, probe, {
            samples: sampleOfFrame(frames, rateOfFile),
            ...resampled(0, rate(1), channels),
            signal,
          })
        : undefined,
    ),
  );
  progress(frames, frames, 'done');
  return { file: output, rate: rateOfFile, frames, notKept: makeLosses(probe, output, options), ...tally };
}
