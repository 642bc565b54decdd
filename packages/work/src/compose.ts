import { exposures, positionAt } from '@thawline/core/cadence';
import { type Box, fillBlack, pictureBytes, pixelLayout, placeBox, placePicture, type Size } from '@thawline/core/picture';
import type { Timing } from '@thawline/core/time';
import { type Media, MediaError, type Probe } from '@thawline/media';
import {
  type Clip,
  chosenFrames,
  mappingOf,
  nestedOf,
  type Project,
  type Source,
  segmentsOf,
  sourceOf,
  type Timeline,
  type TimingOf,
  timelineLength,
} from '@thawline/project';
import { Moving, mixing } from './between.js';
import { type FrameSource, framesAhead, framesOf, noFrames } from './frames.js';
import { MotionPool, type MotionThreads } from './motionPool.js';
import { PictureWalk } from './pictures.js';

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
  /** In to out, `to` not included; the whole timeline when left out. */
  readonly range?: FrameRange | null;
  /** Threads for pictures made by motion; else they are made here. */
  readonly threads?: MotionThreads;
}

export interface FrameRange {
  readonly from: number;
  readonly to: number;
}

/** Frames are composed in this pixel format. */
export const FORMAT = 'yuv420p';
const LAYOUT = pixelLayout(FORMAT) as NonNullable<ReturnType<typeof pixelLayout>>;

export function rangeOf(input: Pick<RenderInput, 'timeline' | 'range'>): FrameRange {
  return input.range ?? { from: 0, to: timelineLength(input.timeline) };
}

export function timingFrom(files: RenderInput['files']): TimingOf {
  return (mediaId): Timing | undefined => files[mediaId]?.probe.timing;
}

/**
 * Each frame of the input's range, composed into one buffer that the next frame overwrites. Timelines that stand in it are
 * composed in their turn, straight at the size they are shown.
 * @param size of the frames given, the timeline's shape
 */
export async function* composed(media: Media, input: RenderInput, size: Size, signal?: AbortSignal): AsyncGenerator<Uint8Array> {
  const { project, timeline } = input;
  const range = rangeOf(input);
  const frame = new Uint8Array(pictureBytes(LAYOUT, size.width, size.height));
  let at = range.from;
  for (const whole of segmentsOf(timeline)) {
    const from = Math.max(range.from, whole.from);
    const to = Math.min(range.to, whole.to);
    if (to <= from) continue;
    at = to;
    const source = whole.clip && sourceOf(project, whole.clip.sourceId);
    fillBlack(LAYOUT, size.width, size.height, frame);
    if (!whole.clip || !source) {
      for (let n = from; n < to; n++) yield frame;
      continue;
    }
    const box = boxAt(shapeOf(input, source), timeline, whole.clip, size);
    for await (const picture of clipFrames(media, input, whole.clip, source, { from, to }, box, signal)) {
      placePicture(LAYOUT, picture, box, size, frame);
      yield frame;
    }
  }
  fillBlack(LAYOUT, size.width, size.height, frame);
  for (let n = at; n < range.to; n++) yield frame;
}

/** What a clip shows at the timeline's frames, at the size of its box; each is good until the next. */
function clipFrames(
  media: Media,
  input: RenderInput,
  clip: Clip,
  source: Source,
  { from, to }: FrameRange,
  box: Size,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const mapping = mappingOf(clip, source, input.timeline, timingFrom(input.files));
  const moving = clip.fit === 'motion';
  const mixed = mixing(LAYOUT, box.width, box.height, clip.mix);
  const between = moving ? new Moving(LAYOUT, box.width, box.height) : mixed;
  const bytes = pictureBytes(LAYOUT, box.width, box.height);
  const pool =
    moving && input.threads ? new MotionPool(input.threads, { layout: LAYOUT, width: box.width, height: box.height }) : null;
  const first = positionAt(mapping, from - clip.start).picture;
  const open = (at: number) => picturesOf(media, input, source, at, box, signal);
  const chosen = chosenFrames(clip.instead, 'blend');
  const frames: FrameSource = {
    walk: new PictureWalk(open, first, between, bytes),
    between,
    mixed: { at: (n) => chosen.has(from - clip.start + n + clip.headTrim), by: mixed },
    pool,
    ahead: pool ? framesAhead(pool, clip.shutter) : 0,
    layout: LAYOUT,
    bytes,
    frames: to - from,
    exposed: (n) => exposures(mapping, from - clip.start + n, clip.shutter, between.parts, moving),
  };
  return framesOf(frames, noFrames());
}

/** A source's pictures from one on, at the size of their box. */
async function* picturesOf(
  media: Media,
  input: RenderInput,
  source: Source,
  first: number,
  box: Size,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const inner = nestedOf(input.project, source.id);
  if (inner) {
    const range = { from: first, to: Math.max(first + 1, timelineLength(inner)) };
    // The walk holds on to a picture while it asks for the next: each is handed over as a copy.
    for await (const picture of composed(media, { ...input, timeline: inner, range }, box, signal)) yield picture.slice();
    return;
  }
  const file = input.files[source.mediaId];
  if (!file) throw new MediaError('missing-file');
  const scaled =
    box.width === file.probe.width && box.height === file.probe.height ? {} : { width: box.width, height: box.height };
  yield* media.openPictures(file.path, file.probe, {
    pixelFormat: FORMAT,
    from: first,
    ...scaled,
    ...(signal ? { signal } : {}),
  });
}

function shapeOf(input: RenderInput, source: Source): Size {
  const probe = input.files[source.mediaId]?.probe;
  return probe ? { width: probe.width * probe.sampleAspect, height: probe.height } : source;
}

/** The clip's box in frames of `size`, which may be smaller than the timeline's own. */
function boxAt(shape: Size, timeline: Timeline, clip: Clip, size: Size): Box {
  const box = placeBox(shape, timeline, clip.framing);
  if (size.width === timeline.width && size.height === timeline.height) return box;
  const even = (n: number, scale: number): number => Math.round((n * scale) / 2) * 2;
  const [across, down] = [size.width / timeline.width, size.height / timeline.height];
  return {
    x: even(box.x, across),
    y: even(box.y, down),
    width: Math.max(2, even(box.width, across)),
    height: Math.max(2, even(box.height, down)),
  };
}
