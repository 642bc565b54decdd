import { type Mapping, positionAt, type StepMap, stepMap } from '@thawline/core/cadence';
import { isDraft } from 'immer';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { asSeen, clipAsSeen } from '../timing/fieldRate.js';
import { clipEnd, mappingOf, type TimingOf, timelineLength } from '../timing/mapping.js';
import { type Dissolving, dissolvesOf } from './dissolves.js';
import { sourceOf } from './sources.js';

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
