import { randomBytes } from 'node:crypto';
import { link, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { UNFINISHED } from './parts.js';

/** Where a file is written until it is whole, beside the place it will have; nobody takes it for one. */
export function besideOf(path: string): string {
  return join(dirname(path), `.${basename(path)}.${randomBytes(4).toString('hex')}${UNFINISHED}`);
}

/** Removes what earlier renders left unfinished in a folder. One that is not there holds none. */
export async function removeUnfinished(folder: string): Promise<void> {
  const names = await readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
  for (const name of names) if (name.endsWith(UNFINISHED)) await rm(join(folder, name), { recursive: true, force: true });
}

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
  for (const { path } of finished) await toDisk(path);
  for (let number = 1; number < MOST_NUMBERS; number++) {
    const numbered = number === 1 ? stem : `${stem} (${number})`;
    const wanted = finished.map(({ path, ending }) => ({ path, name: `${numbered}${ending}` }));
    if (!(await takeAll(wanted))) continue;
    await toDisk(dirname(stem));
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
  if (await stat(name).catch(() => null)) return false;
  await rename(path, name);
  return true;
}

/** What was written is on the disk, and not only on its way there. */
async function toDisk(path: string): Promise<void> {
  const file = await open(path, 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

/** A path without its ending. */
export function stemOf(path: string): string {
  return path.slice(0, path.length - extname(path).length);
}
