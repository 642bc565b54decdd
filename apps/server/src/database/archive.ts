import { DOCUMENT_FORMAT, migrateDocument, migratePatches, type Project } from '@thawline/project';
import { type EntityManager, In } from 'typeorm';
import { seriesSchema } from './columns.js';
import { JobRow, MediaRow, ProjectRow, RevisionRow } from './entities.js';
import { documentOf } from './stored.js';

/** A revision as an archive holds it; differences as JSON values. */
export interface ArchivedRevision {
  readonly label: string;
  readonly command: unknown;
  readonly forward: readonly unknown[];
  readonly backward: readonly unknown[];
  readonly undone: boolean;
  readonly batch: string | null;
  readonly at: string;
}

export interface ArchivedMedia {
  readonly id: string;
  readonly name: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly probe: unknown;
  readonly path: string | null;
  readonly modifiedMs: number | null;
  readonly fingerprint: string | null;
  readonly series: { readonly ending: string; readonly names: readonly string[] } | null;
}

/** A finished job: a check, a comparison, an alignment, a render with its receipt. */
export interface ArchivedJob {
  readonly id: string;
  readonly kind: string;
  readonly label: string;
  readonly subject: string;
  readonly params: unknown;
  readonly result: unknown;
  readonly done: number;
  readonly total: number | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

/** All that belongs to one project but the files themselves: what a copy, a backup's project and a project file hold. */
export interface ProjectArchive {
  readonly format: number;
  readonly document: Project;
  readonly version: number;
  readonly createdAt: string;
  readonly changedAt: string;
  /** Oldest first, without gaps; those undone come last. */
  readonly revisions: readonly ArchivedRevision[];
  readonly media: readonly ArchivedMedia[];
  readonly jobs: readonly ArchivedJob[];
}

/** Jobs that say something of a project. Proxies and waveforms are made anew; trials are worth nothing later. */
export const ARCHIVED_KINDS = ['check', 'compare', 'align', 'heldout', 'pan', 'render', 'receipt'] as const;

/** Media ids as written in documents, differences and jobs. */
const MEDIA_ID = /"mediaId":"([A-Za-z0-9_-]{1,40})"/g;

/** Media that a project's document or history speaks of. */
export function mediaNamedIn(texts: readonly string[]): Set<string> {
  const ids = new Set<string>();
  for (const text of texts) for (const [, id] of text.matchAll(MEDIA_ID)) if (id) ids.add(id);
  return ids;
}

/** Reads a whole project; null if it does not exist or its document cannot be read. */
export async function readArchive(manager: EntityManager, id: string): Promise<ProjectArchive | null> {
  const row = await manager.getRepository(ProjectRow).findOneBy({ id });
  const document = row && documentOf(row);
  if (!row || !document) return null;
  const revisions = await manager.getRepository(RevisionRow).find({ where: { projectId: id }, order: { number: 'ASC' } });
  const jobs = await manager.getRepository(JobRow).find({
    where: { projectId: id, state: 'done', kind: In([...ARCHIVED_KINDS]) },
    order: { order: 'ASC' },
  });
  const named = mediaNamedIn([row.document, ...revisions.flatMap((r) => [r.forward, r.backward]), ...jobs.map((j) => j.params)]);
  const media: MediaRow[] = [];
  const ids = [...named];
  for (let at = 0; at < ids.length; at += 500)
    media.push(...(await manager.getRepository(MediaRow).find({ where: { id: In(ids.slice(at, at + 500)) } })));
  return {
    format: row.format,
    document,
    version: row.version,
    createdAt: row.createdAt,
    changedAt: row.changedAt,
    revisions: historyOf(revisions),
    media: media.map(({ createdAt: _createdAt, probe, series, ...rest }) => ({
      ...rest,
      probe: JSON.parse(probe) as unknown,
      series: series === null ? null : seriesSchema.parse(JSON.parse(series)),
    })),
    jobs: jobs.map(({ id: jobId, kind, label, subject, params, result, done, total, createdAt, startedAt, endedAt }) => ({
      id: jobId,
      kind,
      label,
      subject,
      done,
      total,
      createdAt,
      startedAt,
      endedAt,
      params: JSON.parse(params) as unknown,
      result: JSON.parse(result ?? 'null') as unknown,
    })),
  };
}

/** The history of a project; empty where any of it cannot be read, since each step stands on the others. */
function historyOf(rows: readonly RevisionRow[]): ArchivedRevision[] {
  try {
    return rows.map(({ label, command, forward, backward, undone, batch, at }) => ({
      label,
      undone,
      batch,
      at,
      command: JSON.parse(command) as unknown,
      forward: JSON.parse(forward) as unknown[],
      backward: JSON.parse(backward) as unknown[],
    }));
  } catch {
    return [];
  }
}

export interface WriteOptions {
  /** The new project's id, and the name that it gets. */
  readonly id: string;
  readonly name: string;
  readonly at: string;
  readonly newId: () => string;
}

/**
 * Writes an archive as a new project, within the caller's transaction. Jobs get ids of their own, wherever they name each other; media that
 * are there already are shared.
 */
export async function writeArchive(manager: EntityManager, archive: ProjectArchive, options: WriteOptions): Promise<void> {
  const { id, name, at, newId } = options;
  const { format, version, createdAt } = archive;
  const document = { ...(migrateDocument(archive.document, format) as Project), name };
  const row = { id, name, version, document: JSON.stringify(document), format: DOCUMENT_FORMAT, createdAt, changedAt: at };
  await manager.getRepository(ProjectRow).insert(row);
  for (const [i, revision] of archive.revisions.entries()) {
    const { label, command, forward, backward, undone, batch, at: when } = revision;
    await manager.getRepository(RevisionRow).insert({
      projectId: id,
      number: i + 1,
      label,
      undone,
      batch,
      client: null,
      at: when,
      command: JSON.stringify(command),
      forward: JSON.stringify(migratePatches(forward as never, format)),
      backward: JSON.stringify(migratePatches(backward as never, format)),
    });
  }
  for (const media of archive.media) {
    if (await manager.getRepository(MediaRow).existsBy({ id: media.id })) continue;
    const series = media.series && JSON.stringify(media.series);
    await manager.getRepository(MediaRow).insert({ ...media, probe: JSON.stringify(media.probe), series, createdAt: at });
  }
  const jobs = manager.getRepository(JobRow);
  let order = (await jobs.maximum('order')) ?? 0;
  const ids = new Map(archive.jobs.map((job) => [job.id, newId()]));
  const renamed = (text: string): string =>
    ids.size === 0 ? text : text.replace(new RegExp([...ids.keys()].join('|'), 'g'), (found) => ids.get(found) ?? found);
  for (const job of archive.jobs) {
    const { kind, label, subject, params, result, done, total, startedAt, endedAt } = job;
    order++;
    await jobs.insert({
      ...{
        id: ids.get(job.id) ?? newId(),
        order,
        projectId: id,
        kind,
        state: 'done',
        label,
        subject: renamed(subject),
        done,
        total,
      },
      phase: 'done',
      errorCode: null,
      errorMessage: null,
      createdAt: job.createdAt,
      startedAt,
      endedAt,
      params: renamed(JSON.stringify(params)),
      result: renamed(JSON.stringify(result)),
    });
  }
}
