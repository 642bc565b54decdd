import { type Mapping, positionAt, type StepMap, stepMap } from '@thawline/core/cadence';
import type { Clip, Project, Source, Timeline } from './document.js';
import { clipEnd, mappingOf, type TimingOf, timelineLength } from './mapping.js';

/** A run of frames that show one clip, or nothing. */
export interface Segment {
  /** First frame. */
  readonly from: number;
  /** Last frame, not included. */
  readonly to: number;
  /** Null: black. */
  readonly clip: Clip | null;
}

/** Which clip each frame of the timeline shows: the one on the topmost picture lane. Covers 0 to the timeline's length. */
export function segmentsOf(timeline: Timeline): Segment[] {
  const heights = new Map(timeline.lanes.filter((l) => l.kind === 'picture').map((l, i) => [l.id, i]));
  const clips = timeline.clips.filter((c) => heights.has(c.laneId));
  const end = timelineLength(timeline);
  const cuts = [...new Set([0, end, ...clips.flatMap((c) => [c.start, clipEnd(c)])])].sort((a, b) => a - b);
  const segments: Segment[] = [];
  for (let i = 0; i + 1 < cuts.length; i++) {
    const from = cuts[i] as number;
    const to = cuts[i + 1] as number;
    let top: Clip | null = null;
    for (const clip of clips) {
      const covers = clip.start <= from && clipEnd(clip) >= to;
      if (covers && (!top || (heights.get(clip.laneId) ?? 0) > (heights.get(top.laneId) ?? 0))) top = clip;
    }
    const last = segments[segments.length - 1];
    if (last && last.clip === top) segments[segments.length - 1] = { ...last, to };
    else segments.push({ from, to, clip: top });
  }
  return segments;
}

/** What a frame of the timeline shows. */
export interface Shown {
  readonly clip: Clip;
  readonly source: Source;
  readonly picture: number;
  /** Share of the next picture, 0 to 255 of 256. */
  readonly nextShare: number;
}

/** The picture of one frame; null for black. */
export function shownAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): Shown | null {
  const segment = segmentsOf(timeline).find((s) => frame >= s.from && frame < s.to);
  const clip = segment?.clip;
  const source = clip && project.sources.find((s) => s.id === clip.sourceId);
  if (!clip || !source) return null;
  return { clip, source, ...positionAt(mappingOf(clip, source, timeline, known), frame - clip.start) };
}

/** A clip with what the step map says of it. */
export interface ClipCadence {
  readonly clip: Clip;
  readonly source: Source;
  readonly mapping: Mapping;
  readonly map: StepMap;
}

/** The step map of a clip on its timeline; null when its source is gone. */
export function cadenceOf(project: Project, timeline: Timeline, clip: Clip, known: TimingOf): ClipCadence | null {
  const source = project.sources.find((s) => s.id === clip.sourceId);
  if (!source) return null;
  const mapping = mappingOf(clip, source, timeline, known);
  return { clip, source, mapping, map: stepMap(mapping) };
}

/** What the whole timeline will show, frame by frame. */
export interface FrameTally {
  readonly frames: number;
  /** Show a picture of their own, untouched. */
  readonly real: number;
  /** Repeat the frame before. */
  readonly held: number;
  readonly blended: number;
  readonly black: number;
  /** Frames that are hitches, ascending. */
  readonly hitches: readonly number[];
}

export function tallyFrames(project: Project, timeline: Timeline, known: TimingOf): FrameTally {
  let real = 0;
  let held = 0;
  let blended = 0;
  let black = 0;
  const hitches: number[] = [];
  for (const { from, to, clip } of segmentsOf(timeline)) {
    const cadence = clip && cadenceOf(project, timeline, clip, known);
    if (!cadence) {
      black += to - from;
      continue;
    }
    const { map, source } = cadence;
    const offset = cadence.clip.start;
    for (let frame = from; frame < to; frame++) {
      const n = frame - offset;
      if ((map.nextShare[n] as number) > 0) blended++;
      else if (frame > from && source.kind !== 'still' && map.steps[n] === 0 && map.nextShare[n - 1] === 0) held++;
      else real++;
    }
    for (const n of map.hitches) if (n + offset > from && n + offset < to) hitches.push(n + offset);
  }
  return { frames: timelineLength(timeline), real, held, blended, black, hitches };
}
