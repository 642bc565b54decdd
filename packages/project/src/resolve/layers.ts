import { frameContent, picturesIn, SHARES } from '@thawline/core/cadence';
import {
  type Affine,
  after,
  cornersOf,
  type Laid,
  layPicture,
  meet,
  type Point,
  pointBy,
  type Size,
} from '@thawline/core/picture';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { mappingOf, type TimingOf } from '../timing/mapping.js';
import { dissolveShare } from './dissolves.js';
import { segmentAt } from './plan.js';
import { beneath, nestedOf, seesThrough, sourceOf } from './sources.js';

/** One picture of what a frame shows. */
export interface PictureLayer extends Framed {
  /** Null: black, where a placed timeline shows nothing. */
  readonly source: Source | null;
  /** Instead of a source: what stands behind all, coming in with a clip that leaves something of it free. */
  readonly ground?: true;
  readonly picture: number;
  /** Opacity over the layers below, above 0 to 1. */
  readonly opacity: number;
  /** With what lies beneath it, it is a mix that stands for a picture which motion makes. */
  readonly toBeMade: boolean;
}

/** Layers that are put together first, and then seen as one. */
export interface LayerGroup {
  readonly opacity: number;
  /** Lowest first. */
  readonly layers: readonly Layer[];
}

export type Layer = PictureLayer | LayerGroup;

/** Where a picture lies in a frame, in shares of the frame's width and height. */
export interface Framed {
  /** From the picture, whose sides are 1. */
  readonly matrix: Affine;
  /** Corners of what of the frame shows it: convex, none where nothing does. */
  readonly seen: readonly Point[];
}

const UNIT = cornersOf({ x: 0, y: 0, width: 1, height: 1 });
const WHOLE: Framed = { matrix: { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 }, seen: UNIT };

/** The pictures of files that a frame is put together from, lowest first; placed timelines are followed to their own. */
export function layersAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): Layer[] {
  return frameLayers({ project, known }, { timeline, frame, within: { ...WHOLE, toBeMade: false }, depth: 0 });
}

/** The same of one picture of a source: itself, or what that frame of a placed timeline is put together from. */
export function layersOf(project: Project, source: Source, picture: number, known: TimingOf): Layer[] {
  const inner = nestedOf(project, source.id);
  if (inner) return layersAt(project, inner, picture, known);
  return [{ source, picture, ...WHOLE, opacity: 1, toBeMade: false }];
}

/** All pictures of layers, those of groups included. */
export function picturesOfLayers(layers: readonly Layer[]): PictureLayer[] {
  return layers.flatMap((layer) => ('layers' in layer ? picturesOfLayers(layer.layers) : [layer]));
}

/** Pictures that one clip gives to the layers of a frame, at most. */
const LAYERS_MOST = 12;
/** Timelines within timelines that are followed. */
const DEPTH_MOST = 12;

interface Stacking {
  readonly project: Project;
  readonly known: TimingOf;
}

/** A frame of a timeline, and where it is seen. */
interface Stacked {
  readonly timeline: Timeline;
  readonly frame: number;
  readonly within: Framed & Pick<PictureLayer, 'toBeMade'>;
  readonly depth: number;
}

function black({ within: { matrix, seen }, depth }: Stacked): PictureLayer {
  return { source: null, picture: 0, matrix, seen, opacity: 1, toBeMade: false, ...(depth === 0 ? { ground: true } : {}) };
}

/** Layers seen as one, so much of them. */
function faded(layers: readonly Layer[], opacity: number): readonly Layer[] {
  if (opacity === 1) return layers;
  const [only, ...others] = layers;
  if (!only || opacity === 0) return [];
  return others.length === 0 ? [{ ...only, opacity: only.opacity * opacity }] : [{ opacity, layers }];
}

function frameLayers(stacking: Stacking, stacked: Stacked): Layer[] {
  const { timeline, frame, depth } = stacked;
  const segment = segmentAt(timeline, frame);
  if (!segment?.clip || depth > DEPTH_MOST) return depth > 0 ? [black(stacked)] : [];
  const { clip, dissolve } = segment;
  // A placed timeline is black where its clips leave something free.
  const ground = depth > 0 && !nothingFree(stacking, timeline, dissolve?.out ?? clip) ? [black(stacked)] : [];
  if (!dissolve) return [...ground, ...clipLayers(stacking, stacked, clip)];
  const into = [
    ...(nothingFree(stacking, timeline, dissolve.into) ? [] : [black(stacked)]),
    ...clipLayers(stacking, stacked, dissolve.into),
  ];
  const share = dissolveShare(dissolve, frame) / SHARES;
  return [...ground, ...clipLayers(stacking, stacked, dissolve.out), ...faded(into, share)];
}

