import { Inject, Injectable } from '@nestjs/common';
import type { JobReply } from '@thawline/contract';
import type { Probe } from '@thawline/media';
import type { Project } from '@thawline/project';
import { DataSource, In } from 'typeorm';
import { WriteTurns } from './database.js';
import { JobRow, MediaRow, ProjectRow, RevisionRow, SettingRow } from './entities.js';

export interface StoredProject {
  readonly id: string;
  readonly version: number;
  readonly document: Project;
}

export interface StoredRevision {
  readonly number: number;
  readonly label: string;
  readonly command: string;
  readonly forward: string;
  readonly backward: string;
  readonly undone: boolean;
  readonly batch: string | null;
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

/** The one door to the database: plain values in and out. */
@Injectable()
export class Store {
  private readonly turns = new WriteTurns();

  constructor(@Inject(DataSource) private readonly database: DataSource) {}

  async projects(): Promise<(StoredProject & { changedAt: string })[]> {
    const rows = await this.database.getRepository(ProjectRow).find({ order: { changedAt: 'DESC' } });
    return rows.map((row) => ({ ...plain(row), changedAt: row.changedAt }));
  }

  async project(id: string): Promise<StoredProject | null> {
    const row = await this.database.getRepository(ProjectRow).findOneBy({ id });
    return row && plain(row);
  }

  async createProject(id: string, document: Project, at: string): Promise<void> {
    const row = { id, name: document.name, version: 0, document: JSON.stringify(document), createdAt: at, changedAt: at };
    await this.turns.take(() => this.database.getRepository(ProjectRow).insert(row));
  }

  /**
   * Reads a project and its revisions, lets `decide` say what becomes of them, and writes both in one transaction.
   * `decide` must not wait for anything but what it is given.
   */
  changeProject(
    id: string,
    at: string,
    decide: (project: StoredProject, revisions: Revisions) => Promise<{ document: Project }>,
  ): Promise<void> {
    return this.turns.take(() =>
      this.database.transaction(async (manager) => {
        const repository = manager.getRepository(RevisionRow);
        const row = await manager.getRepository(ProjectRow).findOneByOrFail({ id });
        const revisions: Revisions = {
          newest: (undone) =>
            repository.findOne({ where: { projectId: id, undone }, order: { number: undone ? 'ASC' : 'DESC' } }),
          all: () => repository.find({ where: { projectId: id }, order: { number: 'ASC' } }),
          add: async (revision) => {
            await repository.delete({ projectId: id, undone: true });
            await repository.insert({ ...revision, projectId: id, undone: false, at });
          },
          replace: async ({ number, ...revision }) => {
            await repository.update({ projectId: id, number }, { ...revision, at });
          },
          mark: async (number, undone) => {
            await repository.update({ projectId: id, number }, { undone });
          },
        };
        const { document } = await decide(plain(row), revisions);
        const change = { document: JSON.stringify(document), name: document.name, version: row.version + 1, changedAt: at };
        await manager.getRepository(ProjectRow).update({ id }, change);
      }),
    );
  }

  async revisions(projectId: string, most: number): Promise<StoredRevision[]> {
    return this.database.getRepository(RevisionRow).find({ where: { projectId }, order: { number: 'DESC' }, take: most });
  }

  async newestRevision(projectId: string, undone: boolean): Promise<StoredRevision | null> {
    const order = { number: undone ? ('ASC' as const) : ('DESC' as const) };
    return this.database.getRepository(RevisionRow).findOne({ where: { projectId, undone }, order });
  }

  async addMedia(media: StoredMedia, at: string): Promise<void> {
    const row = {
      ...media,
      probe: JSON.stringify(media.probe),
      series: media.series && JSON.stringify(media.series),
      createdAt: at,
    };
    await this.turns.take(() => this.database.getRepository(MediaRow).insert(row));
  }

  /** A file in place was found at another path, or touched without a change. */
  async moveMedia(id: string, where: Pick<StoredMedia, 'path' | 'modifiedMs'>): Promise<void> {
    await this.turns.take(() => this.database.getRepository(MediaRow).update({ id }, where));
  }

  async media(id: string): Promise<StoredMedia | null> {
    const row = await this.database.getRepository(MediaRow).findOneBy({ id });
    return row && asMedia(row);
  }

