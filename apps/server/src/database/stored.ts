import type { JobReply } from '@thawline/contract';
import type { Probe } from '@thawline/media';
import type { Project } from '@thawline/project';
import { probeSchema, seriesSchema } from './columns.js';
import type { JobRow, MediaRow, ProjectRow } from './entities.js';

/** Plain values of the database's rows: what the rest of the server gets instead of entities. */

export interface StoredProject {
  readonly id: string;
  readonly version: number;
  readonly document: Project;
}

/** A project in the list of all. One whose document cannot be read is listed as well, with its name from its row. */
export interface ListedProject {
  readonly id: string;
  readonly name: string;
  readonly changedAt: string;
  readonly deletedAt: string | null;
  /** Null where the row is damaged. */
  readonly document: Project | null;
}

/** A project's row holds no readable document. */
export class DamagedProjectError extends Error {
  constructor(
    readonly id: string,
    readonly projectName: string,
  ) {
    super(`the document of project ${id} cannot be read`);
  }
}

export interface StoredRevision {
  readonly number: number;
  readonly label: string;
  readonly command: string;
  readonly forward: string;
  readonly backward: string;
  readonly undone: boolean;
  readonly batch: string | null;
  readonly client: string | null;
  readonly at: string;
}

export interface StoredMedia {
  readonly id: string;
  readonly name: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly probe: Probe;
  /** Absolute, when it is used in place: of a series, its folder. Null for a copy in the data folder. */
  readonly path: string | null;
  readonly modifiedMs: number | null;
  readonly fingerprint: string | null;
  readonly series: { readonly ending: string; readonly names: readonly string[] } | null;
}

interface JobBase {
  readonly id: string;
  readonly order: number;
  readonly projectId: string;
  readonly kind: JobReply['kind'];
  readonly label: string;
  readonly subject: string;
  readonly params: string;
  readonly done: number;
  readonly total: number | null;
  readonly phase: string;
  readonly createdAt: string;
  readonly startedAt: string | null;
}

/** What goes with a state: a result with the end of one that is done, an error with that of one that failed. */
export type JobOpen = { readonly state: 'queued' | 'running' | 'paused' } & typeof OPEN;
export type JobEnd =
  | { readonly state: 'done'; readonly result: string }
  | { readonly state: 'failed'; readonly errorCode: string; readonly errorMessage: string }
  | { readonly state: 'cancelled' };
type JobEnded = { readonly endedAt: string } & (
  | { readonly state: 'done'; readonly result: string; readonly errorCode: null; readonly errorMessage: null }
  | { readonly state: 'failed'; readonly result: null; readonly errorCode: string; readonly errorMessage: string }
  | { readonly state: 'cancelled'; readonly result: null; readonly errorCode: null; readonly errorMessage: null }
);
const OPEN = { result: null, errorCode: null, errorMessage: null, endedAt: null };

export type StoredJob = JobBase & (JobOpen | JobEnded);
export type DoneJob = Extract<StoredJob, { state: 'done' }>;

/** The columns to write with a state; those of the previous state are cleared. */
export function openAs(state: JobOpen['state']): JobOpen {
  return { state, ...OPEN };
}

export function endedAs(end: JobEnd, endedAt: string): JobEnded {
  return { ...OPEN, ...end, endedAt };
}

/** What can be said of a job without what it was asked with and what it found: enough to list it. */
export type ListedJob = Omit<JobBase, 'params'> & {
  readonly state: JobReply['state'];
  readonly error: { readonly code: string; readonly message: string } | null;
  readonly endedAt: string | null;
};

/** The row's document; null if it cannot be read. */
export function documentOf(row: Pick<ProjectRow, 'document'>): Project | null {
  try {
    const found = JSON.parse(row.document) as Partial<Project> | null;
    const whole = Array.isArray(found?.sources) && Array.isArray(found.timelines) && Array.isArray(found.alignments);
    return whole ? (found as Project) : null;
  } catch {
    return null;
  }
}

/** @throws DamagedProjectError */
export function asProject(row: ProjectRow): StoredProject {
  const document = documentOf(row);
  if (!document) throw new DamagedProjectError(row.id, row.name);
  return { id: row.id, version: row.version, document };
}

/** Null where what is stored of the file cannot be read: it counts as missing then, and can be added again. */
export function asMedia(row: MediaRow): StoredMedia | null {
  try {
    const series = row.series === null ? null : seriesSchema.parse(JSON.parse(row.series));
    return { ...row, probe: probeSchema.parse(JSON.parse(row.probe)), series };
  } catch {
    return null;
  }
}

/** A row without its result, which cannot be read then: a person can start the job again. */
export const LOST = {
  state: 'failed',
  errorCode: 'crashed',
  errorMessage: 'What it found is not stored. Start it again.',
} as const;

export function asJob({ project: _project, state, result, errorCode, errorMessage, endedAt, ...rest }: JobRow): StoredJob {
  const base: JobBase = { ...rest, kind: rest.kind as JobBase['kind'] };
  const at = endedAt ?? rest.createdAt;
  switch (state as StoredJob['state']) {
    case 'done':
      return { ...base, ...endedAs(result === null ? LOST : { state: 'done', result }, at) };
    case 'failed':
      return {
        ...base,
        ...endedAs({ state: 'failed', errorCode: errorCode ?? 'crashed', errorMessage: errorMessage ?? '' }, at),
      };
    case 'cancelled':
      return { ...base, ...endedAs({ state: 'cancelled' }, at) };
    default:
      return { ...base, ...openAs(state as JobOpen['state']) };
  }
}

/** As a list shows it, whose rows come without parameters and results. */
export function asListedJob(row: Omit<JobRow, 'params' | 'result' | 'project'>): ListedJob {
  const { errorCode, errorMessage, ...rest } = row;
  const error = errorCode === null ? null : { code: errorCode, message: errorMessage ?? errorCode };
  return { ...rest, kind: rest.kind as ListedJob['kind'], state: rest.state as ListedJob['state'], error };
}

/** The same of a whole one. */
export function listed({ params: _params, result: _result, errorCode, errorMessage, ...rest }: StoredJob): ListedJob {
  return { ...rest, error: errorCode === null ? null : { code: errorCode, message: errorMessage } };
}
