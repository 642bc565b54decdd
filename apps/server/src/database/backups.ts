import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { statIfThere } from '@thawline/media';
import { atomicWrite } from '@thawline/work';
import BetterSqlite3 from 'better-sqlite3';
import { DATABASE_FILE } from './database.js';

/** Why a backup was made: the first use of a day, an update of the program, or a person's wish. */
export const BACKUP_REASONS = ['daily', 'before-update', 'by-hand'] as const;
export type BackupReason = (typeof BACKUP_REASONS)[number];

/** So many backups are kept, the newest. */
export const BACKUPS_KEPT = 10;

/** The file's name: when it was made (UTC, no colons) and why. */
const NAME = /^(\d{4}-\d{2}-\d{2})T(\d{2})-(\d{2})-(\d{2})-(\d{3})Z-([a-z-]+)\.sqlite$/;

export interface Backup {
  readonly name: string;
  /** ISO 8601, UTC. */
  readonly at: string;
  readonly reason: BackupReason;
  readonly bytes: number;
}

export function backupsFolder(folder: string): string {
  return join(folder, 'backups');
}

/** Newest first. */
export async function listBackups(folder: string): Promise<Backup[]> {
  const names = await readdir(backupsFolder(folder)).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
  const found = await Promise.all(
    names.map(async (name): Promise<Backup | null> => {
      const [, day, hours, minutes, seconds, milliseconds, reason] = NAME.exec(name) ?? [];
      const known = BACKUP_REASONS.find((r) => r === reason);
      if (!known) return null;
      const file = await statIfThere(join(backupsFolder(folder), name));
      if (!file?.isFile()) return null;
      return { name, at: `${day}T${hours}:${minutes}:${seconds}.${milliseconds}Z`, reason: known, bytes: file.size };
    }),
  );
  return found.filter((b) => b !== null).sort((a, b) => (a.at < b.at ? 1 : -1));
}

/**
 * Copies the database by SQLite's own backup, which takes it as it is at one moment also while it is written to. The copy is looked
 * through and synced before it gets its name; then the oldest beyond the newest ten go.
 */
export async function makeBackup(folder: string, reason: BackupReason, at = new Date()): Promise<Backup> {
  await mkdir(backupsFolder(folder), { recursive: true, mode: 0o700 });
  const iso = at.toISOString();
  const name = `${iso.replace(/[:.]/g, '-')}-${reason}.sqlite`;
  const path = join(backupsFolder(folder), name);
  await atomicWrite(path, (temporary) => copyDatabase(join(folder, DATABASE_FILE), temporary));
  for (const old of (await listBackups(folder)).slice(BACKUPS_KEPT))
    await rm(join(backupsFolder(folder), old.name), { force: true });
  return { name, at: iso, reason, bytes: (await stat(path)).size };
}

/** What SQLite keeps beside a database while it is open. */
const BESIDE = ['-journal', '-wal', '-shm'] as const;

/** Removes a database that is no longer needed, with the files that SQLite keeps beside it. */
export async function removeDatabase(path: string): Promise<void> {
  for (const ending of ['', ...BESIDE]) await rm(`${path}${ending}`, { force: true });
}

/** Throws where the copy does not hold together; nothing of it stays then. */
async function copyDatabase(from: string, to: string): Promise<void> {
  try {
    const source = new BetterSqlite3(from, { fileMustExist: true });
    try {
      await source.backup(to);
    } finally {
      source.close();
    }
    const copy = new BetterSqlite3(to, { fileMustExist: true });
    try {
      // A file by itself, without a log beside it.
      copy.pragma('journal_mode = DELETE');
      const [first] = copy.pragma('quick_check(1)') as { quick_check: string }[];
      if (first?.quick_check !== 'ok') throw new Error(`the backup of ${from} does not hold together: ${first?.quick_check}`);
    } finally {
      copy.close();
    }
  } catch (error) {
    await removeDatabase(to);
    throw error;
  }
}