  async mediaOf(ids: readonly string[]): Promise<StoredMedia[]> {
    const rows: MediaRow[] = [];
    for (let at = 0; at < ids.length; at += 500)
      rows.push(...(await this.database.getRepository(MediaRow).find({ where: { id: In(ids.slice(at, at + 500)) } })));
    return rows.map(asMedia);
  }

  async addJob(job: Omit<StoredJob, 'order'>): Promise<StoredJob> {
    return this.turns.take(async () => {
      const repository = this.database.getRepository(JobRow);
      const order = ((await repository.maximum('order')) ?? 0) + 1;
      await repository.insert({ ...job, order });
      return { ...job, order };
    });
  }

  /** Lets waiting jobs take each other's places: those named, in this order, in the places that they have among them. */
  async orderJobs(ids: readonly string[]): Promise<void> {
    await this.turns.take(() =>
      this.database.transaction(async (manager) => {
        const repository = manager.getRepository(JobRow);
        const rows = await repository.find({ where: { id: In([...ids]) }, order: { order: 'ASC' } });
        const places = rows.map((r) => r.order);
        for (const [i, id] of ids.filter((one) => rows.some((r) => r.id === one)).entries())
          await repository.update({ id }, { order: places[i] as number });
      }),
    );
  }

  async removeJob(id: string): Promise<void> {
    await this.turns.take(() => this.database.getRepository(JobRow).delete({ id }));
  }

  async setting<T>(name: string): Promise<T | null> {
    const row = await this.database.getRepository(SettingRow).findOneBy({ name });
    return row && (JSON.parse(row.value) as T);
  }

  /** Changes a setting in one step: nobody else's change comes between. */
  async changeSetting<T>(name: string, change: (was: T | null) => T): Promise<T> {
    return this.turns.take(async () => {
      const repository = this.database.getRepository(SettingRow);
      const row = await repository.findOneBy({ name });
      const value = change(row && (JSON.parse(row.value) as T));
      await repository.save({ name, value: JSON.stringify(value) });
      return value;
    });
  }

  async updateJob(id: string, change: Partial<StoredJob>): Promise<void> {
    await this.turns.take(() => this.database.getRepository(JobRow).update({ id }, change));
  }

  async job(id: string): Promise<StoredJob | null> {
    const row = await this.database.getRepository(JobRow).findOneBy({ id });
    return row && asJob(row);
  }

  async jobs(
    where: { projectId?: string; kind?: string; subject?: string; states?: readonly string[] },
    newestFirst: boolean,
    most = 2000,
  ): Promise<StoredJob[]> {
    const rows = await this.database.getRepository(JobRow).find({
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

  /** Newest finished job of a kind for each subject, its result without one (large) part. One query, however many there are. */
  async newestResults(kind: string, without: string): Promise<{ id: string; subject: string; result: string }[]> {
    return this.database.query(
      `SELECT "id", "subject", json_remove("result", ?) AS "result" FROM "job"
       WHERE "order" IN (SELECT max("order") FROM "job" WHERE "kind" = ? AND "state" = 'done' GROUP BY "subject")`,
      [`$.${without}`, kind],
    );
  }

  async newestDone(kind: string, subject: string): Promise<StoredJob | null> {
    const row = await this.database
      .getRepository(JobRow)
      .findOne({ where: { kind, subject, state: 'done' }, order: { order: 'DESC' } });
    return row && asJob(row);
  }
}

export type WrittenRevision = Pick<StoredRevision, 'number' | 'label' | 'command' | 'forward' | 'backward' | 'batch'>;

export interface Revisions {
  /** The newest done one, or of the undone ones the first to do again. */
  newest(undone: boolean): Promise<StoredRevision | null>;
  /** Drops what was undone, then adds. */
  add(revision: WrittenRevision): Promise<void>;
  /** Writes over the revision of that number. */
  replace(revision: WrittenRevision): Promise<void>;
  /** Oldest first. */
  all(): Promise<StoredRevision[]>;
  mark(number: number, undone: boolean): Promise<void>;
}

function plain(row: ProjectRow): StoredProject {
  return { id: row.id, version: row.version, document: JSON.parse(row.document) as Project };
}

function asMedia(row: MediaRow): StoredMedia {
  return {
    ...row,
    probe: JSON.parse(row.probe) as Probe,
    series: row.series === null ? null : (JSON.parse(row.series) as StoredMedia['series']),
  };
}

function asJob(row: JobRow): StoredJob {
  return { ...row, kind: row.kind as StoredJob['kind'], state: row.state as StoredJob['state'] };
}
