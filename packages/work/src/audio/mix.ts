import { exactPositionAt } from '@thawline/core/cadence';
import { bentMap, evenMap, type SoundMap, Stretcher, shiftedMap, Varispeed } from '@thawline/core/sound';
import { pictureSeconds, sameRate } from '@thawline/core/time';
import { MediaError } from '@thawline/media';
import {
  type Clip,
  clipEnd,
  isOff,
  isSilent,
  mappingOf,
  nestedOf,
  type Source,
  soundSpan,
  soundSpeed,
  soundWay,
  sourceOf,
  type Timeline,
  type TimingOf,
  timingUnder,
} from '@thawline/project';
import { type RenderInput, rangeOf, timingFrom } from '../compose/input.js';
import type { MediaContext } from '../jobs/context.js';
import { resampled, SOUND_CHANNELS, SOUND_RATE, type SoundStretch, sampleOfFrame, sourceSound, stretched } from './stretch.js';

const MIX_BLOCK = 12_000;

/** Whether any clip lies on a sound lane. */
export function hasSound({ timeline }: Pick<RenderInput, 'timeline'>): boolean {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  return timeline.clips.some((c) => lanes.has(c.laneId) && !isOff(timeline, c));
}

/** Channels that an input's sound is mixed to. */
export function mixChannels({ channels = SOUND_CHANNELS }: Pick<RenderInput, 'channels'>): number {
  return channels;
}

/**
 * All sound clips added up, brought up by the input's gain and limited to full scale: interleaved, as many samples as the input's range lasts. A clip
 * begins at the sample of its first frame, whether or not the range does.
 */
export async function* mixedSound(context: MediaContext, input: RenderInput): AsyncGenerator<Float32Array> {
  const { project, timeline } = input;
  const range = rangeOf(input);
  const sample = (frame: number): number => sampleOfFrame(frame, timeline.rate);
  const [first, total] = [sample(range.from), sample(range.to)];
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  const silent = (clip: Clip): boolean => {
    if (isOff(timeline, clip)) return true;
    const source = sourceOf(project, clip.sourceId);
    return !source || isSilent(source, clip);
  };
  const waiting = timeline.clips
    .filter((c) => lanes.has(c.laneId) && !silent(c) && c.start < range.to && clipEnd(c) > range.from)
    .sort((a, b) => a.start - b.start);
  let open: { reader: SampleReader; end: number }[] = [];
  try {
    for (let at = first; at < total; ) {
      // A block ends where the next clip begins or an open one ends, so that each starts at its exact sample.
      const borders = [...waiting.map((c) => sample(c.start)), ...open.map((o) => o.end)].filter((s) => s > at);
      while (waiting[0] && sample(waiting[0].start) <= at) {
        const clip = waiting.shift() as Clip;
        const late = Math.max(0, range.from - clip.start);
        const reader = new SampleReader(clipSound(context, input, clip, late));
        open.push({ reader, end: sample(clipEnd(clip)) });
        borders.push(sample(clipEnd(clip)));
      }
      const count = Math.min(total - at, MIX_BLOCK, ...borders.map((b) => b - at));
      const block = new Float32Array(count * mixChannels(input));
      for (const { reader } of open) await reader.addTo(block);
      finish(block, input);
      at += count;
      for (const done of open.filter((o) => o.end <= at)) await done.reader.close();
      open = open.filter((o) => o.end > at);
      yield block;
    }
  } finally {
    // Whoever needs no more, as a placed timeline that is trimmed, leaves in the midst: no decoder may wait for it.
    for (const { reader } of open) await reader.close();
  }
}

function finish(block: Float32Array, { gainDb = 0, unlimited = false }: Pick<RenderInput, 'gainDb' | 'unlimited'>): void {
  const gain = 10 ** (gainDb / 20);
  const most = unlimited ? Number.POSITIVE_INFINITY : 1;
  for (let i = 0; i < block.length; i++) block[i] = Math.max(-most, Math.min(most, (block[i] as number) * gain));
}

/** A clip's sound from a frame of it on: warped as its speed or curve and its way with sound say, as loud as is asked, its cuts without clicks. */
async function* clipSound(context: MediaContext, input: RenderInput, clip: Clip, late: number): AsyncGenerator<Float32Array> {
  const { signal } = context;
  const { project, timeline } = input;
  const channels = mixChannels(input);
  const source = sourceOf(project, clip.sourceId);
  if (!source) throw new MediaError('missing-file');
  const sample = (frame: number): number => sampleOfFrame(frame, timeline.rate);
  const samples = sample(clipEnd(clip)) - sample(clip.start + late);
  const stretch = { samples, ...warpOf(input, source, clip, late), signal };
  const gain = 10 ** (clip.level / 20);
  const fades = fadesOf(timeline, clip, source, timingFrom(input.files));
  const before = sample(clip.start + late) - sample(clip.start);
  let at = before;
  for await (const block of streamOf(context, input, source, stretch)) {
    if (gain === 1 && !fades.head && !fades.tail) yield block;
    else {
      const out = block.slice();
      for (let i = 0; i < out.length; i += channels) {
        const n = at + i / channels;
        const head = fades.head ? Math.min(1, (n + 0.5) / FADE) : 1;
        const tail = fades.tail ? Math.max(0, Math.min(1, (before + samples - n - 0.5) / FADE)) : 1;
        for (let c = 0; c < channels; c++) out[i + c] = (out[i + c] as number) * gain * head * tail;
      }
      yield out;
    }
    at += block.length / channels;
  }
}

