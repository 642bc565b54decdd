import { join } from 'node:path';
import {
  clipEnd,
  FORMS,
  filesOf,
  formSchema,
  type Project,
  type RenderForm,
  renderedAt,
  settledForm,
  type Timeline,
  timelineLength,
  withNested,
} from '@thawline/project';
import type { FrameRange, Receipt, RenderResult } from '@thawline/work';
import type { StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';

/** What a render needs to start again after a restart: the edit as it was when it was asked for. */
export interface RenderParams {
  readonly project: Project;
  readonly timelineId: string;
  /** Name that its file is wanted under. */
  readonly file: string;
  /** Absolute. */
  readonly folder: string;
  readonly form: RenderForm;
  /** Of the timeline's own frames; the whole timeline when left out. */
  readonly range?: FrameRange | null;
  readonly anew?: readonly number[];
}

/** What a measurement of a render's file needs: the render, and where its files are. */
export interface ReceiptParams {
  readonly renderId: string;
  readonly paths: readonly string[];
}

export interface DeliverParams {
  readonly desk: string;
  readonly path: string;
}

/** What of a timeline is to be rendered. */
export interface Part {
  readonly range: boolean;
  readonly clipId: string | null;
}

/** A render as it can be carried out, without its file's name; refused with a sentence where it cannot be. */
export function renderOf(
  document: Project,
  timelineId: string,
  part: Part,
): Pick<RenderParams, 'project' | 'timelineId' | 'range'> & { readonly timeline: Timeline } {
  const timeline = document.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
  const clip = part.clipId === null ? null : timeline.clips.find((c) => c.id === part.clipId);
  if (clip === undefined) throw new Failure('unknown-clip', { id: part.clipId ?? '' }, 'There is no such clip.');
  const range = clip ? { from: clip.start, to: clipEnd(clip) } : part.range ? timeline.range : null;
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

/** What a render wrote and what was measured of it. Renders of earlier versions knew less. */
export function renderResultOf(job: Pick<StoredJob, 'result'>, { folder, file }: RenderParams): RenderResult {
  const found = JSON.parse(job.result ?? '') as Partial<RenderResult> & Partial<OldReceipt>;
  if (found.receipt && found.paths) return { receipt: found.receipt, paths: found.paths, reused: found.reused ?? 0 };
  const { lines = [], wrong = [], bytes = 0, differs = 0 } = found;
  const receipt: Receipt = {
    ...{ lines, bytes, differs, alike: 0, fingerprint: '', stamp: '', files: [file], loudness: null, peak: null },
    wrong: wrong.map(({ frame, shows }) => ({ frame, frames: 1, shows, asked: null, shown: null })),
    frames: Number(lines.find((l) => l.what === 'frames')?.measured ?? 0),
  };
  return { receipt, paths: [join(folder, file)], reused: 0 };
}

interface OldReceipt {
  readonly lines: Receipt['lines'];
  readonly wrong: readonly { readonly frame: number; readonly shows: number }[];
  readonly bytes: number;
  readonly differs: number;
}

/** A render's parameters. Those of earlier versions went to one folder in one form. */
export function renderParamsOf(job: Pick<StoredJob, 'params'>, firstFolder: string): RenderParams {
  const found = JSON.parse(job.params) as Omit<RenderParams, 'folder' | 'form'> & Partial<Pick<RenderParams, 'folder' | 'form'>>;
  return { ...found, folder: found.folder ?? firstFolder, form: formSchema.parse(found.form ?? {}) };
}

/** What a render is of, at its own rate. */
export function writtenOf({ project, timelineId, form, range = null }: RenderParams) {
  const timeline = project.timelines.find((t) => t.id === timelineId);
  if (!timeline) throw new Failure('unknown-timeline', { id: timelineId });
  return renderedAt(project, timeline, form, range);
}

/** The ending a form's main file has; none for a folder of pictures. */
export function endingOf(form: RenderForm): string {
  const { kind } = settledForm(form);
  return kind === 'png' ? '' : `.${FORMS[kind].ending}`;
}