/** Whether a clip hides all that lies beneath it. */
function nothingFree({ project }: Stacking, timeline: Timeline, clip: Clip): boolean {
  return !isClear(timeline, clip, sourceOf(project, clip.sourceId));
}

/** A clip over what lies beneath it, where that is seen. */
function clipLayers(stacking: Stacking, stacked: Stacked, clip: Clip): readonly Layer[] {
  const { project, known } = stacking;
  const { timeline, frame, within, depth } = stacked;
  const source = sourceOf(project, clip.sourceId);
  if (!source) return [];
  const beneathIt = isClear(timeline, clip, source) ? lowerLayers(stacking, stacked, clip) : [];
  const content = frameContent(mappingOf(clip, source, timeline, known), frame - clip.start);
  const inner = nestedOf(project, clip.sourceId);
  const framed = framedIn(framedBy(source, timeline, clip), within);
  const pictures = [...picturesIn(content)];
  // Of very many only some are drawn, evenly chosen: this is for looking at, and each has to be loaded.
  const drawn = pictures.filter((_, i) => i % Math.ceil(pictures.length / LAYERS_MOST) === 0);
  let covered = 0;
  const own = drawn.flatMap(([number, weight]): readonly Layer[] => {
    covered += weight;
    const toBeMade = within.toBeMade || (content.kind === 'made' && covered !== weight);
    const at = Math.min(source.pictures - 1, number);
    // A picture covers its own part of all that is there by then.
    const opacity = weight / covered;
    if (!inner) return [{ source, picture: at, ...framed, opacity, toBeMade }];
    return faded(
      frameLayers(stacking, { timeline: inner, frame: at, within: { ...framed, toBeMade }, depth: depth + 1 }),
      opacity,
    );
  });
  return [...beneathIt, ...faded(own, clip.opacity ?? 1)];
}

/** What lies beneath a clip; what nothing is stays open here. */
function lowerLayers(stacking: Stacking, { timeline, ...stacked }: Stacked, clip: Clip): readonly Layer[] {
  const lower = beneath(timeline, clip);
  return segmentAt(lower, stacked.frame)?.clip ? frameLayers(stacking, { ...stacked, timeline: lower }) : [];
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

/** Where a clip's picture lies, in pixels of its timeline's frame. */
function laidBy(
  source: Pick<Source, 'width' | 'height'>,
  timeline: Pick<Timeline, 'width' | 'height'>,
  { framing, pose }: Pick<Clip, 'framing' | 'pose'>,
): Laid {
  return layPicture(pictureSize(source), timeline, { framing, pose });
}

/** Where a clip's picture lies in the frame, and what of it is seen. */
export function framedBy(
  source: Pick<Source, 'width' | 'height'>,
  timeline: Pick<Timeline, 'width' | 'height'>,
  clip: Pick<Clip, 'framing' | 'pose'>,
): Framed {
  const { raster, kept, matrix } = laidBy(source, timeline, clip);
  const ofFrame: Affine = { a: 1 / timeline.width, b: 0, c: 0, d: 1 / timeline.height, e: 0, f: 0 };
  const toShares = after(matrix, ofFrame);
  const ofPicture: Affine = { a: raster.width, b: 0, c: 0, d: raster.height, e: 0, f: 0 };
  const seen = meet(
    cornersOf(kept).map((corner) => pointBy(toShares, corner)),
    UNIT,
  );
  return { matrix: after(ofPicture, toShares), seen };
}

/** Whether what lies beneath a clip is seen: through it, or beside it. */
export function isClear(
  timeline: Pick<Timeline, 'width' | 'height'>,
  clip: Pick<Clip, 'framing' | 'pose' | 'opacity'>,
  source: Source | undefined,
): boolean {
  if (clip.opacity !== undefined) return true;
  if (!source || source.kind === 'sound') return false;
  return seesThrough(source) || !laidBy(source, timeline, clip).covers;
}

/** A place in a frame that lies somewhere itself. */
function framedIn({ matrix, seen }: Framed, within: Framed): Framed {
  const outer = seen.map((corner) => pointBy(within.matrix, corner));
  return { matrix: after(matrix, within.matrix), seen: meet(outer, within.seen) };
}
