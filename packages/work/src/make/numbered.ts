import { mkdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { MediaError, seriesName, seriesPattern, statIfThere } from '@thawline/media';
import { unfinishedPath } from '../files/atomicWrite.js';

/** Forms of numbered pictures by their names' ending. */
export const NUMBERED: Readonly<Record<string, 'png' | 'tiff'>> = { '.png': 'png', '.tif': 'tiff', '.tiff': 'tiff' };

/** A run of these is where the number goes, with as many digits at least. */
const NUMBER = /#+/;

/** Whether a name has a place for a number. */
export function isNumbered(path: string): boolean {
  return NUMBER.test(basename(path));
}

/** Writes pictures to a path or a pattern. */
export type WriteTo = (path: string) => Promise<void>;

/**
 * Lets `write` fill a folder with numbered pictures and gives them their names when all are there. None that is there already is replaced; whatever
 * goes wrong, none is left behind.
 * @param path with the place for the number, "shots/shot-####.png"
 */
export async function writeNumbered(path: string, count: number, write: WriteTo): Promise<void> {
  const [folder, name] = [dirname(path), basename(path)];
  const named = (k: number): string =>
    join(
      folder,
      name.replace(NUMBER, (run) => String(k).padStart(run.length, '0')),
    );
  const temporary = unfinishedPath(path.replace(NUMBER, ''));
  const ending = 'picture';
  const done: string[] = [];
  try {
    for (let k = 0; k < count; k++)
      if (await statIfThere(named(k))) throw new MediaError('encode-failed', `${basename(named(k))} is there already`);
    await mkdir(temporary);
    await write(seriesPattern(temporary, ending));
    for (let k = 0; k < count; k++) {
      await rename(join(temporary, seriesName(k, ending)), named(k));
      done.push(named(k));
    }
  } catch (error) {
    await Promise.all(done.map((one) => rm(one, { force: true })));
    throw error;
  } finally {
    await rm(temporary, { recursive: true, force: true });
  }
}
