import { Inject, Injectable } from '@nestjs/common';
import { DOCUMENT_FORMAT, type Project } from '@thawline/project';
import { LRUCache } from 'lru-cache';
import { type EntityManager, EntityNotFoundError, In, IsNull, Not } from 'typeorm';
import type { z } from 'zod';
import { mediaNamedIn, type ProjectArchive, readArchive, type WriteOptions, writeArchive } from './archive.js';
import { Database } from './database.js';
import { JobRow, MediaRow, ProjectRow, RequestRow, RevisionRow, SettingRow } from './entities.js';
import {
  asJob,
  asListedJob,
  asMedia,
  asProject,
  type DoneJob,
  documentOf,
  type endedAs,
  type JobOpen,
  type ListedJob,
  type ListedProject,
  LOST,
  type openAs,
  type StoredJob,
  type StoredMedia,
  type StoredProject,
  type StoredRevision,
} from './stored.js';
import { yieldTurn } from './yielding.js';

export type {
  DoneJob,
  JobEnd,
  ListedJob,
  ListedProject,
  StoredJob,
  StoredMedia,
  StoredProject,
  StoredRevision,
} from './stored.js';
export { endedAs, listed, openAs } from './stored.js';

const LISTED = {
  id: true,
  order: true,
  projectId: true,
  kind: true,
  state: true,
  label: true,
  subject: true,
  done: true,
  total: true,
  phase: true,
  errorCode: true,
  errorMessage: true,
  createdAt: true,
  startedAt: true,
  endedAt: true,
} as const;

/** A value kept under a name, and its shape. */
interface Setting<T> {
  readonly name: string;
  readonly schema: z.ZodType<T>;
}

/** Where the database names media. */
const NAMING_MEDIA = [
  ['project', ['document']],
  ['revision', ['forward', 'backward']],
  ['job', ['params']],
] as const;

/** So many projects are worked on at a time before one is read anew. */
const DOCUMENTS_KEPT = 16;

/** Requests of a project whose answers are remembered, the newest. A window sends again what it has no answer to, never more than a few. */
const REQUESTS_KEPT = 1000;

/** The one door to the database: plain values in and out. */
@Injectable()
export class Store {
  /** Documents as they were read or written last, by project: parsing a large one holds up everybody. */
  private readonly documents = new LRUCache<string, StoredProject>({ max: DOCUMENTS_KEPT });

  constructor(@Inject(Database) private readonly database: Database) {}

  /** All projects, those in the bin and damaged ones too, the newest change first. */
  async projects(): Promise<ListedProject[]> {
    const rows = await this.reader.getRepository(ProjectRow).find({ order: { changedAt: 'DESC' } });
    return rows.map((row) => {
      const { id, name, changedAt, deletedAt } = row;
      return { id, name, changedAt, deletedAt, document: documentOf(row) };
    });
  }

  /**
   * A project in use; null where there is none of that id.
   * @throws DamagedProjectError
   */
  async project(id: string): Promise<StoredProject | null> {
    return this.read(this.reader, id);
  }

  /** A project in use, from memory where its version was read or written before: documents are never changed, only replaced. */
  private async read(manager: EntityManager, id: string): Promise<StoredProject | null> {
    const repository = manager.getRepository(ProjectRow);
    const where = { id, deletedAt: IsNull() };
    const now = await repository.findOne({ select: { id: true, version: true }, where });
    const known = now && this.documents.get(id);
    if (known && known.version === now.version) return known;
    const row = now && (await repository.findOneBy(where));
    if (!row) return null;
    const project = asProject(row);
    this.documents.set(id, project);
    return project;
  }

  async createProject(id: string, document: Project, at: string): Promise<void> {
    const row = { id, name: document.name, version: 0, document: JSON.stringify(document), format: DOCUMENT_FORMAT };
    await this.database.write((m) => m.getRepository(ProjectRow).insert({ ...row, createdAt: at, changedAt: at }));
  }

  /** Puts a project into the bin (a time) or takes it out (null); false if there is no such project. */
  async binProject(id: string, deletedAt: string | null): Promise<boolean> {
    const where = { id, deletedAt: deletedAt === null ? Not(IsNull()) : IsNull() };
    const { affected } = await this.database.write((m) => m.getRepository(ProjectRow).update(where, { deletedAt }));
    return affected === 1;
  }

