import { frameContent, positionAt } from '@thawline/core/cadence';
import {
  type Box,
  fillBlack,
  type PixelLayout,
  pictureBytes,
  pixelLayout,
  placeBox,
  placePicture,
  type Size,
} from '@thawline/core/picture';
import type { Timing } from '@thawline/core/time';
import { type Encoding, type Media, MediaError, type Probe } from '@thawline/media';
import {
  type Clip,
  type Dissolving,
  dissolveShare,
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
  /** Another one whenever the file's contents are others; what is made from it may be kept under it. */
  readonly identity?: string;
}

/** What frames are composed as. */
export interface Look {
  /** A planar format of core/picture. */
  readonly pixelFormat: string;
  /** Sources of other colours are converted. Null: each as it is stored. */
  readonly colour: Encoding | null;
}

export interface RenderInput {
  readonly project: Project;
  readonly timeline: Timeline;
  /** By media id. */
  readonly files: Readonly<Record<string, SourceFile>>;
  /** In to out, `to` not included; the whole timeline when left out. */
  readonly range?: FrameRange | null;
  /** 8-bit 4:2:0 in the sources' own colours when left out. */
  readonly look?: Look;
  /** What the mix is brought up by, in dB; 0 when left out. Of placed timelines nothing. */
  readonly gainDb?: number;
  /** The mix may rise above full scale: it is only measured. */
  readonly unlimited?: boolean;
  /** Threads for pictures made by motion; else they are made here. */
  readonly threads?: MotionThreads;
}

export interface FrameRange {
  readonly from: number;
  readonly to: number;
}

const PLAIN: Look = { pixelFormat: 'yuv420p', colour: null };

/** How frames of an input lie in their buffers. */
export function layoutOf({ look = PLAIN }: Pick<RenderInput, 'look'>): PixelLayout {
  const layout = pixelLayout(look.pixelFormat);
  if (!layout) throw new MediaError('encode-failed', `no such pixel format: ${look.pixelFormat}`);
  return layout;
}

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
  const { timeline } = input;
  const range = rangeOf(input);
  const layout = layoutOf(input);
  const full = input.look?.colour?.range === 'full';
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  let at = range.from;
  for (const whole of segmentsOf(timeline)) {
    const from = Math.max(range.from, whole.from);
    const to = Math.min(range.to, whole.to);
    if (to <= from) continue;
    at = to;
    if (whole.dissolve) {
      yield* dissolved(media, input, whole.dissolve, { from, to }, size, signal);
      continue;
    }
    if (whole.clip) {
      yield* clipAlone(media, input, whole.clip, { from, to }, size, signal);
      continue;
    }
    fillBlack(layout, size.width, size.height, frame, full);
    for (let n = from; n < to; n++) yield frame;
  }
  fillBlack(layout, size.width, size.height, frame, full);
  for (let n = at; n < range.to; n++) yield frame;
}

/** Frames in which one clip gives way to another: both composed, each by itself, and mixed as they are stored. */
async function* dissolved(
  media: Media,
  input: RenderInput,
  dissolve: Dissolving,
  range: FrameRange,
  size: Size,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const { make } = mixing(layout, size.width, size.height);
  const mixed = new Uint8Array(pictureBytes(layout, size.width, size.height));
  const [out, into] = [dissolve.out, dissolve.into].map((clip) => clipAlone(media, input, clip, range, size, signal));
  try {
    for (let frame = range.from; frame < range.to; frame++) {
      const [a, b] = await Promise.all([out?.next(), into?.next()]);
      if (!a || a.done || !b || b.done) return;
      make({ k: 0, picture: a.value }, { k: 1, picture: b.value }, dissolveShare(dissolve, frame), mixed);
      yield mixed;
    }
  } finally {
    await Promise.all([out?.return(undefined), into?.return(undefined)]);
  }
}

/** Whole frames with one clip in them; each is good until the next. */
async function* clipAlone(
  media: Media,
  input: RenderInput,
  clip: Clip,
  range: FrameRange,
  size: Size,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  fillBlack(layout, size.width, size.height, frame, input.look?.colour?.range === 'full');
  const source = sourceOf(input.project, clip.sourceId);
  if (!source) {
    for (let n = range.from; n < range.to; n++) yield frame;
    return;
  }
  const box = boxAt(shapeOf(input, source), input.timeline, clip, size);
  for await (const picture of clipFrames(media, input, clip, source, range, box, signal)) {
    placePicture(layout, picture, box, size, frame);
    yield frame;
  }
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
  const layout = layoutOf(input);
  const moving = clip.fit === 'motion';
  const mixed = mixing(layout, box.width, box.height, clip.mix);
  const between = moving ? new Moving(layout, box.width, box.height) : mixed;
  const bytes = pictureBytes(layout, box.width, box.height);
  const pool = moving && input.threads ? new MotionPool(input.threads, { layout, width: box.width, height: box.height }) : null;
  const first = positionAt(mapping, from - clip.start).picture;
  const open = (at: number) => picturesOf(media, input, source, at, box, signal);
  const frames: FrameSource = {
    walk: new PictureWalk(open, first, between, bytes),
    between,
    ...(moving ? { mixing: mixed } : {}),
    pool,
    ahead: pool ? framesAhead(pool, clip.shutter) : 0,
    layout,
    bytes,
    frames: to - from,
    content: (n) => frameContent(mapping, from - clip.start + n),
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
  const { pixelFormat, colour } = input.look ?? PLAIN;
  yield* media.openPictures(file.path, file.probe, {
    pixelFormat,
    from: first,
    ...scaled,
    ...(colour ? { colour } : {}),
    ...(signal ? { signal } : {}),
  });
}

export function shapeOf(input: RenderInput, source: Source): Size {
  const probe = input.files[source.mediaId]?.probe;
  return probe ? { width: probe.width * probe.sampleAspect, height: probe.height } : source;
}

/** The clip's box in frames of `size`, which may be smaller than the timeline's own. */
export function boxAt(shape: Size, timeline: Timeline, clip: Clip, size: Size): Box {
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
