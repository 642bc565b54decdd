import { earliestHead } from '@thawline/core/cadence';
import type { Clip, FileSource, Project, Source, Timeline } from '../document/document.js';
import { sourceOf } from '../resolve/sources.js';
import { clipEnd, mappingOf, type TimingOf } from '../timing/mapping.js';
import { furthestLength } from '../timing/soundLength.js';
import type { Facts, RefusalCode } from './refusals.js';

/** A command is turned down; nothing of it was done. */
export class Refused extends Error {
  constructor(
    readonly code: RefusalCode,
    readonly facts: Facts = {},
  ) {
    super(code);
  }
}

/** A source of the project, or a timeline standing as one. */
export function findSource(draft: Project, id: string): Source {
  const source = sourceOf(draft, id);
  if (!source) throw new Refused('unknown-source', { id });
  return source;
}

export function findTimeline(draft: Project, id: string): Timeline {
  const timeline = draft.timelines.find((t) => t.id === id);
  if (!timeline) throw new Refused('unknown-timeline', { id });
  return timeline;
}

export function findClip(timeline: Timeline, id: string): Clip {
  const clip = timeline.clips.find((c) => c.id === id);
  if (!clip) throw new Refused('unknown-clip', { id });
  return clip;
}

/** The named clips and all that are linked with them, each once. Throws when one is unknown. */
export function withLinked(timeline: Timeline, clipIds: readonly string[]): Clip[] {
  const ids = new Set(clipIds);
  const named = timeline.clips.filter((c) => ids.has(c.id));
  if (named.length !== ids.size) for (const id of ids) findClip(timeline, id);
  const links = new Set(named.map((c) => c.link).filter((link) => link !== null));
  return timeline.clips.filter((c) => ids.has(c.id) || (c.link !== null && links.has(c.link)));
}

/**
 * A clip may not begin before its source's first picture nor go on after its last one has ended; on a sound lane, after its sound has.
 * @param slack frames it may hold its last picture for all the same
 */
export function checkMaterial(
  draft: Project,
  timeline: Timeline,
  { clip, known, slack = 0 }: { readonly clip: Clip; readonly known: TimingOf; readonly slack?: number },
): void {
  const source = findSource(draft, clip.sourceId);
  const mapping = mappingOf(clip, source, timeline, known);
  const furthest = furthestLength(source, clip, timeline, known);
  if (clip.inPicture >= source.pictures || clip.headTrim < earliestHead(mapping) || clip.length > furthest + slack) {
    throw new Refused('past-source', { clip: source.name });
  }
}

/** Clips of one lane never overlap. */
export function checkRoom(timeline: Timeline, touched: readonly Clip[]): void {
  const lanes = new Set(touched.map((c) => c.laneId));
  for (const laneId of lanes) {
    const onLane = timeline.clips
      .filter((c) => c.laneId === laneId)
      .map((c) => ({ start: c.start, end: clipEnd(c) }))
      .sort((a, b) => a.start - b.start);
    for (let i = 1; i < onLane.length; i++) {
      const before = onLane[i - 1]?.end ?? 0;
      const after = onLane[i]?.start ?? 0;
      if (before > after) {
        const lane = timeline.lanes.find((l) => l.id === laneId)?.name ?? laneId;
        throw new Refused('overlap', { lane, frames: before - after });
      }
    }
  }
}

/** A source of the project itself: a timeline standing as one is not read, claimed or removed. */
export function findFileSource(draft: Project, id: string): FileSource {
  const source = draft.sources.find((s) => s.id === id);
  if (!source) throw new Refused('unknown-source', { id });
  return source;
}
