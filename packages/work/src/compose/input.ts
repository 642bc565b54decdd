import type { FieldOrder, LowPass } from '@thawline/core/fields';
import {
  blackSamples,
  type Encoding,
  type Laid,
  type Light,
  layPicture,
  type Paint,
  type PictureKind,
  type PixelLayout,
  paintSamples,
  pixelLayout,
  type Size,
} from '@thawline/core/picture';
import type { Timing } from '@thawline/core/time';
import { MediaError, type Probe } from '@thawline/media';
import {
  type Clip,
  type Project,
  pictureSize,
  type Source,
  type Timeline,
  type TimingOf,
  timelineLength,
} from '@thawline/project';
import type { MotionThreads } from '../motion/pool.js';

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
  readonly colour: (Encoding & Partial<Light> & { readonly siting?: string }) | null;
  /** What is seen where nothing is; black when left out. With a pixel format that has alpha nothing is there. */
  readonly over?: Paint;
  /** With alpha: the format in which pictures are composed that have none. */
  readonly opaque?: string;
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
  /** Channels that sound is mixed to; 2 when left out. */
  readonly channels?: number;
  /** The mix may rise above full scale: it is only measured. */
  readonly unlimited?: boolean;
  /** Threads for pictures made by motion; else they are made here. */
  readonly threads?: MotionThreads;
  /** Frames are composed of two fields, each at its own moment; left out: whole pictures. */
  readonly fields?: FieldsWanted;
}

/** Which field of a frame comes first, and what is taken out of detail that changes from line to line. */
export interface FieldsWanted {
  readonly order: FieldOrder;
  readonly lowPass: LowPass;
}

export interface FrameRange {
  readonly from: number;
  readonly to: number;
}

/** 8-bit 4:2:0, each source in its own colours. */
export const PLAIN: Look = { pixelFormat: 'yuv420p', colour: null };

/** The pixel layout of an input's frames. */
export function layoutOf({ look = PLAIN }: Pick<RenderInput, 'look'>): PixelLayout {
  const layout = pixelLayout(look.pixelFormat);
  if (!layout) throw new MediaError('encode-failed', `no such pixel format: ${look.pixelFormat}`);
  return layout;
}

/** Samples of what is seen where nothing is, one for each plane but alpha's. */
export function groundOf({ look = PLAIN }: Pick<RenderInput, 'look'>): number[] {
  const layout = layoutOf({ look });
  const { colour, over } = look;
  if (layout.alpha || !over) return blackSamples(layout, colour?.range === 'full');
  return paintSamples(layout, over, colour ?? { matrix: 'bt709', range: 'limited' });
}

/** What a file's pictures are, beside their samples. */
export function kindOf(probe: Probe | undefined): PictureKind {
  return { alpha: probe?.alpha ?? 'straight', sphere: probe?.projection === 'equirectangular' };
}

export function rangeOf(input: Pick<RenderInput, 'timeline' | 'range'>): FrameRange {
  return input.range ?? { from: 0, to: timelineLength(input.timeline) };
}

export function timingFrom(files: RenderInput['files']): TimingOf {
  return (mediaId): Timing | undefined => files[mediaId]?.probe.timing;
}

export function shapeOf(input: RenderInput, source: Source): Size {
  const probe = input.files[source.mediaId]?.probe;
  return probe ? { width: probe.width * probe.sampleAspect, height: probe.height } : pictureSize(source);
}

/** Where a clip's picture lies in frames of `size`, which may be smaller than the timeline's own. */
export function laidAt(shape: Size, timeline: Timeline, { framing, pose }: Clip, size: Size): Laid {
  return layPicture(shape, timeline, { framing, pose, size });
}

/** An edit's timeline with the files it needs. The timeline must be one of the edit's. */
export function inputOf(
  project: Project,
  timelineId: string,
  files: RenderInput['files'],
  range: FrameRange | null,
): RenderInput {
  const timeline = project.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new RangeError(`no timeline ${timelineId} in this edit`);
  return { project, timeline, files, range };
}
