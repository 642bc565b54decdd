import { randomUUID } from 'node:crypto';
import { copyFile, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { statIfThere } from '@thawline/media';
import { atomicWrite } from '@thawline/work';
import { backupsFolder, listBackups } from './backups.js';
import { DATABASE_FILE, type Database } from './database.js';
import { takeFolder } from './folderLock.js';
import { OpeningError, openDatabase } from './opening.js';
import { type BackedUpProject, listBackedUp, readBackedUp } from './readBackup.js';
import { Store } from './store.js';

/** A backup with the projects that can be read in it. */
export interface BackupContents {
  readonly name: string;
  readonly at: string;
  readonly projects: readonly BackedUpProject[];
}

/** The backups of a data folder, newest first. */
export async function backupsOf(folder: string): Promise<BackupContents[]> {
  const found: BackupContents[] = [];
  for (const { name, at } of await listBackups(folder))
    found.push({ name, at, projects: await listBackedUp(join(backupsFolder(folder), name)) });
  return found;
}

export interface Restored {
  /** The new path of the database that could not be used; null if the present one was used. */
  readonly setAside: string | null;
  readonly projects: readonly { readonly id: string; readonly name: string }[];
}

/**
 * Brings a backup's projects back without a server. Where the database can be used, they come in beside those that are there; where it
 * cannot, it is renamed, and the whole backup takes its place. Nothing is ever written over.
 * @param projectId one project of the backup; null for all
 * @throws with a sentence where a server works with the folder, or there is no such backup
 */
export async function restoreBackup(folder: string, name: string, projectId: string | null): Promise<Restored> {
  const backup = (await listBackups(folder)).find((b) => b.name === name);
  if (!backup) throw new Error(`There is no backup ${name} in ${backupsFolder(folder)}.`);
  const path = join(backupsFolder(folder), name);
  const lock = await takeFolder(folder);
  let database: Database | null = null;
  try {
    let setAside: string | null = null;
    try {
      database = await openDatabase(folder, { check: !lock.lastEndClean });
    } catch (error) {
      if (!(error instanceof OpeningError) || error.cause === 'unusable') throw error;
      setAside = await putAside(folder);
      await atomicWrite(join(folder, DATABASE_FILE), (temporary) => copyFile(path, temporary));
      database = await openDatabase(folder);
      const projects = (await new Store(database).projects()).filter((p) => p.deletedAt === null);
      return { setAside, projects: projects.map((p) => ({ id: p.id, name: p.name })) };
    }
    const archives = await readBackedUp(path, projectId);
    if (archives.length === 0) throw new Error(`${name} has no such project that can be read.`);
    const projects = archives.map((archive) => ({ archive, options: besideOptions(archive.document.name, backup.at) }));
    await new Store(database).addArchives(projects);
    return { setAside, projects: projects.map(({ options }) => ({ id: options.id, name: options.name })) };
  } finally {
    await database?.close();
    await lock.release({ clean: true });
  }
}

/** How a project of a backup is called beside the present ones, and what id it gets. */
export function besideOptions(name: string, backupAt: string) {
  const newId = (): string => randomUUID().replace(/-/g, '').slice(0, 16);
  const told = `${name} (backup of ${backupAt.slice(0, 16).replace('T', ' ')})`;
  return { id: newId(), name: told.slice(0, 120), at: new Date().toISOString(), newId };
}

/** Renames a database that cannot be used, with the files that belong to it. */
async function putAside(folder: string): Promise<string> {
  const path = join(folder, DATABASE_FILE);
  const aside = `${path}.unreadable-${new Date().toISOString().replace(/[:.]/g, '-')}`;
  for (const ending of ['', '-wal', '-shm'])
    if (await statIfThere(`${path}${ending}`)) await rename(`${path}${ending}`, `${aside}${ending}`);
  return aside;
}
