import { filesOf, type Project, type Timeline, timelineLength, withNested } from '@thawline/project';
import type { FrameRange } from '@thawline/work';
import { Failure } from '../http/failure.js';

/** What a render needs to start again after a restart: the edit as it was when it was asked for. */
export interface RenderParams {
  readonly project: Project;
  readonly timelineId: string;
  readonly file: string;
  /** In to out; the whole timeline when left out. */
  readonly range?: FrameRange | null;
}

/** A render as it can be carried out, without its file's name; refused with a sentence where it cannot be. */
export function renderOf(
  document: Project,
  timelineId: string,
  inToOut: boolean,
): Omit<RenderParams, 'file'> & { readonly timeline: Timeline } {
  const timeline = document.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
  const range = inToOut ? timeline.range : null;
  const project = picturesOf(document, timeline, range);
  return { timeline, timelineId, range, project };
}

/** The pictures of a timeline alone, as they stand: its sources and the timelines within it. Refused where they cannot be made. */
export function picturesOf(document: Project, timeline: Timeline, range: FrameRange | null = null): Project {
  if (timelineLength(timeline) === 0) throw new Failure('timeline-empty', { timeline: timeline.name });
  const lost = filesOf(document, timeline, range).find((s) => s.lost);
  if (lost) {
    const what = `${lost.name} was not found yet. Say which source it is, or take it off ${timeline.name}.`;
    throw new Failure('file-missing', {}, what);
  }
  return { name: document.name, sources: filesOf(document, timeline), timelines: withNested(document, timeline), alignments: [] };
}

/** A timeline's name as a file name: letters, digits and dashes. */
export function fileStem(name: string): string {
  const stem = name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60);
  return stem || 'timeline';
}
