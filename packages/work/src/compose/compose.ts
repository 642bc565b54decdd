import { frameContent, positionAt, SHARES } from '@thawline/core/cadence';
import { weaveFields } from '@thawline/core/fields';
import {
  deepen,
  fillWith,
  isSeenThrough,
  layOver,
  opaqueFormat,
  overlay,
  type PictureKind,
  pictureBytes,
  pixelFacts,
  placePicture,
  planarName,
  type Size,
  workingFormat,
} from '@thawline/core/picture';
import { MediaError, type Probe } from '@thawline/media';
import {
  atFieldRate,
  beneath,
  type Clip,
  type Dissolving,
  dissolveShare,
  mappingOf,
  nestedOf,
  type Source,
  segmentsOf,
  sourceOf,
  timelineLength,
} from '@thawline/project';
import type { MediaContext } from '../jobs/context.js';
import { MotionPool } from '../motion/pool.js';
import { composedClear, type WantedClip } from './clear.js';
import { type FrameSource, framesAhead, framesOf, noFrames } from './clipFrames.js';
import {
  boxAt,
  type FieldsWanted,
  type FrameRange,
  groundOf,
  kindOf,
  type Look,
  layoutOf,
  PLAIN,
  type RenderInput,
  rangeOf,
  shapeOf,
  timingFrom,
} from './input.js';
import { Moving, mixing } from './interpolate.js';
import { PictureWalk } from './pictureWalk.js';

/**
 * Each frame of the input's range, composed into one buffer that the next frame overwrites. Timelines that stand in it are
 * composed in their turn, straight at the size they are shown. Where the look's pixel format has alpha, frames have it, and their colour is straight.
 * @param size of the frames given, the timeline's shape
 */
export function composed(context: MediaContext, input: RenderInput, size: Size): AsyncGenerator<Uint8Array> {
  return layoutOf(input).alpha
    ? composedClear(context, input, size, { layered, straight: clipStraight })
    : layered(context, input, size);
}

/** The same; with alpha frames are multiplied, of 16 bit. */
async function* layered(context: MediaContext, input: RenderInput, size: Size): AsyncGenerator<Uint8Array> {
  const { timeline, fields } = input;
  if (fields) {
    yield* inFields(context, input, fields, size);
    return;
  }
  const range = rangeOf(input);
  const layout = layoutOf(input);
  const ground = { ...size, over: groundOf(input) };
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  let at = range.from;
  for (const whole of segmentsOf(timeline)) {
    const from = Math.max(range.from, whole.from);
    const to = Math.min(range.to, whole.to);
    if (to <= from) continue;
    at = to;
    if (whole.dissolve) {
      yield* dissolved(context, input, { dissolve: whole.dissolve, range: { from, to }, size });
      continue;
    }
    if (whole.clip) {
      yield* clipSeen(context, input, { clip: whole.clip, range: { from, to }, size });
      continue;
    }
    fillWith(layout, { ...ground, out: frame });
    for (let n = from; n < to; n++) yield frame;
  }
  fillWith(layout, { ...ground, out: frame });
  for (let n = at; n < range.to; n++) yield frame;
}

/** What layers are laid as, where they have alpha. */
const MULTIPLIED: PictureKind = { alpha: 'multiplied' };

/** Frames of two fields: pictures are composed at twice the rate, and two of them share a frame's lines. Smaller than it is, a frame is the mean of both. */
async function* inFields(
  context: MediaContext,
  { fields: _, ...input }: RenderInput,
  { order, lowPass }: FieldsWanted,
  size: Size,
): AsyncGenerator<Uint8Array> {
  const { width, height } = size;
  const layout = layoutOf(input);
  const range = rangeOf(input);
  const timeline = atFieldRate(input.timeline);
  const pictures = layered(context, { ...input, timeline, range: { from: 2 * range.from, to: 2 * range.to } }, size);
  const whole = height === input.timeline.height && width === input.timeline.width;
  const { make } = mixing(layout, { width, height }, 'stored', MULTIPLIED);
  const out = new Uint8Array(pictureBytes(layout, width, height));
  let first: Uint8Array | null = null;
  for await (const picture of pictures) {
    if (!first) {
      first = picture.slice();
      continue;
    }
    if (whole) weaveFields(layout, { width, height, first, second: picture, order, lowPass, out });
    else make({ k: 0, picture: first }, { k: 1, picture }, SHARES / 2, out);
    first = null;
    yield out;
  }
}

