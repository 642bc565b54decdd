import { positionAt } from '@thawline/core/cadence';
import { fillBlack, fitInside, pictureBytes, pixelLayout, placePicture, shrinkPlane } from '@thawline/core/picture';
import { pictureSeconds, type Timing } from '@thawline/core/time';
import { type Media, MediaError, type Probe } from '@thawline/media';
import {
  type Clip,
  clipEnd,
  mappingOf,
  type Project,
  segmentsOf,
  soundSpeed,
  type Timeline,
  type TimingOf,
  timelineLength,
} from '@thawline/project';
import type { Progress } from './check.js';
import { PictureWalk } from './pictures.js';
import { SIGNATURE_BYTES, SIGNATURE_HEIGHT, SIGNATURE_WIDTH, type Signatures } from './signatures.js';
import { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound } from './sound.js';

/** A source's file as a job finds it. */
export interface SourceFile {
  readonly path: string;
  readonly probe: Probe;
}

export interface RenderInput {
  readonly project: Project;
  readonly timeline: Timeline;
  /** By media id. */
  readonly files: Readonly<Record<string, SourceFile>>;
}

const FORMAT = 'yuv420p';
const LAYOUT = pixelLayout(FORMAT) as NonNullable<ReturnType<typeof pixelLayout>>;

export function timingFrom(files: RenderInput['files']): TimingOf {
  return (mediaId): Timing | undefined => files[mediaId]?.probe.timing;
}

/**
 * Writes a timeline to MP4 at exactly its rate and size. Every frame shows what the step map says, fitted inside the
 * frame; sound of a clip begins at the sample of its first frame.
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
  const frames = timelineLength(timeline);
  if (frames === 0) throw new MediaError('encode-failed', 'the timeline is empty');
  const signatures = new Uint8Array(frames * SIGNATURE_BYTES);
  const sounding = timeline.clips.some((c) => timeline.lanes.find((l) => l.id === c.laneId)?.kind === 'sound');
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
  const frame = new Uint8Array(pictureBytes(LAYOUT, timeline.width, timeline.height));
  async function* pictures(): AsyncGenerator<Uint8Array> {
    let n = 0;
    for await (const picture of composed(media, input, frame, signal)) {
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

/** Each frame of the timeline, composed into one buffer. */
async function* composed(media: Media, input: RenderInput, frame: Uint8Array, signal?: AbortSignal): AsyncGenerator<Uint8Array> {
  const { project, timeline, files } = input;
  for (const segment of segmentsOf(timeline)) {
    const source = segment.clip && project.sources.find((s) => s.id === segment.clip?.sourceId);
    const file = source && files[source.mediaId];
    fillBlack(LAYOUT, timeline.width, timeline.height, frame);
    if (!segment.clip || !source || !file) {
      for (let n = segment.from; n < segment.to; n++) yield frame;
      continue;
    }
    const mapping = mappingOf(segment.clip, source, timeline, timingFrom(files));
    const offset = segment.clip.start;
    const first = positionAt(mapping, segment.from - offset).picture;
    const shape = { width: file.probe.width * file.probe.sampleAspect, height: file.probe.height };
    const box = fitInside(shape, timeline);
    const scaled =
      box.width === file.probe.width && box.height === file.probe.height ? {} : { width: box.width, height: box.height };
    const stream = media.openPictures(file.path, file.probe, {
      pixelFormat: FORMAT,
      from: first,
      ...scaled,
      ...(signal ? { signal } : {}),
    });
    const walk = new PictureWalk(stream, first, FORMAT, pictureBytes(LAYOUT, box.width, box.height));
    try {
      for (let n = segment.from; n < segment.to; n++) {
        const picture = await walk.at(positionAt(mapping, n - offset));
        if (!picture) throw new MediaError('decode-failed', `${source.name} gave no picture`);
        placePicture(LAYOUT, picture, box, timeline, frame);
        yield frame;
      }
    } finally {
      await walk.close();
    }
  }
}

const MIX_BLOCK = 12_000;

/** All sound clips added up, limited to full scale, as many samples as the timeline lasts. */
async function* mixedSound(media: Media, input: RenderInput, signal?: AbortSignal): AsyncGenerator<Float32Array> {
  const { project, timeline } = input;
  const total = sampleOfFrame(timelineLength(timeline), timeline.rate);
  const sounding = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  const silent = new Set(project.sources.filter((s) => s.readAt?.sound === 'off').map((s) => s.id));
  const waiting = timeline.clips
    .filter((c) => sounding.has(c.laneId) && !silent.has(c.sourceId))
    .sort((a, b) => a.start - b.start);
  let open: { reader: SampleReader; end: number }[] = [];
  for (let at = 0; at < total; ) {
    // A block ends where the next clip begins or an open one ends, so that each starts at its exact sample.
    const borders = [...waiting.map((c) => sampleOfFrame(c.start, timeline.rate)), ...open.map((o) => o.end)].filter(
      (s) => s > at,
    );
    while (waiting[0] && sampleOfFrame(waiting[0].start, timeline.rate) <= at) {
      const clip = waiting.shift() as Clip;
      const reader = new SampleReader(clipSound(media, input, clip, signal));
      open.push({ reader, end: sampleOfFrame(clipEnd(clip), timeline.rate) });
      borders.push(sampleOfFrame(clipEnd(clip), timeline.rate));
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
}

/**
 * A clip's sound: resampled by the speed of the action (the pitch goes along; 1 leaves it untouched), or, where its source's
 * reading says so, at its own speed. Keeping the pitch is refused before a render begins.
 */
function clipSound(media: Media, input: RenderInput, clip: Clip, signal?: AbortSignal): AsyncGenerator<Float32Array> {
  const { project, timeline, files } = input;
  const source = project.sources.find((s) => s.id === clip.sourceId);
  const file = source && files[source.mediaId];
  if (!source || !file) throw new MediaError('missing-file');
  const step = soundSpeed(source, clip, timeline);
  const trimmed = sampleOfFrame(Math.abs(clip.headTrim), timeline.rate) * Math.sign(clip.headTrim);
  const inSample = Math.round(pictureSeconds(file.probe.timing, clip.inPicture) * SOUND_RATE);
  return sourceSound(media, file.path, file.probe, {
    timeline: timeline.rate,
    frames: clip.length,
    fromSample: inSample + Math.floor((trimmed * step.num) / step.den),
    step,
    ...(signal ? { signal } : {}),
  });
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
