import { Resampler } from '@thawline/core/sound';
import { frameAtOrBefore, type Rate, rate } from '@thawline/core/time';
import type { Probe } from '@thawline/media';
import type { MediaContext } from '../jobs/context.js';

/** All sound is mixed and written at this rate, in stereo. */
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
  /** Samples wanted. */
  readonly samples: number;
  /** Source sample (of 48000 a second, counted from the first picture's start) that is needed first; may be negative. */
  readonly fromSample: number;
  /** Makes the warp for a stream that starts at the given sample of the source. */
  readonly warp: (first: number) => Warp;
  readonly signal?: AbortSignal;
}

/** At one speed, 1/1 untouched, 30000/25025 for 25 in 29.97, its pitch going along; from a source sample on. */
export function resampled(fromSample: number, step: Rate): Pick<SoundStretch, 'fromSample' | 'warp'> {
  return { fromSample, warp: (first) => new Resampler(step, SOUND_CHANNELS, fromSample - first) };
}

/** Interleaved stereo for the stretch: exactly as many samples as are wanted, silence where the source has none. */
export function sourceSound(
  context: MediaContext,
  path: string,
  probe: Probe,
  stretch: SoundStretch,
): AsyncGenerator<Float32Array> {
  const { media } = context;
  const { sound } = probe;
  if (!sound) return silence(stretch.samples);
  // The file's sound may begin before or after its first picture.
  const start = Math.round(sound.startSeconds * SOUND_RATE);
  // Whole seconds: there every sample rate has a sample.
  const from = Math.max(0, Math.floor((stretch.fromSample - start) / SOUND_RATE) - 1);
  const request = {
    sampleRate: SOUND_RATE,
    channels: SOUND_CHANNELS,
    from,
    probe,
    ...(stretch.signal ? { signal: stretch.signal } : {}),
  };
  return stretched(() => media.openSound(path, request), stretch, start + from * SOUND_RATE);
}

async function* silence(samples: number): AsyncGenerator<Float32Array> {
  yield new Float32Array(samples * SOUND_CHANNELS);
}

/**
 * The stretch of a stream of 48 kHz stereo.
 * @param first the source's sample that the stream begins with
 */
export async function* stretched(
  open: () => AsyncIterable<Float32Array>,
  { samples, warp }: SoundStretch,
  first = 0,
): AsyncGenerator<Float32Array> {
  const warped = warp(first);
  let given = 0;
  for await (const block of open()) {
    const out = warped.push(block);
    const take = Math.min(out.length, (samples - given) * SOUND_CHANNELS);
    if (take > 0) yield out.subarray(0, take);
    given += take / SOUND_CHANNELS;
    if (given >= samples) return;
  }
  if (given < samples) yield warped.finish(samples);
}
