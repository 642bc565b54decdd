import { frameContent, type Mapping, picturesIn, positionAt, SHARES, type StepMap, stepMap } from '@thawline/core/cadence';
import { type Framed, frameBox, type Shape, type Size } from '@thawline/core/picture';
import { isDraft } from 'immer';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { asSeen, clipAsSeen } from '../timing/fieldRate.js';
import { clipEnd, mappingOf, type TimingOf, timelineLength } from '../timing/mapping.js';
import { type Dissolving, dissolveShare, dissolvesOf } from './dissolves.js';
import { beneath, isClear, nestedOf, sourceOf } from './sources.js';

/** A run of frames that show one clip, or nothing. */
export interface Segment {
  /** First frame. */
  readonly from: number;
  /** Last frame, not included. */
  readonly to: number;
  /** Null: black. In a dissolve: the clip whose place it is. */
  readonly clip: Clip | null;
  /** Left out: nothing gives way to anything here. */
  readonly dissolve?: Dissolving;
}

const planned = new WeakMap<Timeline, readonly Segment[]>();

/**
 * Which clip each frame of the timeline shows: the one on the topmost picture lane. Covers 0 to the timeline's length. A
 * timeline is planned once: documents do not change, they are replaced.
 */
export function segmentsOf(timeline: Timeline): readonly Segment[] {
  if (isDraft(timeline)) return segment(timeline);
  const known = planned.get(timeline);
  if (known) return known;
  const segments = segment(timeline);
  planned.set(timeline, segments);
  return segments;
}

function segment(timeline: Timeline): Segment[] {
  const lanes = timeline.lanes
    .filter((l) => l.kind === 'picture' && !l.off)
    .map((lane) => timeline.clips.filter((c) => c.laneId === lane.id && !c.off).sort((a, b) => a.start - b.start));
  const dissolves = lanes.map(dissolvesOf);
  const ends = [...lanes.flat().flatMap((c) => [c.start, clipEnd(c)]), ...dissolves.flat().flatMap((d) => [d.from, d.to])];
  const cuts = [...new Set([0, timelineLength(timeline), ...ends])].sort((a, b) => a - b);
  const at = lanes.map(() => 0);
  const segments: Segment[] = [];
  for (let i = 0; i + 1 < cuts.length; i++) {
    const from = cuts[i] as number;
    const to = cuts[i + 1] as number;
    let top: Clip | null = null;
    let dissolve: Dissolving | undefined;
    for (let lane = lanes.length - 1; lane >= 0 && !top; lane--) {
      const clips = lanes[lane] as Clip[];
      while (at[lane] !== undefined && clips[at[lane] as number] && clipEnd(clips[at[lane] as number] as Clip) <= from)
        at[lane] = (at[lane] as number) + 1;
      const clip = clips[at[lane] as number];
      if (!clip || clip.start > from) continue;
      top = clip;
      dissolve = dissolves[lane]?.find((d) => d.from <= from && d.to >= to);
    }
    const last = segments[segments.length - 1];
    if (last && last.clip === top && last.dissolve === dissolve) segments[segments.length - 1] = { ...last, to };
    else segments.push({ from, to, clip: top, ...(dissolve ? { dissolve } : {}) });
  }
  return segments;
}

/** The segment with a frame; undefined past the end. */
export function segmentAt(timeline: Timeline, frame: number): Segment | undefined {
  const segments = segmentsOf(timeline);
  let low = 0;
  let high = segments.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((segments[middle] as Segment).from <= frame) low = middle;
    else high = middle - 1;
  }
  const found = segments[low];
  return found && frame >= found.from && frame < found.to ? found : undefined;
}

/** What a frame of the timeline shows: a clip and the picture of its source (of a placed timeline: its frame). */
export interface ShownPicture {
  readonly clip: Clip;
  readonly source: Source;
  readonly picture: number;
  /** Share of the next picture, in SHARES. */
  readonly nextShare: number;
  /** See Position. */
  readonly next?: number | undefined;
}