  /** Removes projects in the bin, with their history and jobs. */
  async removeBinned(ids: readonly string[]): Promise<void> {
    await this.database.write((m) => m.getRepository(ProjectRow).delete({ id: In([...ids]), deletedAt: Not(IsNull()) }));
  }

  /**
   * Reads a project and its revisions, lets `decide` say what becomes of them, and writes all of it in one transaction: the document, its
   * revisions, and what the request is answered with. A request whose id was seen before is answered as it was then, and changes nothing.
   * `decide` must not wait for anything but what it is given.
   * @throws DamagedProjectError, StoreError
   */
  changeProject(id: string, { at, requestId }: ChangeRequest, decide: Decide): Promise<StoredChange> {
    let stored: StoredProject | null = null;
    const write = this.database.write(async (manager): Promise<StoredChange> => {
      const requests = manager.getRepository(RequestRow);
      const before = requestId === null ? null : await requests.findOneBy({ projectId: id, id: requestId });
      if (before) return { version: before.version, patches: JSON.parse(before.patches) as unknown[], repeated: true };
      const project = await this.read(manager, id);
      if (!project) throw new EntityNotFoundError(ProjectRow, id);
      const { document, patches } = await decide(project, revisionsOf(manager, id, at));
      await yieldTurn();
      const version = project.version + 1;
      const change = { document: JSON.stringify(document), name: document.name, version, changedAt: at };
      await yieldTurn();
      await manager.getRepository(ProjectRow).update({ id }, change);
      if (requestId !== null) {
        await requests.insert({ projectId: id, id: requestId, version, patches: JSON.stringify(patches) });
        await manager.query('DELETE FROM "request" WHERE "projectId" = ? AND "version" <= ?', [id, version - REQUESTS_KEPT]);
      }
      stored = { id, version, document };
      return { version, patches, repeated: false };
    });
    return write.then(async (change) => {
      // Only what was committed is remembered.
      if (stored) this.documents.set(id, stored);
      await yieldTurn();
      return change;
    });
  }

  /** Everything that belongs to a project; null if it does not exist or cannot be read. */
  archive(id: string): Promise<ProjectArchive | null> {
    return readArchive(this.reader, id);
  }

  /** Writes projects that came from elsewhere, all of them or none. */
  async addArchives(projects: readonly { readonly archive: ProjectArchive; readonly options: WriteOptions }[]): Promise<void> {
    await this.database.write(async (manager) => {
      for (const { archive, options } of projects) await writeArchive(manager, archive, options);
    });
  }

  /** Ids of media that any project speaks of: in its document, its history, or a job that has not been forgotten. */
  async mediaInUse(): Promise<Set<string>> {
    const texts: string[] = [];
    for (const [table, columns] of NAMING_MEDIA)
      for (const column of columns) {
        const rows = (await this.reader.query(
          `SELECT "${column}" AS text FROM "${table}" WHERE "${column}" LIKE '%"mediaId"%'`,
        )) as {
          text: string;
        }[];
        texts.push(...rows.map((row) => row.text));
      }
    return mediaNamedIn(texts);
  }

  async allMedia(): Promise<{ id: string; name: string; bytes: number; path: string | null }[]> {
    return this.reader.getRepository(MediaRow).find({ select: { id: true, name: true, bytes: true, path: true } });
  }

  async revisions(projectId: string, most: number): Promise<StoredRevision[]> {
    return this.reader.getRepository(RevisionRow).find({ where: { projectId }, order: { number: 'DESC' }, take: most });
  }

  /** Label of the newest step to undo (or first to redo) that none of the named windows did; null if there is none. */
  async newestLabel(projectId: string, undone: boolean, notOf: readonly string[]): Promise<string | null> {
    const found = await this.reader.getRepository(RevisionRow).findOne({
      select: { id: true, label: true },
      where: [
        { projectId, undone, client: IsNull() },
        { projectId, undone, client: Not(In([...notOf])) },
      ],
      order: { number: undone ? 'ASC' : 'DESC' },
    });
    return found?.label ?? null;
  }

