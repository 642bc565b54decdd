import { pictureSeconds } from '@thawline/core/time';
import { type Media, MediaError } from '@thawline/media';
import { type Clip, clipEnd, nestedOf, type Source, soundSpeed, sourceOf } from '@thawline/project';
import { type RenderInput, rangeOf } from './compose.js';
import { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound, stretched } from './sound.js';

const MIX_BLOCK = 12_000;

/** Whether any clip lies on a sound lane. */
export function hasSound({ timeline }: Pick<RenderInput, 'timeline'>): boolean {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  return timeline.clips.some((c) => lanes.has(c.laneId));
}

/**
 * All sound clips added up, limited to full scale: interleaved stereo, as many samples as the input's range lasts. A clip
 * begins at the sample of its first frame, whether or not the range does.
 */
export async function* mixedSound(media: Media, input: RenderInput, signal?: AbortSignal): AsyncGenerator<Float32Array> {
  const { project, timeline } = input;
  const range = rangeOf(input);
  const sample = (frame: number): number => sampleOfFrame(frame, timeline.rate);
  const [first, total] = [sample(range.from), sample(range.to)];
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  // No sound follows a curve yet.
  const silent = (clip: Clip): boolean =>
    clip.fit === 'freeze' || clip.curve !== null || sourceOf(project, clip.sourceId)?.readAt?.sound === 'off';
  const waiting = timeline.clips
    .filter((c) => lanes.has(c.laneId) && !silent(c) && c.start < range.to && clipEnd(c) > range.from)
    .sort((a, b) => a.start - b.start);
  let open: { reader: SampleReader; end: number }[] = [];
  for (let at = first; at < total; ) {
    // A block ends where the next clip begins or an open one ends, so that each starts at its exact sample.
    const borders = [...waiting.map((c) => sample(c.start)), ...open.map((o) => o.end)].filter((s) => s > at);
    while (waiting[0] && sample(waiting[0].start) <= at) {
      const clip = waiting.shift() as Clip;
      const late = Math.max(0, range.from - clip.start);
      const reader = new SampleReader(clipSound(media, input, clip, late, signal));
      open.push({ reader, end: sample(clipEnd(clip)) });
      borders.push(sample(clipEnd(clip)));
    }
    const count = Math.min(total - at, MIX_BLOCK, ...borders.map((b) => b - at));
    const block = new Float32Array(count * SOUND_CHANNELS);
    for (const { reader } of open) await reader.addTo(block);
    for (let i = 0; i < block.length; i++) block[i] = Math.max(-1, Math.min(1, block[i] as number));
    at += count;
    for (const done of open.filter((o) => o.end <= at)) await done.reader.close();
    open = open.filter((o) => o.end > at);
    yield block;
  }
  for (const { reader } of open) await reader.close();
}

/**
 * A clip's sound from a frame of it on: resampled by the speed of the action (the pitch goes along; 1 leaves it untouched), or,
 * where its source's reading says so, at its own speed. Keeping the pitch is refused before a render begins.
 */
function clipSound(
  media: Media,
  input: RenderInput,
  clip: Clip,
  late: number,
  signal?: AbortSignal,
): AsyncGenerator<Float32Array> {
  const { project, timeline, files } = input;
  const source = sourceOf(project, clip.sourceId);
  if (!source) throw new MediaError('missing-file');
  const step = soundSpeed(source, clip, timeline);
  const head = clip.headTrim + late;
  const trimmed = sampleOfFrame(Math.abs(head), timeline.rate) * Math.sign(head);
  const fromSample = inSample(input, source, clip) + Math.floor((trimmed * step.num) / step.den);
  const stretch = { timeline: timeline.rate, frames: clip.length - late, fromSample, step, ...(signal ? { signal } : {}) };
  const inner = nestedOf(project, source.id);
  if (inner) return stretched(() => mixedSound(media, { ...input, timeline: inner, range: null }, signal), stretch);
  const file = files[source.mediaId];
  if (!file) throw new MediaError('missing-file');
  return sourceSound(media, file.path, file.probe, stretch);
}

function inSample(input: RenderInput, source: Source, clip: Clip): number {
  const inner = nestedOf(input.project, source.id);
  if (inner) return sampleOfFrame(clip.inPicture, inner.rate);
  const timing = input.files[source.mediaId]?.probe.timing;
  return timing ? Math.round(pictureSeconds(timing, clip.inPicture) * SOUND_RATE) : 0;
}

/** Reads a stream of blocks in pieces of any size. */
class SampleReader {
  private rest = new Float32Array(0) as Float32Array;
  private readonly iterator: AsyncIterator<Float32Array>;

  constructor(stream: AsyncGenerator<Float32Array>) {
    this.iterator = stream[Symbol.asyncIterator]();
  }

  /** Adds the next samples to the block; what is missing at the end is silence. */
  async addTo(block: Float32Array): Promise<void> {
    let filled = 0;
    while (filled < block.length) {
      if (this.rest.length === 0) {
        const next = await this.iterator.next();
        if (next.done) return;
        this.rest = next.value;
      }
      const take = Math.min(block.length - filled, this.rest.length);
      for (let i = 0; i < take; i++) block[filled + i] = (block[filled + i] as number) + (this.rest[i] as number);
      this.rest = this.rest.subarray(take);
      filled += take;
    }
  }

  async close(): Promise<void> {
    await this.iterator.return?.();
  }
}
