import { frameContent, positionAt, SHARES } from '@thawline/core/cadence';
import { weaveFields } from '@thawline/core/fields';
import {
  deepen,
  deepFormat,
  fillWith,
  isSeenThrough,
  type Laid,
  layOver,
  opaqueFormat,
  overlay,
  type PictureKind,
  type PixelLayout,
  pictureBytes,
  pixelFacts,
  placePicture,
  planarName,
  type Size,
  turnFreely,
  turnQuarters,
  withAlpha,
  workingFormat,
} from '@thawline/core/picture';
import { MediaError } from '@thawline/media';
import {
  atFieldRate,
  beneath,
  type Clip,
  clipEnd,
  type Dissolving,
  dissolveShare,
  isSphere,
  mappingOf,
  nestedOf,
  type Source,
  seesThrough,
  segmentsOf,
  sourceOf,
  timelineLength,
} from '@thawline/project';
import type { MediaContext } from '../jobs/context.js';
import { MotionPool } from '../motion/pool.js';
import { composedClear, type WantedClip } from './clear.js';
import { type FrameSource, framesAhead, framesOf, noFrames } from './clipFrames.js';
import {
  type FieldsWanted,
  type FrameRange,
  groundOf,
  kindOf,
  type Look,
  laidAt,
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

interface SeenClip {
  readonly clip: Clip;
  readonly range: FrameRange;
  /** Of the frames. */
  readonly size: Size;
}

/** Whole frames of one clip, over what lies beneath it where that is seen; each is good until the next. */
async function* clipSeen(context: MediaContext, input: RenderInput, { clip, range, size }: SeenClip): AsyncGenerator<Uint8Array> {
  const layout = layoutOf(input);
  const frame = new Uint8Array(pictureBytes(layout, size.width, size.height));
  const source = sourceOf(input.project, clip.sourceId);
  const laid = source && laidAt(shapeOf(input, source), input.timeline, clip, size);
  const isThrough = !laid?.covers || clip.opacity !== undefined || (source !== undefined && isSeen(input, source));
  const lower = beneath(input.timeline, clip);
  const lies = isThrough && segmentsOf(lower).some((s) => s.clip && s.from < range.to && s.to > range.from);
  const ground = { ...size, over: groundOf(input) };
  const under = lies ? layered(context, { ...input, timeline: lower, range }, size) : null;
  const pictures = source && laid ? laidPictures(context, input, { clip, source, range, size, laid }) : null;
  if (!under) fillWith(layout, { ...ground, out: frame });
  try {
    for (let n = range.from; n < range.to; n++) {
      const [below, above] = await Promise.all([under?.next(), pictures?.next()]);
      if (below?.done || above?.done) return;
      if (below) frame.set(below.value);
      // What hides all hides what was there before, too.
      else if (isThrough) fillWith(layout, { ...ground, out: frame });
      above?.value(frame);
      yield frame;
    }
  } finally {
    await Promise.all([under?.return(undefined), pictures?.return(undefined)]);
  }
}

/** Lays a picture onto a frame of the layout that is composed in. */
type Laying = (frame: Uint8Array) => void;

/** A clip's pictures, each ready to be laid; good until the next. */
async function* laidPictures(
  context: MediaContext,
  input: RenderInput,
  { clip, source, range, size, laid }: SeenClip & { readonly source: Source; readonly laid: Laid },
): AsyncGenerator<Laying> {
  const layout = layoutOf(input);
  const { opaque: _, ...own } = input.look ?? PLAIN;
  const isClear = comesClear(input, clip, source);
  const { opacity = 1 } = clip;
  const { raster, bounds: box } = laid;
  if (box.width === 0 || box.height === 0) {
    for (let n = range.from; n < range.to; n++) yield () => undefined;
    return;
  }
  const wanted = { clip, source, range, box: raster };
  if (!isClear && standsOnSamples(layout, laid, size)) {
    const moved = isMoved(laid) ? new Uint8Array(pictureBytes(layout, box.width, box.height)) : null;
    for await (const picture of clipAsLaid(context, input, wanted)) {
      if (moved) turnQuarters(layout, laid, picture, moved);
      const seen = { picture: moved ?? picture, box, frame: size };
      yield (out) => (opacity === 1 ? placePicture(layout, { ...seen, out }) : layOver(layout, { ...seen, opacity, out }));
    }
    return;
  }
  const overName = overFormat(own.pixelFormat, isClear && !layout.alpha ? clearFormat(input, source) : own.pixelFormat);
  const look: Look = { ...own, pixelFormat: isClear ? overName : opaqueFormat(overName) };
  const [from, over] = [layoutOf({ look }), layoutOf({ look: { ...look, pixelFormat: overName } })];
  const full = look.colour?.range === 'full';
  const clear = isClear ? null : new Uint8Array(pictureBytes(over, raster.width, raster.height));
  const moved = isMoved(laid) ? new Uint8Array(pictureBytes(over, box.width, box.height)) : null;
  for await (const picture of clipFrames(context, { ...input, look }, wanted)) {
    if (clear) withAlpha(from, picture, clear);
    const whole = clear ?? picture;
    if (moved && laid.quarters !== null) turnQuarters(over, laid, whole, moved);
    else if (moved) turnFreely(over, laid, whole, { full, out: moved });
    const { siting } = look.colour ?? {};
    yield (out) => overlay(over, layout, { picture: moved ?? whole, box, frame: size, full, siting, opacity, out });
  }
}

/** Whether what lies beneath is seen through a source's pictures. What the files say now counts, as for all else that is composed. */
export function isSeen({ project, files }: Pick<RenderInput, 'project' | 'files'>, source: Source): boolean {
  return seesThrough(project, source, ({ mediaId }) => {
    const probe = files[mediaId]?.probe;
    return probe !== undefined && isSeenThrough(probe);
  });
}

/** The format whose depth a source's pictures with alpha have: a placed timeline's are composed at 16 bit. */
function clearFormat({ look = PLAIN, files }: Pick<RenderInput, 'look' | 'files'>, { mediaId }: Source): string {
  return files[mediaId]?.probe.pixelFormat ?? deepFormat(look.pixelFormat);
}

/** Whether a clip's pictures are laid with alpha. Over black alone, what a placed timeline leaves free is black either way: its samples pass as they are. */
export function comesClear(input: RenderInput, clip: Clip, source: Source): boolean {
  if (!isSeen(input, source)) return false;
  if (!nestedOf(input.project, source.id) || !isBlack(input)) return true;
  return segmentsOf(beneath(input.timeline, clip)).some((s) => s.clip && s.from < clipEnd(clip) && s.to > clip.start);
}

/** Whether nothing is black, and not another colour or seen through. */
function isBlack(input: RenderInput): boolean {
  const { look = PLAIN } = input;
  return !layoutOf(input).alpha && (look.over?.every((value) => value === 0) ?? true);
}

/** Whether anything is to be done to a picture before it is laid at its place. */
function isMoved({ raster, kept, quarters }: Laid): boolean {
  return quarters !== 0 || kept.width !== raster.width || kept.height !== raster.height;
}

/** Whether all samples of a picture, halved chroma too, come to lie on those of the frame, and none on one that is half of something else. */
function standsOnSamples({ chroma }: PixelLayout, laid: Laid, size: Size): boolean {
  const { quarters, kept, bounds } = laid;
  if (quarters === null) return false;
  const { shiftX, shiftY } = chroma ?? { shiftX: 0, shiftY: 0 };
  // Turned by one or three quarters what is halved across is halved down.
  if (quarters % 2 === 1 && shiftX !== shiftY) return false;
  const stands = (at: number, shift: number): boolean => at % (1 << shift) === 0;
  const ends = (at: number, shift: number, whole: number): boolean => at >= whole || stands(at, shift);
  const { x, y, width, height } = bounds;
  const isPlaced =
    stands(x, shiftX) && stands(y, shiftY) && ends(x + width, shiftX, size.width) && ends(y + height, shiftY, size.height);
  if (!isPlaced || !isMoved(laid)) return isPlaced;
  return [kept.x, kept.width].every((n) => stands(n, shiftX)) && [kept.y, kept.height].every((n) => stands(n, shiftY));
}

/**
 * Pictures that are laid over frames have colour for each pixel, in luma and chroma or in red, green and blue as these, at their own depth: brought to
 * another, all of alpha would be a little less.
 */
function overFormat(frames: string, pictures: string): string {
  const bits = pixelFacts(workingFormat(pictures))?.bits ?? 8;
  const model = pixelFacts(frames)?.model === 'rgb' ? 'rgb' : 'yuv';
  return planarName({ model, bits, chroma: '4:4:4', alpha: true });
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
    /** Alpha is kept beside colour as that is stored; else colour is multiplied. */
    readonly straight?: boolean;
  },
): AsyncGenerator<Uint8Array> {
  const mapping = mappingOf(clip, source, input.timeline, timingFrom(input.files));
  const layout = layoutOf(input);
  const moving = clip.fit === 'motion';
  const colour = input.look?.colour;
  const kind: PictureKind = {
    ...kindOf(input.files[source.mediaId]?.probe),
    sphere: isSphere(source),
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
    // Without alpha it is black where nothing is in it.
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
