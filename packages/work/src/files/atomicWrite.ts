import { randomBytes } from 'node:crypto';
import { lstat, open, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { MediaError, statIfThere } from '@thawline/media';

/** Suffix of unfinished files. */
export const UNFINISHED = '.partial';

/** A file's name takes 255 bytes at most on the usual file systems; what is put around a name needs room of its own. */
const MOST_NAME_BYTES = 200;

/** Shortens a name to so many bytes of UTF-8, never within a character. */
export function boundedName(name: string, mostBytes = MOST_NAME_BYTES): string {
  let bytes = 0;
  let kept = '';
  for (const character of name) {
    bytes += Buffer.byteLength(character);
    if (bytes > mostBytes) return kept;
    kept += character;
  }
  return kept;
}

/**
 * A path for an unfinished file, beside the path that it gets when it is whole: hidden, and never the same twice, whichever thread or
 * process asks.
 */
export function unfinishedPath(path: string): string {
  return join(dirname(path), `.${boundedName(basename(path))}.${randomBytes(6).toString('hex')}${UNFINISHED}`);
}

/** Throws MediaError no-folder where there is no such folder. */
export async function folderIsThere(folder: string): Promise<void> {
  const found = await statIfThere(folder);
  if (!found?.isDirectory()) throw new MediaError('no-folder', folder);
}

/** Waits until a file's contents, or a folder's names, are on the disk. */
export async function syncToDisk(path: string): Promise<void> {
  const file = await open(path, 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

/** Gives a finished file its name, replacing what bore it. Contents and name are on the disk when this resolves. */
export async function moveIntoPlace(finished: string, path: string): Promise<void> {
  await syncToDisk(finished);
  await rename(finished, path);
  await syncToDisk(dirname(path));
}

/**
 * Lets `write` fill a temporary file beside the wanted one and moves it into place when it is whole. Whatever goes wrong, no unfinished
 * file ever bears the final name, and the temporary one is removed. When this resolves, the file is on the disk.
 */
export async function atomicWrite(path: string, write: (temporary: string) => Promise<void>): Promise<void> {
  const temporary = unfinishedPath(path);
  try {
    await write(temporary);
    await moveIntoPlace(temporary, path);
  } catch (error) {
    await rm(temporary, { recursive: true, force: true });
    throw error;
  }
}

/** Writes text or bytes as one file, whole or not at all. */
export function atomicWriteFile(path: string, data: string | Uint8Array): Promise<void> {
  return atomicWrite(path, (temporary) => writeFile(temporary, data));
}

/** Unfinished files, and what a database keeps beside itself while it is open. */
const LEFT_OVER = /\.partial(-journal|-wal|-shm)?$/;

/** Removes unfinished files and folders that ended processes left in a folder. A missing folder holds none. */
export async function removeUnfinished(folder: string): Promise<void> {
  const names = await readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
  for (const name of names) if (LEFT_OVER.test(name)) await rm(join(folder, name), { recursive: true, force: true });
}

/** Syncs a finished file, or every file of a finished folder and the folder itself. Links are left alone: what they lead to is another's. */
export async function syncTree(path: string): Promise<void> {
  const entry = await lstat(path);
  if (entry.isSymbolicLink()) return;
  if (entry.isDirectory()) for (const name of await readdir(path)) await syncTree(join(path, name));
  await syncToDisk(path);
}