  async addMedia(media: StoredMedia, at: string): Promise<void> {
    const row = {
      ...media,
      probe: JSON.stringify(media.probe),
      series: media.series && JSON.stringify(media.series),
      createdAt: at,
    };
    await this.database.write((m) => m.getRepository(MediaRow).insert(row));
  }

  async removeMedia(ids: readonly string[]): Promise<void> {
    await this.database.write((m) => m.getRepository(MediaRow).delete({ id: In([...ids]) }));
  }

  /** A file in place was found at another path, or touched without a change. */
  async moveMedia(id: string, where: Pick<StoredMedia, 'path' | 'modifiedMs'>): Promise<void> {
    await this.database.write((m) => m.getRepository(MediaRow).update({ id }, where));
  }

  async media(id: string): Promise<StoredMedia | null> {
    const row = await this.reader.getRepository(MediaRow).findOneBy({ id });
    return row && asMedia(row);
  }

  async mediaOf(ids: readonly string[]): Promise<StoredMedia[]> {
    const rows: MediaRow[] = [];
    for (let at = 0; at < ids.length; at += 500)
      rows.push(...(await this.reader.getRepository(MediaRow).find({ where: { id: In(ids.slice(at, at + 500)) } })));
    return rows.map(asMedia).filter((media) => media !== null);
  }

  async addJob(job: JobAdded): Promise<StoredJob> {
    return this.database.write(async (manager) => {
      const repository = manager.getRepository(JobRow);
      const order = ((await repository.maximum('order')) ?? 0) + 1;
      await repository.insert({ ...job, order });
      return { ...job, order };
    });
  }

  /** Lets waiting jobs take each other's places: those named, in this order, in the places that they have among them. */
  async orderJobs(ids: readonly string[]): Promise<void> {
    await this.database.write(async (manager) => {
      const repository = manager.getRepository(JobRow);
      const rows = await repository.find({ where: { id: In([...ids]) }, order: { order: 'ASC' } });
      const places = rows.map((r) => r.order);
      for (const [i, id] of ids.filter((one) => rows.some((r) => r.id === one)).entries())
        await repository.update({ id }, { order: places[i] as number });
    });
  }

  async removeJob(id: string): Promise<void> {
    await this.database.write((m) => m.getRepository(JobRow).delete({ id }));
  }

  /**
   * Null where it was never stored.
   * @throws ZodError where something else is stored under the name
   */
  async setting<T>({ name, schema }: Setting<T>): Promise<T | null> {
    const row = await this.reader.getRepository(SettingRow).findOneBy({ name });
    return row && schema.parse(JSON.parse(row.value));
  }

  /** Reads and writes a setting in one transaction, so that no concurrent change is lost. */
  async changeSetting<T>({ name, schema }: Setting<T>, change: (was: T | null) => T): Promise<T> {
    return this.database.write(async (manager) => {
      const repository = manager.getRepository(SettingRow);
      const row = await repository.findOneBy({ name });
      const value = change(row && schema.parse(JSON.parse(row.value)));
      await repository.upsert({ name, value: JSON.stringify(value) }, ['name']);
      return value;
    });
  }

  async updateJob(id: string, change: JobChange): Promise<void> {
    await this.database.write((m) => m.getRepository(JobRow).update({ id }, change));
  }

  async job(id: string): Promise<StoredJob | null> {
    const row = await this.reader.getRepository(JobRow).findOneBy({ id });
    return row && asJob(row);
  }

  /** Jobs of a project as a list shows them, newest first: without their parameters and results, which may be large. */
  async listedJobs(projectId: string, states: readonly string[], most = 2000): Promise<ListedJob[]> {
    const rows = await this.reader.getRepository(JobRow).find({
      select: LISTED,
      where: { projectId, state: In([...states]) },
      order: { order: 'DESC' },
      take: most,
    });
    return rows.map(asListedJob);
  }