/** The picture of one frame; null for black. */
export function shownAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): ShownPicture | null {
  const clip = segmentAt(timeline, frame)?.clip;
  const source = clip && sourceOf(project, clip.sourceId);
  if (!clip || !source) return null;
  return { clip, source, ...positionAt(mappingOf(clip, source, timeline, known), frame - clip.start) };
}

/** One picture of what a frame shows. Boxes are shares of the frame: x and width of its width, y and height of its height. */
export interface Layer {
  /** Null: black, where a placed timeline shows nothing. */
  readonly source: Source | null;
  readonly picture: number;
  /** Opacity over the layers below, above 0 to 1. */
  readonly opacity: number;
  readonly box: Shape;
  /** What of the box is seen. */
  readonly seen: Shape;
  /** With what lies beneath it, it is a mix that stands for a picture which motion makes. */
  readonly toBeMade: boolean;
}

const WHOLE: Shape = { x: 0, y: 0, width: 1, height: 1 };

/** The pictures of files that a frame is put together from, lowest first; placed timelines are followed to their own. */
export function layersAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): Layer[] {
  const layers: Layer[] = [];
  stack({ project, known, layers }, { timeline, frame, within: ALONE, depth: 0 });
  return layers;
}

/** The same of one picture of a source: itself, or what that frame of a placed timeline is put together from. */
export function layersOf(project: Project, source: Source, picture: number, known: TimingOf): Layer[] {
  const inner = nestedOf(project, source.id);
  return inner ? layersAt(project, inner, picture, known) : [{ source, picture, ...ALONE }];
}

/** Pictures that one clip gives to the layers of a frame, at most. */
const LAYERS_MOST = 12;

type Within = Omit<Layer, 'source' | 'picture'>;
const ALONE: Within = { box: WHOLE, seen: WHOLE, opacity: 1, toBeMade: false };

interface Stacking {
  readonly project: Project;
  readonly known: TimingOf;
  /** Where layers are put. */
  readonly layers: Layer[];
}

function stack(
  stacking: Stacking,
  {
    timeline,
    frame,
    within,
    depth,
  }: { readonly timeline: Timeline; readonly frame: number; readonly within: Within; readonly depth: number },
): void {
  const { project, layers } = stacking;
  const segment = segmentAt(timeline, frame);
  if (!segment?.clip || depth > 12) {
    if (depth > 0) layers.push({ source: null, picture: 0, ...within });
    return;
  }
  const { clip, dissolve } = segment;
  const one = (of: Clip, part: Within): void => {
    const source = sourceOf(project, of.sourceId);
    // Seen through it is what the lanes beneath show.
    if (isClear(of, source)) stack(stacking, { timeline: beneath(timeline, of), frame, within: part, depth });
    const { opacity = 1 } = of;
    if (opacity > 0)
      stackClip(stacking, { timeline, clip: of, frame, within: { ...part, opacity: part.opacity * opacity }, depth });
  };
  if (!dissolve) {
    one(clip, within);
    return;
  }
  const share = dissolveShare(dissolve, frame) / SHARES;
  const opacity = within.opacity * share;
  // What comes in takes its share of all beneath it, of the one that goes out as of what that lies on.
  one(dissolve.out, { ...within, opacity: (within.opacity * (1 - share)) / (1 - opacity) });
  // Where its picture leaves the frame black, what it comes in over gives way to black.
  const source = sourceOf(project, dissolve.into.sourceId);
  const framed = source && boxOf(source, timeline, dissolve.into);
  for (const seen of around(framed?.seen ?? { x: 0, y: 0, width: 0, height: 0 }))
    layers.push({ source: null, picture: 0, ...within, opacity, box: inside(within.box, seen), seen: inside(within.box, seen) });
  one(dissolve.into, { ...within, opacity });
}

/** The parts of a frame outside a box in it. */
function around({ x, y, width, height }: Shape): Shape[] {
  return [
    { x: 0, y: 0, width: 1, height: y },
    { x: 0, y: y + height, width: 1, height: 1 - y - height },
    { x: 0, y, width: x, height },
    { x: x + width, y, width: 1 - x - width, height },
  ].filter((s) => s.width > 1e-9 && s.height > 1e-9);
}

