import type { Stats } from 'node:fs';
import { readdir, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import type { FreeKind, StorageReply } from '@thawline/contract';
import { statIfThere } from '@thawline/media';
import { cacheState, proxyFiles, removeUnfinished, trimCache, waveFile } from '@thawline/work';
import { backupsFolder } from '../database/backups.js';
import { FOLDER_LOCK, type FolderLock } from '../database/folderLock.js';
import { Store } from '../database/store.js';
import { PicturesService } from '../pictures/pictures.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';

/** What takes the room in the data folder, and what of it can go. */
@Injectable()
export class StorageService implements OnApplicationBootstrap {
  private readonly logger = new Logger('storage');

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(PicturesService) private readonly pictures: PicturesService,
    @Inject(FOLDER_LOCK) private readonly lock: FolderLock,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  /** Nobody adds anything yet: what a server that was ended from outside left half done is cleared away. */
  async onApplicationBootstrap(): Promise<void> {
    await rm(places.incoming(this.settings), { recursive: true, force: true });
    await removeUnfinished(backupsFolder(this.settings.dataFolder));
    for (const id of await namesIn(places.allMedia(this.settings))) await removeUnfinished(places.media(this.settings, id));
    const { folders, rows } = await this.leftOver();
    if (folders.length + rows.length > 0) this.logger.warn(`removing ${folders.length + rows.length} files that were left over`);
    await this.removeMedia(folders, rows).catch((error: unknown) => this.logger.error(`they stay for now: ${String(error)}`));
    await this.lock.cleared();
  }

  async usage(): Promise<StorageReply> {
    const { dataFolder } = this.settings;
    const disk = await statfs(dataFolder);
    const { folders } = await this.unneeded();
    const [originals, made, unneeded]: [Stats[], Stats[], Stats[]] = [[], [], []];
    for (const id of await namesIn(places.allMedia(this.settings))) {
      const ofThis = await filesOf(this.madeOf(id));
      const all = await filesOf([places.media(this.settings, id)]);
      const known = new Set(ofThis.map(identity));
      made.push(...ofThis);
      originals.push(...all.filter((f) => !known.has(identity(f))));
      if (folders.includes(id)) unneeded.push(...all);
    }
    const binned = (await this.store.projects()).filter((p) => p.deletedAt !== null);
    return {
      free: disk.bsize * disk.bavail,
      media: sizeOf(originals),
      proxies: sizeOf(made),
      unneeded: sizeOf(wholeOf(unneeded)),
      parts: await cacheState(places.cache(this.settings)),
      uploads: sizeOf(await filesOf([places.uploads(this.settings)])),
      backups: sizeOf(await filesOf([backupsFolder(dataFolder)])),
      renders: sizeOf(await filesOf(this.settings.renderFolders.map((f) => f.path))),
      database: sizeOf(await filesOf(['', '-wal', '-shm'].map((ending) => join(dataFolder, `thawline.sqlite${ending}`)))),
      bin: binned.map(({ id, name, deletedAt }) => ({ id, name, deletedAt: deletedAt ?? '' })),
    };
  }

  /** Deletes files of one kind that can be made again or are unused. */
  async free(kind: FreeKind): Promise<StorageReply> {
    if (kind === 'parts') await trimCache(places.cache(this.settings), 0);
    if (kind === 'proxies') {
      for (const id of await namesIn(places.allMedia(this.settings)))
        for (const path of this.madeOf(id)) await rm(path, { force: true });
      this.pictures.forgetProxies();
    }
    if (kind === 'bin') {
      const before = await this.unneeded();
      const binned = (await this.store.projects()).filter((p) => p.deletedAt !== null);
      await this.store.removeBinned(binned.map((p) => p.id));
      // Only files that these projects alone used; files already unused are freed separately.
      const { folders, rows } = await this.unneeded();
      await this.removeMedia(
        folders.filter((id) => !before.folders.includes(id)),
        rows.filter((id) => !before.rows.includes(id)),
      );
    }
    if (kind === 'unneeded') {
      const { folders, rows } = await this.unneeded();
      await this.removeMedia(folders, rows);
    }
    return this.usage();
  }

  /** Files made of a source: pictures to look at and the waveform. */
  private madeOf(id: string): string[] {
    const folder = places.media(this.settings, id);
    const { pictures, offsets, thumbs } = proxyFiles(folder);
    return [pictures, offsets, thumbs, waveFile(folder)];
  }

  /** Media that neither a project, nor its history, nor a job speaks of; what is being added this moment is not among them. */
  private async unneeded(): Promise<{ folders: string[]; rows: string[] }> {
    // A project that cannot be read may need any of them, once it is brought back.
    if ((await this.store.projects()).some((p) => p.document === null)) return { folders: [], rows: [] };
    const needed = new Set([...(await this.store.mediaInUse()), ...this.media.beingAdded()]);
    const rows = (await this.store.allMedia()).map((m) => m.id);
    const folders = await namesIn(places.allMedia(this.settings));
    return { folders: folders.filter((id) => !needed.has(id)), rows: rows.filter((id) => !needed.has(id)) };
  }

  /**
   * Of what nobody needs: what the server that was ended from outside made, and rows without a copy. All else stays until a person frees it:
   * after an older backup took the database's place, files that were added since are nobody's, and no less worth.
   */
  private async leftOver(): Promise<{ folders: string[]; rows: string[] }> {
    const { folders, rows } = await this.unneeded();
    const copies = new Set((await this.store.allMedia()).filter((m) => m.path === null).map((m) => m.id));
    const half: string[] = [];
    for (const id of folders)
      if ((await stat(places.media(this.settings, id))).mtimeMs >= this.lock.uncleanSinceMs) half.push(id);
    const gone = rows.filter((id) => half.includes(id) || !folders.includes(id) || !copies.has(id));
    return { folders: folders.filter((id) => half.includes(id) || gone.includes(id)), rows: gone };
  }

  private async removeMedia(folders: readonly string[], rows: readonly string[]): Promise<void> {
    // Rows first: a row without its file would be reported as a missing file.
    if (rows.length > 0) await this.store.removeMedia(rows);
    for (const id of folders) await rm(places.media(this.settings, id), { recursive: true, force: true });
  }
}

async function namesIn(folder: string): Promise<string[]> {
  return readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
}

/** The files at these paths, folders with all that is in them; links that only point are left out. */
async function filesOf(paths: readonly string[]): Promise<Stats[]> {
  const found: Stats[] = [];
  for (const path of paths) {
    const entries = await readdir(path, { withFileTypes: true, recursive: true }).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return null;
      throw error;
    });
    const files = entries?.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name)) ?? [path];
    for (const file of files) {
      // One that vanished meanwhile takes no room.
      const stats = await statIfThere(file);
      if (stats?.isFile()) found.push(stats);
    }
  }
  return found;
}

/** What tells files apart, whatever they are called: folders may lie on several disks, each counting for itself. */
const identity = ({ dev, ino }: Stats): string => `${dev} ${ino}`;

/** Bytes and number of files; one with several names takes its room once. */
function sizeOf(files: readonly Stats[]): { bytes: number; files: number } {
  const once = [...new Map(files.map((f) => [identity(f), f])).values()];
  return { bytes: once.reduce((sum, f) => sum + f.size, 0), files: once.length };
}

/** Files all of whose names are among these: the room of the others stays taken when these go. */
function wholeOf(files: readonly Stats[]): Stats[] {
  const names = new Map<string, number>();
  for (const f of files) names.set(identity(f), (names.get(identity(f)) ?? 0) + 1);
  return files.filter((f) => names.get(identity(f)) === f.nlink);
}
