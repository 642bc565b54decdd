import { rename, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';

/**
 * Lets `write` fill a temporary file beside the wanted one and moves it into place when it is whole. Whatever goes wrong,
 * nothing unfinished ever bears the final name and nothing is left behind.
 */
export async function writeWhole(path: string, write: (partial: string) => Promise<void>): Promise<void> {
  const partial = join(dirname(path), `.${basename(path)}.${process.pid}.partial`);
  try {
    await write(partial);
    await rename(partial, path);
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  }
}
