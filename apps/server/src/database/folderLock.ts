import { chmod, mkdir, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { statIfThere } from '@thawline/media';
import { DataSource } from 'typeorm';
import { codeOf } from './storeError.js';

/** A file in the data folder while a server uses it; left behind when the server was killed. */
const RUNNING_MARK = 'running';

/** Provides the lock of the server's own data folder. */
export const FOLDER_LOCK = Symbol('folder lock');

/** A data folder taken for this process alone. */
export interface FolderLock {
  /** Whether the server before closed its files itself. */
  readonly lastEndClean: boolean;
  /** What is older than this (ms since 1970) was not left by a server that was ended from outside. */
  readonly uncleanSinceMs: number;
  /** What such a server left was cleared away. */
  cleared(): Promise<void>;
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
    // Nothing is ever written to it, so that locking also works on a full disk.
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
  const before = await statIfThere(mark);
  const lastEndClean = before === null;
  // On a full disk there is no mark: the next start takes this end for a clean one, and finds out by reading.
  // One that stands keeps its time until what was left is cleared: this server may be ended before.
  if (lastEndClean) await writeFile(mark, `${process.pid}\n`).catch(() => undefined);
  return {
    lastEndClean,
    uncleanSinceMs: before?.mtimeMs ?? Number.POSITIVE_INFINITY,
    cleared: async () => {
      // Without a mark there is nothing to bring up to date.
      await utimes(mark, new Date(), new Date()).catch(() => undefined);
    },
    release: async ({ clean }) => {
      if (clean) await rm(mark, { force: true });
      await lock.destroy();
    },
  };
}
