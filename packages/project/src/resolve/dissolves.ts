import { earliestHead, furthestRun, type Mapping, SHARES } from '@thawline/core/cadence';
import type { Clip, Project, Timeline } from '../document/document.js';
import { findSource } from '../refusals/guards.js';
import { clipEnd, mappingOf, type TimingOf } from '../timing/mapping.js';

/** Two clips of a lane of which one gives way to the other, frame by frame. */
export interface Dissolving {
  readonly out: Clip;
  readonly into: Clip;
  /** Frames of the timeline, `to` not included. */
  readonly from: number;
  readonly to: number;
}

/**
 * The dissolves of a lane's clips, by frame. None overlaps another: one begins where the one before it ends at the earliest, and both clips
 * are there all through it.
 * @param clips of one lane, by start
 */
export function dissolvesOf(clips: readonly Clip[]): Dissolving[] {
  const found: Dissolving[] = [];
  for (let i = 1; i < clips.length; i++) {
    const [out, into] = [clips[i - 1] as Clip, clips[i] as Clip];
    if (!into.dissolve || clipEnd(out) !== into.start) continue;
    const from = Math.max(into.start - into.dissolve.before, out.start, found.at(-1)?.to ?? 0);
    const to = Math.min(into.start + into.dissolve.after, clipEnd(into));
    if (to > from) found.push({ out, into, from, to });
  }
  return found;
}

/** How much of a frame is the clip that comes in, in SHARES: even steps, and no frame is one of both alone. */
export function dissolveShare({ from, to }: Pick<Dissolving, 'from' | 'to'>, frame: number): number {
  return Math.round(((2 * (frame - from) + 1) * SHARES) / (2 * (to - from)));
}

/** The clip that ends where another one of its lane begins. */
export function clipBefore(timeline: Timeline, clip: Clip): Clip | undefined {
  return timeline.clips.find((c) => c.laneId === clip.laneId && clipEnd(c) === clip.start);
}

/** Frames of a dissolve for which a source has no pictures: of `into` before its first one, of `out` after its last one, which stands there. */
export function beyondPictures(
  project: Project,
  timeline: Timeline,
  { out, into, from, to }: Dissolving,
  known: TimingOf,
): { readonly out: number; readonly into: number } {
  const mapping = (clip: Clip): Mapping => mappingOf(clip, findSource(project, clip.sourceId), timeline, known);
  const early = earliestHead(mapping(into)) - (into.headTrim - Math.max(0, into.start - from));
  return {
    out: Math.min(to - into.start, Math.max(0, to - out.start - Math.max(out.length, furthestRun(mapping(out))))),
    into: Math.min(into.start - from, Math.max(0, early)),
  };
}
