import { shrinkPlane } from '@thawline/core/picture';
import { type Media, MediaError } from '@thawline/media';
import type { Progress } from './check.js';
import { composed, FORMAT, type RenderInput, rangeOf } from './compose.js';
import { hasSound, mixedSound } from './mix.js';
import { SIGNATURE_BYTES, SIGNATURE_HEIGHT, SIGNATURE_WIDTH, type Signatures } from './signatures.js';
import { SOUND_CHANNELS, SOUND_RATE } from './sound.js';

/**
 * Writes a timeline, or its range, to MP4 at exactly its rate and size. Every frame shows what the step map says; sound of a
 * clip begins at the sample of its first frame.
 * @param path a temporary place: the caller moves it when all is right
 * @returns the small luma picture of each frame as it was composed, for the receipt
 */
export async function renderTimeline(
  media: Media,
  input: RenderInput,
  path: string,
  progress: Progress,
  signal?: AbortSignal,
): Promise<Signatures> {
  const { timeline } = input;
  const { from, to } = rangeOf(input);
  const frames = to - from;
  if (frames <= 0) throw new MediaError('encode-failed', 'the timeline is empty');
  const signatures = new Uint8Array(frames * SIGNATURE_BYTES);
  const sounding = hasSound(input);
  const stop = signal ? { signal } : {};
  const request = {
    width: timeline.width,
    height: timeline.height,
    rate: timeline.rate,
    pixelFormat: FORMAT,
    form: 'mp4' as const,
    ...(sounding ? { sound: { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS } } : {}),
    ...stop,
  };
  async function* pictures(): AsyncGenerator<Uint8Array> {
    let n = 0;
    for await (const picture of composed(media, input, timeline, signal)) {
      const at = n * SIGNATURE_BYTES;
      const small = signatures.subarray(at, at + SIGNATURE_BYTES);
      shrinkPlane(picture, timeline.width, timeline.height, small, SIGNATURE_WIDTH, SIGNATURE_HEIGHT);
      n++;
      if (n % 5 === 0 || n === frames) progress(n, frames, 'writing frames');
      // The pipe may still hold the last one: each frame is handed over as a copy.
      yield picture.slice();
    }
  }
  await media.encode(path, request, pictures(), sounding ? mixedSound(media, input, signal) : undefined);
  return { frames, data: signatures };
}