/** Frames in which one clip gives way to another: both composed, each by itself, and mixed as they are stored. */
async function* dissolved(
  context: MediaContext,
  input: RenderInput,
  { dissolve, range, size }: { readonly dissolve: Dissolving; readonly range: FrameRange; readonly size: Size },
): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const { make } = mixing(layout, size, 'stored', MULTIPLIED);
  const mixed = new Uint8Array(pictureBytes(layout, size.width, size.height));
  const [out, into] = [dissolve.out, dissolve.into].map((clip) => clipSeen(context, input, { clip, range, size }));
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

/** Whole frames of one clip, over what lies beneath it where that is seen; each is good until the next. */
function clipSeen(
  context: MediaContext,
  input: RenderInput,
  wanted: { readonly clip: Clip; readonly range: FrameRange; readonly size: Size },
): AsyncGenerator<Uint8Array> {
  const source = sourceOf(input.project, wanted.clip.sourceId);
  const probe = source && input.files[source.mediaId]?.probe;
  // What the file says now counts, as for all else that is composed.
  const clear = probe && isSeenThrough(probe);
  if (source && (clear || wanted.clip.opacity !== undefined))
    return clipOver(context, input, { ...wanted, source, clear: clear ? probe : null });
  return clipAlone(context, input, wanted);
}

/** Frames of what lies beneath a clip, with its pictures over it as far as they are seen. */
async function* clipOver(
  context: MediaContext,
  input: RenderInput,
  {
    clip,
    source,
    clear,
    range,
    size,
  }: {
    readonly clip: Clip;
    readonly source: Source;
    /** Its file, where that has alpha. */
    readonly clear: Probe | null;
    readonly range: FrameRange;
    readonly size: Size;
  },
): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  const box = boxAt(shapeOf(input, source), input.timeline, clip, size);
  const { opacity = 1 } = clip;
  const { look: own = PLAIN } = input;
  const look: Look = clear ? { ...own, pixelFormat: overFormat(layout.alpha ? own.pixelFormat : clear.pixelFormat) } : own;
  const over = layoutOf({ look });
  const full = look.colour?.range === 'full';
  const under = layered(context, { ...input, timeline: beneath(input.timeline, clip), range }, size);
  const pictures = clear
    ? clipFrames(context, { ...input, look }, { clip, source, range, box })
    : clipAsLaid(context, input, { clip, source, range, box });
  try {
    for (;;) {
      const [below, above] = await Promise.all([under.next(), pictures.next()]);
      if (below.done || above.done) return;
      frame.set(below.value);
      if (clear) overlay(over, layout, { picture: above.value, box, frame: size, full, opacity, out: frame });
      else layOver(layout, { picture: above.value, box, frame: size, opacity, out: frame });
      yield frame;
    }
  } finally {
    await Promise.all([under.return(undefined), pictures.return(undefined)]);
  }
}

/** Pictures that are laid over others have colour for each pixel, at their own depth: brought to another, all of alpha would be a little less. */
function overFormat(pixelFormat: string): string {
  const bits = pixelFacts(workingFormat(pixelFormat))?.bits ?? 8;
  return planarName({ model: 'yuv', bits, chroma: '4:4:4', alpha: true });
}

/** Whole frames with one clip in them; each is good until the next. */
async function* clipAlone(
  context: MediaContext,
  input: RenderInput,
  { clip, range, size }: { readonly clip: Clip; readonly range: FrameRange; readonly size: Size },
): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  fillWith(layout, { ...size, out: frame, over: groundOf(input) });
  const source = sourceOf(input.project, clip.sourceId);
  if (!source) {
    for (let n = range.from; n < range.to; n++) yield frame;
    return;
  }
  const box = boxAt(shapeOf(input, source), input.timeline, clip, size);
  for await (const picture of clipAsLaid(context, input, { clip, source, range, box })) {
    placePicture(layout, { picture, box, frame: size, out: frame });
    yield frame;
  }
}

