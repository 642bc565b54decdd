import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { DataSource } from 'typeorm';
import { ENTITIES } from './entities.js';
import { MIGRATIONS } from './migrations.js';

/** Opens (and brings up to date) the database of a data folder. WAL, foreign keys on. */
export async function openDatabase(folder: string): Promise<DataSource> {
  await mkdir(folder, { recursive: true });
  const source = new DataSource({
    type: 'better-sqlite3',
    database: join(folder, 'thawline.sqlite'),
    entities: ENTITIES,
    migrations: MIGRATIONS,
    migrationsRun: true,
    enableWAL: true,
  });
  await source.initialize();
  await source.query('PRAGMA foreign_keys = ON');
  return source;
}

/**
 * One connection means one transaction at a time: writes take turns, so that an await inside a transaction never lets
 * another request's statement slip into it.
 */
export class WriteTurns {
  private last: Promise<unknown> = Promise.resolve();

  take<T>(work: () => Promise<T>): Promise<T> {
    const next = this.last.then(work, work);
    this.last = next.catch(() => undefined);
    return next;
  }
}
