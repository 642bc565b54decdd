import type { Stats } from 'node:fs';
import { readdir, readFile, stat } from 'node:fs/promises';

/** No such file: nothing by that name, a file where a folder should be, or links in a circle. */
const ABSENT: readonly (string | undefined)[] = ['ENOENT', 'ENOTDIR', 'ELOOP'];

function nullWhereAbsent(error: NodeJS.ErrnoException): null {
  if (ABSENT.includes(error.code)) return null;
  throw error;
}

/** What a path leads to; null where there is nothing. Any other trouble (no permission, a broken disk) is thrown: it says nothing about that. */
export function statIfThere(path: string): Promise<Stats | null> {
  return stat(path).catch(nullWhereAbsent);
}

/** A file's bytes; null where there is none. Other errors are thrown. */
export function readIfThere(path: string): Promise<Buffer | null> {
  return readFile(path).catch(nullWhereAbsent);
}

/** Names in a folder; none where it is not there. Other errors are thrown. */
export async function namesIfThere(folder: string): Promise<string[]> {
  return (await readdir(folder).catch(nullWhereAbsent)) ?? [];
}