/** What a clip shows, alpha and all, as it is stored. */
function clipStraight(context: MediaContext, input: RenderInput, wanted: WantedClip): AsyncGenerator<Uint8Array> {
  return clipFrames(context, input, { ...wanted, straight: true });
}

/** What a clip without alpha shows, as layers are laid: at the form's own depth and chroma, and all there where frames have alpha. */
async function* clipAsLaid(context: MediaContext, input: RenderInput, wanted: WantedClip): AsyncGenerator<Uint8Array> {
  const { look = PLAIN } = input;
  const layout = layoutOf({ look });
  if (!layout.alpha) {
    yield* clipFrames(context, input, wanted);
    return;
  }
  const plain: Look = { ...look, pixelFormat: look.opaque ?? opaqueFormat(look.pixelFormat) };
  const { box } = wanted;
  const out = new Uint8Array(pictureBytes(layout, box.width, box.height));
  for await (const picture of clipFrames(context, { ...input, look: plain }, wanted)) {
    deepen(layoutOf({ look: plain }), box, picture, out);
    yield out;
  }
}

/** What a clip shows at the timeline's frames, at the size of its box; each is good until the next. */
function clipFrames(
  context: MediaContext,
  input: RenderInput,
  {
    clip,
    source,
    range: { from, to },
    box,
    straight = false,
  }: WantedClip & {
    /** Alpha is kept beside colour as that is stored; else colour is multiplied. */ readonly straight?: boolean;
  },
): AsyncGenerator<Uint8Array> {
  const mapping = mappingOf(clip, source, input.timeline, timingFrom(input.files));
  const layout = layoutOf(input);
  const moving = clip.fit === 'motion';
  const colour = input.look?.colour;
  const kind: PictureKind = {
    ...kindOf(input.files[source.mediaId]?.probe),
    ...(layout.alpha ? { alpha: straight ? 'straight' : 'multiplied' } : {}),
    ...(colour ? { light: { ...colour, transfer: colour.transfer ?? null } } : {}),
  };
  const { width, height } = box;
  const mixed = mixing(layout, box, clip.mix, kind);
  const between = moving ? new Moving(layout, box, kind) : mixed;
  const pool = moving && input.threads ? new MotionPool(input.threads, { layout, width, height, kind }) : null;
  const first = positionAt(mapping, from - clip.start).picture;
  const open = (at: number) => picturesOf(context, input, { source, first: at, box, straight });
  const frames: FrameSource = {
    walk: new PictureWalk(open, first, between, pictureBytes(layout, width, height)),
    between,
    ...(moving ? { mixing: mixed } : {}),
    pool,
    ahead: pool ? framesAhead(pool, clip.shutter) : 0,
    layout,
    size: box,
    kind,
    frames: to - from,
    content: (n) => frameContent(mapping, from - clip.start + n),
  };
  return framesOf(frames, noFrames());
}

/** A source's pictures from one on, at the size of their box. */
async function* picturesOf(
  context: MediaContext,
  input: RenderInput,
  {
    source,
    first,
    box,
    straight,
  }: Pick<WantedClip, 'source'> & {
    readonly first: number;
    readonly box: Size;
    readonly straight: boolean;
  },
): AsyncGenerator<Uint8Array> {
  const { media, signal } = context;
  const inner = nestedOf(input.project, source.id);
  if (inner) {
    const range = { from: first, to: Math.max(first + 1, timelineLength(inner)) };
    // A placed timeline is black where nothing is in it.
    const { over: _, ...look } = input.look ?? PLAIN;
    // The walk holds on to a picture while it asks for the next: each is handed over as a copy.
    for await (const picture of layered(context, { ...input, look, timeline: inner, range }, box)) yield picture.slice();
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
    multiplied: !straight,
    ...scaled,
    ...(colour ? { colour } : {}),
    signal,
  });
}
