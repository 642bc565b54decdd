import { join } from 'node:path';
import {
  clipEnd,
  FORMS,
  fileNameOf,
  filesOf,
  isSeries,
  type Project,
  type RenderForm,
  renderedAt,
  type SettledForm,
  settledForm,
  type Timeline,
  timelineLength,
  unheldBy,
  withNested,
} from '@thawline/project';
import type { FrameRange, RenderInput } from '../../compose/input.js';
import type { ParamsOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import type { SpecificationContext } from '../starting.js';
import type { render } from './definition.js';

/** What a render's row keeps. */
export type RenderParams = ParamsOf<typeof render>;

/** What of a timeline is to be rendered. */
interface WantedPart {
  readonly timelineId: string;
  readonly range: boolean;
  readonly clipId: string | null;
}

/** An edit that can be rendered, by itself; refused with a sentence where it cannot be. */
export function wantedEdit(
  document: Project,
  { timelineId, range: inToOut, clipId }: WantedPart,
): { readonly timeline: Timeline; readonly project: Project; readonly range: FrameRange | null } {
  const timeline = document.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new JobRefused('unknown-timeline', { id: timelineId });
  const clip = clipId === null ? null : timeline.clips.find((c) => c.id === clipId);
  if (clip === undefined) throw new JobRefused('unknown-clip', { id: clipId ?? '' });
  const range = clip ? { from: clip.start, to: clipEnd(clip) } : inToOut ? timeline.range : null;
  return { timeline, range, project: picturesOfTimeline(document, timeline, range) };
}

/** The pictures of a timeline alone, as they stand: its sources and the timelines within it. Refused where they cannot be made. */
export function picturesOfTimeline(document: Project, timeline: Timeline, range: FrameRange | null = null): Project {
  if (timelineLength(timeline) === 0) throw new JobRefused('timeline-empty', { timeline: timeline.name });
  const lost = filesOf(document, timeline, range).find((s) => s.lost);
  if (lost) {
    const what = `${lost.name} was not found yet. Say which source it is, or take it off ${timeline.name}.`;
    throw new JobRefused('file-missing', {}, what);
  }
  return { name: document.name, sources: filesOf(document, timeline), timelines: withNested(document, timeline), alignments: [] };
}

/** A form with everything said, for a timeline; refused where it cannot hold its frames, before anything is coded. */
export function formFor(asked: RenderForm, timeline: Timeline): SettledForm {
  const form = settledForm(asked);
  const unheld = unheldBy(form, timeline);
  if (unheld) throw new JobRefused('frames-unheld', {}, unheld);
  return form;
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

/** A typed name as a file's; null where none was typed. Refused where no file can have it. */
export function typedFileName(typed: string | null): string | null {
  if (typed === null || typed.trim() === '') return null;
  const name = fileNameOf(typed);
  if (name === null)
    throw new JobRefused(
      'bad-name',
      { name: typed },
      `"${typed}" cannot be a file's name: leave out / \\ : * ? " < > | and a dot in front.`,
    );
  return name;
}

/** A render's edit at the render's own rate. */
export function editAtRenderRate({ project, timelineId, form, range = null }: RenderParams) {
  // The row's edit was a document of this program when it was written.
  const edit = project as Project;
  const timeline = edit.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new JobRefused('unknown-timeline', { id: timelineId });
  return renderedAt(edit, timeline, form, range);
}

/** The same with the files it needs. */
export async function renderInput(params: RenderParams, context: Pick<SpecificationContext, 'files'>): Promise<RenderInput> {
  const { project, timeline, range } = editAtRenderRate(params);
  const files = await context.files(params.project as Project, params.timelineId, params.range ?? null);
  return { project, timeline, range, files };
}

/** Where a render's main file is wanted. */
export function wantedPath({ folder, file, form }: RenderParams, firstFolder: string): string {
  return join(folder ?? firstFolder, `${file}${endingOf(form)}`);
}

/** The ending a form's main file has; none for a folder of pictures. */
export function endingOf(form: RenderForm): string {
  const { kind } = settledForm(form);
  return isSeries(kind) ? '' : `.${FORMS[kind].ending}`;
}