/** Samples over which sound comes in and goes out at a cut: 4 ms. */
const FADE = 192;

function streamOf(
  context: MediaContext,
  input: RenderInput,
  source: Source,
  stretch: SoundStretch,
): AsyncGenerator<Float32Array> {
  const inner = nestedOf(input.project, source.id);
  if (inner)
    return stretched(() => mixedSound(context, { ...input, timeline: inner, range: null, gainDb: 0, unlimited: false }), stretch);
  const file = input.files[source.mediaId];
  if (!file) throw new MediaError('missing-file');
  return sourceSound(context, file.path, file.probe, stretch);
}

/** How the source's sound becomes the clip's, from a frame of the clip on. */
function warpOf(input: RenderInput, source: Source, clip: Clip, late: number): Omit<SoundStretch, 'samples' | 'signal'> {
  const channels = mixChannels(input);
  const { timeline } = input;
  const way = soundWay(source, clip);
  const slip = Math.round((clip.slip * SOUND_RATE) / 1e6);
  if (clip.curve && way !== 'own') {
    const map = curveMap(input, { source, clip, late, slip });
    const Bent = way === 'pitch' ? Stretcher : Varispeed;
    return { channels, fromSample: Math.floor(map.least(0)), warp: (from) => new Bent(shiftedMap(map, from), channels) };
  }
  const step = soundSpeed(source, clip, timeline);
  const head = clip.headTrim + late;
  const trimmed = sampleOfFrame(Math.abs(head), timeline.rate) * Math.sign(head);
  const fromSample = inSample(input, source, clip) + slip + Math.floor((trimmed * step.num) / step.den);
  if (way !== 'pitch' || step.num === step.den) return resampled(fromSample, step, channels);
  return { channels, fromSample, warp: (from) => new Stretcher(evenMap(fromSample - from, step.num, step.den), channels) };
}

/** Resolution of a curve's positions, in parts of a picture: a quarter of a sample. */
const PARTS = 1 << 14;

/** The source sample at each frame of a clip that follows a curve. */
function curveMap(
  input: RenderInput,
  { source, clip, late, slip }: { readonly source: Source; readonly clip: Clip; readonly late: number; readonly slip: number },
): SoundMap {
  const { timeline, files } = input;
  const mapping = { ...mappingOf(clip, source, timeline, timingFrom(files)), fit: 'blend' as const };
  const timing = timingUnder(source, null, timingFrom(files));
  const frames = clip.length - late;
  const outputs = new Float64Array(frames + 1);
  const sources = new Float64Array(frames + 1);
  const origin = sampleOfFrame(clip.start + late, timeline.rate);
  for (let n = 0; n <= frames; n++) {
    const { picture, nextShare, next = picture + 1 } = exactPositionAt(mapping, n + late, PARTS);
    const from = pictureSeconds(timing, picture);
    const share = nextShare > 0 ? (nextShare / PARTS) * (pictureSeconds(timing, next) - from) : 0;
    outputs[n] = sampleOfFrame(clip.start + late + n, timeline.rate) - origin;
    sources[n] = (from + share) * SOUND_RATE + slip;
  }
  return bentMap(outputs, sources);
}

/** What a source's sound may be longer than its clip for: coding fills up its last block. */
const PADDED = 0.001;

/** Which ends of a clip need a fade: not those where its source's sound begins or ends, nor where the next clip continues it. */
function fadesOf(timeline: Timeline, clip: Clip, source: Source, known: TimingOf): { head: boolean; tail: boolean } {
  if (clip.curve || !source.sound) return { head: true, tail: true };
  const { startSeconds, seconds } = source.sound;
  const span = soundSpan(source, clip, timeline, known);
  const lane = timeline.clips.filter((c) => c.laneId === clip.laneId);
  const before = lane.find((c) => clipEnd(c) === clip.start);
  const after = lane.find((c) => c.start === clipEnd(clip));
  const begins = span.from <= startSeconds + PADDED;
  const ends = span.to >= startSeconds + seconds - PADDED;
  return { head: !begins && !goesOn(before, clip), tail: !ends && !goesOn(clip, after) };
}

/** Whether one clip's sound continues in the other without a break. */
function goesOn(a: Clip | undefined, b: Clip | undefined): boolean {
  if (!a || !b || a.curve || b.curve || a.headTrim + a.length !== b.headTrim) return false;
  return sameRate(a.speed, b.speed) && SAME.every((field) => a[field] === b[field]);
}
const SAME = ['sourceId', 'inPicture', 'fit', 'sound', 'level', 'slip'] as const;

function inSample(input: RenderInput, source: Source, clip: Clip): number {
  const inner = nestedOf(input.project, source.id);
  if (inner) return sampleOfFrame(clip.inPicture, inner.rate);
  return Math.round(pictureSeconds(timingUnder(source, null, timingFrom(input.files)), clip.inPicture) * SOUND_RATE);
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
