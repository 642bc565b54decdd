import { Resampler } from '@thawline/core/sound';
import { frameAtOrBefore, type Rate, rate } from '@thawline/core/time';
import type { Media, Probe } from '@thawline/media';

/** All sound is mixed and written at this rate, in stereo. */
export const SOUND_RATE = 48_000;
export const SOUND_CHANNELS = 2;
const SAMPLES = rate(SOUND_RATE);

/** The first sample of a timeline's frame: floor(frame * 48000 / T), the same for picture and sound. */
export function sampleOfFrame(frame: number, timeline: Rate): number {
  return frameAtOrBefore(frame, timeline, SAMPLES);
}

export interface SoundStretch {
  readonly timeline: Rate;
  /** Frames of sound wanted. */
  readonly frames: number;
  /** Source sample (of 48000 a second, counted from the first picture's start) at the stretch's first sample; may be negative. */
  readonly fromSample?: number;
  /** Source samples for one output sample; 1/1 keeps sound as it is, 30000/25025 plays 25 in 29.97 with the pitch going along. */
  readonly step?: Rate;
  readonly signal?: AbortSignal;
}

/** Interleaved stereo for the stretch: exactly as many samples as its frames last, silence where the source has none. */
export function sourceSound(media: Media, path: string, probe: Probe, stretch: SoundStretch): AsyncGenerator<Float32Array> {
  const { sound } = probe;
  if (!sound) return silence(sampleOfFrame(stretch.frames, stretch.timeline));
  // The file's sound may begin before or after its first picture.
  const fromSample = (stretch.fromSample ?? 0) - Math.round(sound.startSeconds * SOUND_RATE);
  const request = { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS, ...(stretch.signal ? { signal: stretch.signal } : {}) };
  return stretched(() => media.openSound(path, request), { ...stretch, fromSample });
}

async function* silence(samples: number): AsyncGenerator<Float32Array> {
  yield new Float32Array(samples * SOUND_CHANNELS);
}

/** The stretch of a stream of 48 kHz stereo that begins at its sample 0. */
export async function* stretched(open: () => AsyncIterable<Float32Array>, stretch: SoundStretch): AsyncGenerator<Float32Array> {
  const total = sampleOfFrame(stretch.frames, stretch.timeline);
  const resampler = new Resampler(stretch.step ?? rate(1), SOUND_CHANNELS, stretch.fromSample ?? 0);
  let given = 0;
  for await (const block of open()) {
    const out = resampler.push(block);
    const take = Math.min(out.length, (total - given) * SOUND_CHANNELS);
    if (take > 0) yield out.subarray(0, take);
    given += take / SOUND_CHANNELS;
    if (given >= total) return;
  }
  if (given < total) yield resampler.finish(total);
}
