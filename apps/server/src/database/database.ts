import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { OnApplicationShutdown } from '@nestjs/common';
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
 * Takes a data folder for this process alone; throws with a sentence where another one has it. The lock is SQLite's own on a file of
 * nothing else: the system lets go of it when the process ends, however that is.
 */
export async function takeFolder(folder: string): Promise<DataSource> {
  await mkdir(folder, { recursive: true });
  const lock = new DataSource({ type: 'better-sqlite3', database: join(folder, 'in-use.sqlite'), timeout: 0 });
  try {
    await lock.initialize();
    await lock.query('PRAGMA journal_mode = DELETE');
    await lock.query('BEGIN EXCLUSIVE');
  } catch (error) {
    if (!/locked|busy/i.test(String(error))) throw error;
    throw new Error(
      `Another Thawline works with ${folder}. End it first, or give this one a folder of its own: THAWLINE_DATA=...`,
    );
  }
  return lock;
}

/** What is open of a data folder, closed in the end: others may take the folder then. */
export class Databases implements OnApplicationShutdown {
  constructor(
    readonly database: DataSource,
    private readonly lock: DataSource,
  ) {}

  async onApplicationShutdown(): Promise<void> {
    await this.database.destroy();
    await this.lock.destroy();
  }
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
