import { constants } from 'node:fs';
import { copyFile, link, mkdir, readdir, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { moveIntoPlace, unfinishedPath } from '../files/atomicWrite.js';

/**
 * Written parts by what they show: in the render's own folder, which nobody else empties, and in a cache that all renders share and that
 * may lose any of them at any time.
 */
export class Parts {
  constructor(
    private readonly own: string,
    private readonly cache: string | null,
    private readonly ending: string,
  ) {}

  /** The part's file; null where it was not written yet. */
  async find(content: string): Promise<string | null> {
    const path = this.pathOf(content);
    if (await exists(path)) return path;
    if (!this.cache) return null;
    const kept = join(this.cache, this.nameOf(content));
    if (!(await exists(kept))) return null;
    await share(kept, path);
    const now = new Date();
    await utimes(kept, now, now).catch(gone);
    return path;
  }

  /** A place to write a part to. */
  begin(content: string): string {
    return unfinishedPath(this.pathOf(content));
  }

  /** What was begun is whole: from now on it is found. */
  async keep(content: string, begun: string): Promise<string> {
    const path = this.pathOf(content);
    await moveIntoPlace(begun, path);
    if (this.cache) await share(path, join(this.cache, this.nameOf(content)));
    return path;
  }

  /** Removes a stored part so that it is written again. */
  async forget(content: string): Promise<void> {
    await rm(this.pathOf(content), { force: true });
    if (this.cache) await rm(join(this.cache, this.nameOf(content)), { force: true });
  }

  async open(): Promise<void> {
    await mkdir(this.own, { recursive: true });
    if (this.cache) await mkdir(this.cache, { recursive: true });
  }

  async close(): Promise<void> {
    await rm(this.own, { recursive: true, force: true });
  }

  private nameOf(content: string): string {
    return `${content}.${this.ending}`;
  }

  private pathOf(content: string): string {
    return join(this.own, this.nameOf(content));
  }
}

/** The same file under a second name; a copy where the disk has no such thing, or is another one. One that is there already stays. */
async function share(from: string, to: string): Promise<void> {
  try {
    await link(from, to);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EEXIST') return;
    if (code !== 'EXDEV' && code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EMLINK') throw error;
    await copyFile(from, to, constants.COPYFILE_EXCL).catch((again: NodeJS.ErrnoException) => {
      if (again.code !== 'EEXIST') throw again;
    });
  }
}

async function exists(path: string): Promise<boolean> {
  return (await stat(path).catch(gone)) !== null;
}

function gone(error: NodeJS.ErrnoException): null {
  if (error.code === 'ENOENT') return null;
  throw error;
}

/** What a cache of parts holds. */
export interface CacheState {
  readonly bytes: number;
  readonly files: number;
}

/** Bytes that a folder of parts takes up. A folder that is not there takes up none. */
export async function cacheState(folder: string): Promise<CacheState> {
  const files = await filesIn(folder);
  return { bytes: files.reduce((sum, f) => sum + f.bytes, 0), files: files.length };
}

/** Removes what was not used for longest until the rest fits into so many bytes. */
export async function trimCache(folder: string, most: number): Promise<CacheState> {
  const files = (await filesIn(folder)).sort((a, b) => b.usedMs - a.usedMs);
  let bytes = 0;
  let kept = 0;
  while (kept < files.length && bytes + (files[kept]?.bytes ?? 0) <= most) bytes += files[kept++]?.bytes ?? 0;
  for (const { path } of files.slice(kept)) await rm(path, { force: true });
  return { bytes, files: kept };
}

async function filesIn(folder: string): Promise<{ path: string; bytes: number; usedMs: number }[]> {
  const names = await readdir(folder).catch((error: NodeJS.ErrnoException) => gone(error) ?? []);
  const found = await Promise.all(
    names.map(async (name) => {
      const path = join(folder, name);
      const file = await stat(path).catch(gone);
      return file?.isFile() ? { path, bytes: file.size, usedMs: file.mtimeMs } : null;
    }),
  );
  return found.filter((f) => f !== null);
}
