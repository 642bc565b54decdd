import { type Exposed, type Fit, type FrameContent, frameContent, SHARES } from '@thawline/core/cadence';
import type { Mix } from '@thawline/core/picture';
import {
  type ClipCadence,
  cadenceOf,
  type Framed,
  framedBy,
  isSphere,
  type Layer,
  layersOf,
  type Project,
  pictureSize,
  picturesOfLayers,
  type Source,
  seesThrough,
  segmentAt,
  type Timeline,
  type TimingOf,
} from '@thawline/project';
import type { Composed, DrawnLayer } from './draw.js';
import type { Between, MadeFrameKey } from './made.js';

/** What a frame of a clip shows, and what that is made of; plain computing. Frames count from the clip's first. */

/** What stands between two pictures, as a clip's method. */
export const METHODS = ['nearest', 'blend', 'motion'] as const;
export type Method = (typeof METHODS)[number];
/** What can be looked at beside each other; pictures: none is made, each comes once. */
export const WAYS = [...METHODS, 'pictures'] as const;
export type Way = (typeof WAYS)[number];

/** What a frame shows one way: a picture, and how much of the next. */
export interface Look {
  readonly picture: number;
  /** In SHARES of the next picture. */
  readonly share: number;
  /** Number of the next picture. */
  readonly next: number;
  readonly way: Way;
  /** How a blend is mixed. */
  readonly mix: Mix;
  /** What an open shutter sees, shares in SHARES; null where it is closed, or sees one picture alone. */
  readonly exposed: readonly Exposed[] | null;
}

/** Frame n as another way would show it, ignoring choices for single frames. */
export function lookAt(cadence: ClipCadence, n: number, way: Way): Look {
  const { mapping, clip } = cadence;
  const fit: Fit = mapping.fit === 'pictures' || mapping.fit === 'freeze' ? mapping.fit : way;
  return lookFrom(frameContent({ ...mapping, fit, whole: undefined, mixed: undefined }, n), way, clip.mix);
}

/** Frame n as the edit has it. */
export function lookOf({ mapping, clip }: ClipCadence, n: number): Look {
  const content = frameContent(mapping, n);
  const blended = content.kind === 'blended' || clip.fit === 'blend';
  return lookFrom(content, blended ? 'blend' : clip.fit === 'motion' ? 'motion' : 'nearest', clip.mix);
}

function lookFrom({ parts }: FrameContent, way: Way, mix: Mix): Look {
  const { picture, nextShare, next = picture + 1 } = parts[0] as Exposed;
  return { picture, share: nextShare, next, way, mix, exposed: parts.length > 1 ? parts : null };
}

/** Why a picture cannot be drawn here: a file of it is not found, or motion makes it within a placed timeline, so that the render shows it first. */
export type Unseen = 'lost' | 'later';
/** A source's pictures by number. */
export type Pictures = (picture: number) => Composed | Unseen;

/** A source's pictures as they can be drawn here. */
export function clipPictures(project: Project, source: Source, known: TimingOf): Pictures {
  return (picture) => {
    const layers = layersOf(project, source, picture, known);
    const all = picturesOfLayers(layers);
    if (all.some((l) => l.source?.lost)) return 'lost';
    if (all.some((l) => l.toBeMade)) return 'later';
    const parts = layers.map(drawnOf);
    const key = source.kind === 'timeline' ? JSON.stringify(parts) : `${source.mediaId}/${picture}`;
    const around = isSphere(source) ? { sphere: true as const } : {};
    return { key: around.sphere ? `${key} around` : key, ...pictureSize(source), ...around, parts };
  };
}

/** A layer as it is drawn here. */
export function drawnOf(layer: Layer): DrawnLayer {
  if ('layers' in layer) return { opacity: layer.opacity, layers: layer.layers.map(drawnOf) };
  const { source, picture, opacity, matrix, seen } = layer;
  return { mediaId: source?.mediaId ?? null, picture, opacity, matrix, seen };
}

/** How a look is made of pictures: a moment between two, or the average over an open shutter. */
function seenBy({ picture, next, share, way, mix, exposed }: Look): readonly Exposed[] | Unseen {
  if (!exposed) return way === 'motion' && share > 0 ? [{ picture, next, nextShare: share, weight: 1 }] : [];
  if (way !== 'blend') return exposed;
  // A frame that is blended in place of made: its moments are mixed, each of two pictures.
  if (mix === 'light' && exposed.some((one) => one.nextShare > 0)) return 'later';
  return exposed.flatMap(({ weight, nextShare, ...one }) => [
    { picture: one.picture, nextShare: 0, weight: weight * (1 - nextShare / SHARES) },
    ...(nextShare > 0 ? [{ picture: one.next ?? one.picture + 1, nextShare: 0, weight: (weight * nextShare) / SHARES }] : []),
  ]);
}

/** What has to be made for a look; null where it needs nothing, else why it cannot be made here. */
export function momentOrWhy(pictures: Pictures, look: Look): MadeFrameKey | Unseen | null {
  const exposed = seenBy(look);
  if (typeof exposed === 'string') return exposed;
  if (exposed.length === 0) return null;
  const seen: Between[] = [];
  for (const { picture, nextShare, next = picture + 1, weight } of exposed) {
    const from = pictures(picture);
    const to = nextShare > 0 ? pictures(next) : from;
    if (typeof from === 'string') return from;
    if (typeof to === 'string') return to;
    seen.push({ from, to, share: nextShare, weight });
  }
  return { seen };
}

/** The same; null also where it cannot be made here. */
export function momentOf(pictures: Pictures, look: Look): MadeFrameKey | null {
  const moment = momentOrWhy(pictures, look);
  return typeof moment === 'string' ? null : moment;
}

/** A made picture and its place in a timeline's frame. */
export interface MadeFrame {
  readonly moment: MadeFrameKey;
  readonly framed: Framed;
}

/** What is made for a frame of a timeline, by motion or an open shutter; null where nothing is, or what is made is seen only when it is rendered. */
export function madeAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): MadeFrame | null {
  const { clip = null, dissolve } = segmentAt(timeline, frame) ?? {};
  // In a dissolve it is one of two: what is made shows as the mix that stands for it.
  if (dissolve) return null;
  const cadence = clip && (clip.fit === 'motion' || clip.shutter > 0) ? cadenceOf(project, timeline, clip, known) : null;
  if (!clip || !cadence) return null;
  const { source } = cadence;
  // What is made here has no alpha, so it would hide what lies beneath: the mix that stands for it does not.
  if (clip.opacity !== undefined || seesThrough(project, source)) return null;
  const moment = momentOf(clipPictures(project, source, known), lookOf(cadence, frame - clip.start));
  return moment && { moment, framed: framedBy(source, timeline, clip) };
}