function stackClip(
  stacking: Stacking,
  {
    timeline,
    clip,
    frame,
    within,
    depth,
  }: {
    readonly timeline: Timeline;
    readonly clip: Clip;
    readonly frame: number;
    readonly within: Within;
    readonly depth: number;
  },
): void {
  const { project, known, layers } = stacking;
  const source = sourceOf(project, clip.sourceId);
  if (!source) return;
  const content = frameContent(mappingOf(clip, source, timeline, known), frame - clip.start);
  const inner = nestedOf(project, clip.sourceId);
  const framed = boxOf(source, timeline, clip);
  const box = inside(within.box, framed.box);
  const seen = meet(within.seen, inside(within.box, framed.seen));
  const pictures = [...picturesIn(content)];
  // Of very many only some are drawn, evenly chosen: this is for looking at, and each has to be loaded.
  const drawn = pictures.filter((_, i) => i % Math.ceil(pictures.length / LAYERS_MOST) === 0);
  let covered = 0;
  for (const [number, weight] of drawn) {
    covered += weight;
    // Over what lies beneath it, a picture covers its own part of all that is there then.
    const opacity = (within.opacity * weight) / (1 - within.opacity + within.opacity * covered);
    const next = { box, seen, opacity, toBeMade: within.toBeMade || (content.kind === 'made' && covered !== weight) };
    const at = Math.min(source.pictures - 1, number);
    if (inner) stack(stacking, { timeline: inner, frame: at, within: next, depth: depth + 1 });
    else layers.push({ source, picture: at, ...next });
  }
}

/** How large a source's pictures are; sound alone has none. */
export function pictureSize({ width = 0, height = 0 }: Pick<Source, 'width' | 'height'>): Size {
  return { width, height };
}

/** Width over height of a source's pictures; 1 for sound alone. */
export function aspectOf(source: Pick<Source, 'width' | 'height'>): number {
  const { width, height } = pictureSize(source);
  return height > 0 ? width / height : 1;
}

/** Where a clip's picture lies in the frame, in shares of it, and what of the picture is cut off. */
export function boxOf(
  source: Pick<Source, 'width' | 'height'>,
  timeline: Pick<Timeline, 'width' | 'height'>,
  clip: Pick<Clip, 'framing'>,
): Framed {
  return frameBox(pictureSize(source), timeline, clip.framing);
}

function inside(outer: Shape, inner: Shape): Shape {
  return {
    x: outer.x + inner.x * outer.width,
    y: outer.y + inner.y * outer.height,
    width: inner.width * outer.width,
    height: inner.height * outer.height,
  };
}

function meet(a: Shape, b: Shape): Shape {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  const right = Math.min(a.x + a.width, b.x + b.width);
  const bottom = Math.min(a.y + a.height, b.y + b.height);
  return { x, y, width: Math.max(0, right - x), height: Math.max(0, bottom - y) };
}

/** A clip with what the step map says of it. */
export interface ClipCadence {
  readonly clip: Clip;
  readonly source: Source;
  readonly mapping: Mapping;
  readonly map: StepMap;
}

const mapped = new WeakMap<Clip, ClipCadence & { readonly rate: Timeline['rate']; readonly known: TimingOf }>();

/** The step map of a clip on its timeline; null when its source is gone. Kept as long as clip, source, rate and timings stay. */
export function cadenceOf(project: Project, timeline: Timeline, clip: Clip, known: TimingOf): ClipCadence | null {
  const source = sourceOf(project, clip.sourceId);
  if (!source) return null;
  const kept = mapped.get(clip);
  if (kept && kept.source === source && kept.rate === timeline.rate && kept.known === known) return kept;
  const mapping = mappingOf(clip, source, timeline, known);
  const cadence = { clip, source, mapping, map: stepMap(mapping), rate: timeline.rate, known };
  mapped.set(clip, cadence);
  return cadence;
}

/** The same by the moments that are seen: where the timeline's frames are of two fields, each field is one. */
export function cadenceAsSeen(project: Project, timeline: Timeline, clip: Clip, known: TimingOf): ClipCadence | null {
  const seen = clipAsSeen(timeline, clip);
  return seen ? cadenceOf(project, asSeen(timeline), seen, known) : null;
}
