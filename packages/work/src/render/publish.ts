import { chmod, link, readdir, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { statIfThere } from '@thawline/media';
import { syncToDisk, syncTree } from '../files/atomicWrite.js';

/** Numbers that are tried for a name that is taken. */
const MOST_NUMBERS = 10_000;

/**
 * Gives finished files their names, all of them the same stem. A name that is taken is left alone and the next number is tried, so that
 * nothing is ever written over; in one step, so that two renders never meet.
 * @param finished unfinished path and ending of each file (or folder: ending ''), the main one first
 * @returns the names' paths
 */
export async function place(
  stem: string,
  finished: readonly { readonly path: string; readonly ending: string }[],
): Promise<string[]> {
  for (const { path } of finished) await syncTree(path);
  for (let number = 1; number < MOST_NUMBERS; number++) {
    const numbered = number === 1 ? stem : `${stem} (${number})`;
    const wanted = finished.map(({ path, ending }) => ({ path, name: `${numbered}${ending}` }));
    if (!(await takeAll(wanted))) continue;
    for (const { name } of wanted) await openToItsFolder(name);
    await syncToDisk(dirname(stem));
    return wanted.map((w) => w.name);
  }
  throw new Error(`${basename(stem)} has more numbers than are tried.`);
}

interface Named {
  readonly path: string;
  readonly name: string;
}

/** All names or none. */
async function takeAll(wanted: readonly Named[]): Promise<boolean> {
  const taken: Named[] = [];
  for (const one of wanted) {
    if (await take(one)) taken.push(one);
    else {
      for (const { path, name } of taken) await rename(name, path);
      return false;
    }
  }
  return true;
}

/** False where the name is taken. */
async function take({ path, name }: Named): Promise<boolean> {
  // Renaming writes over a file without a word, but never over a folder that holds something.
  if (!(await stat(path)).isDirectory()) {
    try {
      await link(path, name);
      await rm(path);
      return true;
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EEXIST') return false;
      // A disk without second names; there it is looked first.
      if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EMLINK') throw error;
    }
  }
  if (await statIfThere(name)) return false;
  await rename(path, name);
  return true;
}

/** Gives the file the folder's read permissions; only the owner may write. */
async function openToItsFolder(path: string): Promise<void> {
  const readable = (await stat(dirname(path))).mode & 0o755;
  try {
    if (!(await stat(path)).isDirectory()) return await chmod(path, readable & 0o644);
    for (const name of await readdir(path)) await chmod(join(path, name), readable & 0o644);
    await chmod(path, readable);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    // A disk without such permissions.
    if (code !== 'EPERM' && code !== 'ENOTSUP') throw error;
  }
}

/** A path without its ending. */
export function stemOf(path: string): string {
  return path.slice(0, path.length - extname(path).length);
}
