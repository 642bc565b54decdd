import { frameContent, picturesIn, SHARES } from '@thawline/core/cadence';
import { after, meet, pointBy } from '@thawline/core/picture';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { mappingOf, type TimingOf } from '../timing/mapping.js';
import { isClear } from './clear.js';
import { dissolveShare } from './dissolves.js';
import { FRAME_CORNERS, type Framed, framedBy } from './laid.js';
import { segmentAt } from './plan.js';
import { beneath, nestedOf, sourceOf } from './sources.js';

/** One picture of what a frame shows. */
export interface PictureLayer extends Framed {
  /** Null: what stands behind all, coming in with a clip that leaves something of it free. */
  readonly source: Source | null;
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

const WHOLE: Framed = { matrix: { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 }, seen: FRAME_CORNERS };

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

function ground({ within: { matrix, seen } }: Stacked): PictureLayer {
  return { source: null, picture: 0, matrix, seen, opacity: 1, toBeMade: false };
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
  if (!segment?.clip || depth > DEPTH_MOST) return [];
  const { clip, dissolve } = segment;
  if (!dissolve) return [...clipLayers(stacking, stacked, clip)];
  const { project } = stacking;
  const isOver = isClear(project, timeline, dissolve.into, sourceOf(project, dissolve.into.sourceId));
  const into = [...(isOver ? [ground(stacked)] : []), ...clipLayers(stacking, stacked, dissolve.into)];
  const share = dissolveShare(dissolve, frame) / SHARES;
  return [...clipLayers(stacking, stacked, dissolve.out), ...faded(into, share)];
}

/** A clip over what lies beneath it, where that is seen. */
function clipLayers(stacking: Stacking, stacked: Stacked, clip: Clip): readonly Layer[] {
  const { project, known } = stacking;
  const { timeline, frame, within, depth } = stacked;
  const source = sourceOf(project, clip.sourceId);
  if (!source) return [];
  const beneathIt = isClear(project, timeline, clip, source) ? lowerLayers(stacking, stacked, clip) : [];
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

/** A place in a frame that lies somewhere itself. */
function framedIn({ matrix, seen }: Framed, within: Framed): Framed {
  const outer = seen.map((corner) => pointBy(within.matrix, corner));
  return { matrix: after(matrix, within.matrix), seen: meet(outer, within.seen) };
}
