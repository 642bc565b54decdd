import { Resampler } from '@thawline/core/sound';
import { frameAtOrBefore, type Rate, rate } from '@thawline/core/time';
import type { Probe } from '@thawline/media';
import type { MediaContext } from '../jobs/context.js';

/** All sound is mixed and written at this rate, in stereo unless more channels are asked for. */
export const SOUND_RATE = 48_000;
export const SOUND_CHANNELS = 2;
const SAMPLES = rate(SOUND_RATE);

/** The first sample of a timeline's frame: floor(frame * 48000 / T), the same for picture and sound. */
export function sampleOfFrame(frame: number, timeline: Rate): number {
  return frameAtOrBefore(frame, timeline, SAMPLES);
}

/** What turns a source's sound into a clip's: takes blocks in order, gives what is complete, and at the end the rest. */
export interface Warp {
  push(block: Float32Array): Float32Array;
  finish(until: number): Float32Array;
}

export interface SoundStretch {
  /** Of what comes out. */
  readonly channels: number;
  /** Samples wanted. */
  readonly samples: number;
  /** Source sample (of 48000 a second, counted from the first picture's start) that is needed first; may be negative. */
  readonly fromSample: number;
  /** Makes the warp for a stream that starts at the given sample of the source. */
  readonly warp: (first: number) => Warp;
  readonly signal?: AbortSignal;
}

/** At one speed, 1/1 untouched, 30000/25025 for 25 in 29.97, its pitch going along; from a source sample on. */
export function resampled(fromSample: number, step: Rate, channels: number): Omit<SoundStretch, 'samples' | 'signal'> {
  return { channels, fromSample, warp: (first) => new Resampler(step, channels, fromSample - first) };
}

/**
 * A source's sound for the stretch, interleaved: exactly as many samples as are wanted, silence where the source has none. Where more than two channels
 * are wanted, a source of more than two keeps its own, in their order, and stereo or mono is in the first two.
 */
export function sourceSound(
  context: MediaContext,
  path: string,
  probe: Probe,
  stretch: SoundStretch,
): AsyncGenerator<Float32Array> {
  const { media } = context;
  const { sound } = probe;
  if (!sound) return silence(stretch);
  const { channels } = stretch;
  const own = sound.channels > 2 && sound.channels <= channels ? sound.channels : SOUND_CHANNELS;
  // The file's sound may begin before or after its first picture.
  const start = Math.round(sound.startSeconds * SOUND_RATE);
  // Whole seconds: there every sample rate has a sample.
  const from = Math.max(0, Math.floor((stretch.fromSample - start) / SOUND_RATE) - 1);
  const request = {
    sampleRate: SOUND_RATE,
    channels: own,
    asStored: own > SOUND_CHANNELS,
    from,
    probe,
    ...(stretch.signal ? { signal: stretch.signal } : {}),
  };
  return stretched(() => placed(media.openSound(path, request), own, channels), stretch, start + from * SOUND_RATE);
}

async function* silence({ samples, channels }: SoundStretch): AsyncGenerator<Float32Array> {
  yield new Float32Array(samples * channels);
}

/** Blocks of few channels as the first of more. */
async function* placed(blocks: AsyncIterable<Float32Array>, own: number, channels: number): AsyncGenerator<Float32Array> {
  for await (const block of blocks) {
    if (own === channels) {
      yield block;
      continue;
    }
    const out = new Float32Array((block.length / own) * channels);
    for (let i = 0; i < block.length; i++) out[Math.floor(i / own) * channels + (i % own)] = block[i] as number;
    yield out;
  }
}

/**
 * The stretch of a stream of 48 kHz that has its channels.
 * @param first the source's sample that the stream begins with
 */
export async function* stretched(
  open: () => AsyncIterable<Float32Array>,
  { samples, warp, channels }: SoundStretch,
  first = 0,
): AsyncGenerator<Float32Array> {
  const warped = warp(first);
  let given = 0;
  for await (const block of open()) {
    const out = warped.push(block);
    const take = Math.min(out.length, (samples - given) * channels);
    if (take > 0) yield out.subarray(0, take);
    given += take / channels;
    if (given >= samples) return;
  }
  if (given < samples) yield warped.finish(samples);
}
