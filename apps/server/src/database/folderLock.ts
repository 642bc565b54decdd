import { existsSync } from 'node:fs';
import { chmod, mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { DataSource } from 'typeorm';
import { codeOf } from './storeError.js';

/** Stands in the data folder while a server works with it, and after one that was ended from outside. */
const RUNNING_MARK = 'running';

/** A data folder taken for this process alone. */
export interface FolderLock {
  /** Whether the server before closed its files itself. */
  readonly lastEndClean: boolean;
  /** Others may take the folder now. */
  release(options: { readonly clean: boolean }): Promise<void>;
}

/**
 * Takes a data folder for this process alone; throws with a sentence where another one has it. The lock is SQLite's own on an empty
 * file: the system releases it when the process ends, however it ends. Nobody but the folder's owner may look inside.
 */
export async function takeFolder(folder: string): Promise<FolderLock> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  await chmod(folder, 0o700).catch((error: NodeJS.ErrnoException) => {
    // A folder of another owner's that lets us write stays as its owner wants it.
    if (error.code !== 'EPERM' && error.code !== 'EROFS') throw error;
  });
  const lock = new DataSource({ type: 'better-sqlite3', database: join(folder, 'in-use.sqlite'), timeout: 0 });
  try {
    await lock.initialize();
    // Nothing is ever written to it: on a full disk it is locked all the same.
    await lock.query('PRAGMA journal_mode = MEMORY');
    await lock.query('BEGIN EXCLUSIVE');
  } catch (error) {
    if (lock.isInitialized) await lock.destroy();
    const code = codeOf(error) ?? '';
    if (/^SQLITE_(BUSY|LOCKED)/.test(code))
      throw new Error(
        `Another Thawline works with ${folder}. End it first, or give this one a folder of its own: THAWLINE_DATA=...`,
      );
    if (/^SQLITE_FULL|ENOSPC/.test(code)) throw new Error(`The disk of ${folder} is full. Free some room, then start again.`);
    throw new Error(
      `${folder} cannot be written to (${code || String(error)}). Make it writable, or give another: THAWLINE_DATA=...`,
    );
  }
  const mark = join(folder, RUNNING_MARK);
  const lastEndClean = !existsSync(mark);
  // On a full disk there is no mark: the next start takes this end for a clean one, and finds out by reading.
  await writeFile(mark, `${process.pid}\n`).catch(() => undefined);
  return {
    lastEndClean,
    release: async ({ clean }) => {
      if (clean) await rm(mark, { force: true });
      await lock.destroy();
    },
  };
}
