import { copyFile } from 'node:fs/promises';
import { unfinishedPath } from '@thawline/work';
import { DataSource, type EntityManager } from 'typeorm';
import { type ProjectArchive, readArchive } from './archive.js';
import { removeDatabase } from './backups.js';
import { ENTITIES, ProjectRow, RevisionRow } from './entities.js';
import { MIGRATIONS } from './migrations.js';
import { documentOf } from './stored.js';

/** A project of a backup, as a list shows it. */
export interface BackedUpProject {
  readonly id: string;
  readonly name: string;
  readonly changedAt: string;
  readonly sources: number;
  readonly timelines: number;
  /** Steps of its history. */
  readonly steps: number;
}

/** The projects of a backup that can be read. */
export function listBackedUp(path: string): Promise<BackedUpProject[]> {
  return withBackup(path, async (manager) => {
    const found: BackedUpProject[] = [];
    for (const row of await manager.getRepository(ProjectRow).find()) {
      const document = documentOf(row);
      if (!document) continue;
      const steps = await manager.getRepository(RevisionRow).countBy({ projectId: row.id });
      const { id, changedAt } = row;
      const { name, sources, timelines } = document;
      found.push({ id, name, changedAt, sources: sources.length, timelines: timelines.length, steps });
    }
    return found.sort((a, b) => (a.changedAt < b.changedAt ? 1 : -1));
  });
}

/** All that a backup holds of one project, or of every one that can be read (null). */
export function readBackedUp(path: string, projectId: string | null): Promise<ProjectArchive[]> {
  return withBackup(path, async (manager) => {
    const rows = await manager.getRepository(ProjectRow).find({ select: { id: true } });
    const found: ProjectArchive[] = [];
    for (const { id } of rows) {
      const archive = projectId === null || projectId === id ? await readArchive(manager, id) : null;
      if (archive) found.push(archive);
    }
    return found;
  });
}

/** A backup may be of an earlier program: a copy of it is brought up to date and read, the backup itself stays as it is. */
async function withBackup<T>(path: string, read: (manager: EntityManager) => Promise<T>): Promise<T> {
  const database = unfinishedPath(path);
  const source = new DataSource({ type: 'better-sqlite3', database, entities: ENTITIES, migrations: MIGRATIONS });
  try {
    await copyFile(path, database);
    await source.initialize();
    await source.runMigrations({ transaction: 'all' });
    return await read(source.manager);
  } finally {
    if (source.isInitialized) await source.destroy();
    await removeDatabase(database);
  }
}
