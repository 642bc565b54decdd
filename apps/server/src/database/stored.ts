import type { JobReply } from '@thawline/contract';
import type { Probe } from '@thawline/media';
import type { Project } from '@thawline/project';
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

export interface StoredJob {
  readonly id: string;
  readonly order: number;
  readonly projectId: string;
  readonly kind: JobReply['kind'];
  readonly state: JobReply['state'];
  readonly label: string;
  readonly subject: string;
  readonly params: string;
  readonly done: number;
  readonly total: number | null;
  readonly phase: string;
  readonly result: string | null;
  readonly errorCode: string | null;
  readonly errorMessage: string | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

/** A job without what it was asked with and what it found: enough to list it. */
export type ListedJob = Omit<StoredJob, 'params' | 'result'>;

/** The row's document; null where it is none. */
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

export function asMedia(row: MediaRow): StoredMedia {
  return {
    ...row,
    probe: JSON.parse(row.probe) as Probe,
    series: row.series === null ? null : (JSON.parse(row.series) as StoredMedia['series']),
  };
}

export function asJob(row: JobRow): StoredJob {
  return { ...row, kind: row.kind as StoredJob['kind'], state: row.state as StoredJob['state'] };
}