  async jobs(
    where: { projectId?: string; kind?: string; subject?: string; states?: readonly string[] },
    newestFirst: boolean,
    most = 2000,
  ): Promise<StoredJob[]> {
    const rows = await this.reader.getRepository(JobRow).find({
      where: {
        ...(where.projectId ? { projectId: where.projectId } : {}),
        ...(where.kind ? { kind: where.kind } : {}),
        ...(where.subject ? { subject: where.subject } : {}),
        ...(where.states ? { state: In([...where.states]) } : {}),
      },
      order: { order: newestFirst ? 'DESC' : 'ASC' },
      take: most,
    });
    return rows.map(asJob);
  }

  /** Lets jobs that are done without a result fail, so that lists show what `asJob` says of them. Such rows are another hand's. */
  async failLostJobs(): Promise<void> {
    await this.database.write((m) => m.getRepository(JobRow).update({ state: 'done', result: IsNull() }, LOST));
  }

  /** Those that are done, newest first. */
  async doneJobs(where: { projectId: string; kind: string }, most?: number): Promise<DoneJob[]> {
    const jobs = await this.jobs({ ...where, states: ['done'] }, true, most);
    return jobs.filter((job) => job.state === 'done');
  }

  private get reader(): EntityManager {
    return this.database.reader.manager;
  }

  /** Newest finished job of a kind for each subject, its result without one (large) part. One query, however many there are. */
  async newestResults(kind: string, without: string): Promise<{ id: string; subject: string; result: string }[]> {
    return this.reader.query(
      `SELECT "id", "subject", json_remove("result", ?) AS "result" FROM "job"
       WHERE "order" IN (SELECT max("order") FROM "job" WHERE "kind" = ? AND "state" = 'done' GROUP BY "subject")`,
      [`$.${without}`, kind],
    );
  }

  async newestDone(kind: string, subject: string): Promise<DoneJob | null> {
    const row = await this.reader
      .getRepository(JobRow)
      .findOne({ where: { kind, subject, state: 'done', result: Not(IsNull()) }, order: { order: 'DESC' } });
    const job = row && asJob(row);
    return job?.state === 'done' ? job : null;
  }
}

/** What of a job is written anew: its progress, or a whole state. */
export type JobChange = Partial<Pick<StoredJob, 'done' | 'total' | 'phase' | 'startedAt'>> &
  (JobState | { readonly state?: undefined });
type JobState = ReturnType<typeof openAs> | ReturnType<typeof endedAs>;
type JobAdded = Omit<StoredJob, 'order' | keyof JobOpen> & JobOpen;

/** When a change was requested, and the request's id; null when it had none. */
export interface ChangeRequest {
  readonly at: string;
  readonly requestId: string | null;
}

/** What a change led to. `repeated` where the request had been answered before. */
export interface StoredChange {
  readonly version: number;
  readonly patches: unknown[];
  readonly repeated: boolean;
}

type Decide = (
  project: StoredProject,
  revisions: Revisions,
) => Promise<{ readonly document: Project; readonly patches: unknown[] }>;

export type WrittenRevision = Omit<StoredRevision, 'undone' | 'at'>;

export interface Revisions {
  /** The newest done one, or of the undone ones the first to do again. */
  newest(undone: boolean): Promise<StoredRevision | null>;
  /** Drops what was undone, then adds. */
  add(revision: WrittenRevision): Promise<void>;
  /** Writes over the revision of that number; `when` keeps a time of its own instead of this change's. */
  replace(revision: WrittenRevision, when?: string): Promise<void>;
  /** Oldest first. */
  all(): Promise<StoredRevision[]>;
  mark(number: number, undone: boolean): Promise<void>;
}

function revisionsOf(manager: EntityManager, projectId: string, at: string): Revisions {
  const repository = manager.getRepository(RevisionRow);
  return {
    newest: (undone) => repository.findOne({ where: { projectId, undone }, order: { number: undone ? 'ASC' : 'DESC' } }),
    all: () => repository.find({ where: { projectId }, order: { number: 'ASC' } }),
    add: async (revision) => {
      await repository.delete({ projectId, undone: true });
      await repository.insert({ ...revision, projectId, undone: false, at });
    },
    replace: async ({ number, ...revision }, when = at) => {
      await repository.update({ projectId, number }, { ...revision, at: when });
    },
    mark: async (number, undone) => {
      await repository.update({ projectId, number }, { undone });
    },
  };
}
