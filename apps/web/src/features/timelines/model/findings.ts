import { asSeen, momentsAFrame, type Project, type Timeline, type TimingOf, tallyFrames } from '@thawline/project';

/** Frames that are hitches, ascending: what the edit's own rates cost, before anything is played. */
export function findings(project: Project, timeline: Timeline, known: TimingOf): readonly number[] {
  const { hitches } = tallyFrames(project, asSeen(timeline), known);
  const moments = momentsAFrame(timeline);
  return moments === 1 ? hitches : [...new Set(hitches.map((h) => Math.floor(h / moments)))];
}

/** The next one after (or before) a frame; null when there is none. */
export function nextFinding(found: readonly number[], frame: number, way: 1 | -1): number | null {
  if (way === 1) return found.find((f) => f > frame) ?? null;
  return found.findLast((f) => f < frame) ?? null;
}
