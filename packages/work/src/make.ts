import { extname } from 'node:path';
import { type Fit, positionAt } from '@thawline/core/cadence';
import { pictureBytes, pixelLayout } from '@thawline/core/picture';
import { type Rate, timingLength } from '@thawline/core/time';
import { type EncodeRequest, type Media, MediaError, type Probe } from '@thawline/media';
import type { Progress } from './check.js';
import { PictureWalk } from './pictures.js';
import { SOUND_CHANNELS, SOUND_RATE, sourceSound } from './sound.js';
import { writeWhole } from './whole.js';

export interface MakeOptions {
  readonly rate: Rate;
  readonly method: Exclude<Fit, 'pictures'>;
  readonly signal?: AbortSignal;
}

export interface MakeResult {
  readonly file: string;
  readonly frames: number;
  /** Frames that show a source picture untouched. */
  readonly real: number;
  readonly blended: number;
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
  const frames = timingLength(probe.timing, options.rate);
  const mapping = {
    timing: probe.timing,
    timeline: options.rate,
    fit: options.method,
    inPicture: 0,
    headTrim: 0,
    length: frames,
  };
  const tally = { real: 0, blended: 0, held: 0 };
  const signal = options.signal ? { signal: options.signal } : {};
  async function* pictures(): AsyncGenerator<Uint8Array> {
    const stream = media.openPictures(input, probe, { pixelFormat, ...signal });
    const walk = new PictureWalk(
      stream,
      0,
      pixelFormat,
      pictureBytes(layout as NonNullable<typeof layout>, probe.width, probe.height),
    );
    let before = { picture: -1, nextShare: 0 };
    try {
      for (let n = 0; n < frames; n++) {
        const wanted = positionAt(mapping, n);
        const picture = await walk.at(wanted);
        if (!picture) throw new MediaError('decode-failed', 'no picture could be decoded');
        if (wanted.nextShare > 0) tally.blended++;
        else if (wanted.picture === before.picture && before.nextShare === 0) tally.held++;
        else tally.real++;
        before = wanted;
        yield picture;
        if (n % 10 === 0) progress(n, frames, 'writing frames');
      }
    } finally {
      await walk.close();
    }
  }
  const withSound = probe.sound !== null && form !== 'y4m';
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
  return { file: output, frames, ...tally };
}
