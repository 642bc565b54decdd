import { createHash } from 'node:crypto';
import type { Stats } from 'node:fs';
import { copyFile, link, lstat, mkdir, rename, rm, stat, symlink } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { Inject, Injectable, Logger } from '@nestjs/common';
import type { FileState } from '@thawline/contract';
import type { FieldRun } from '@thawline/core/fields';
import type { Rate } from '@thawline/core/time';
import { type Media, type Probe, probeWithFields, seriesName, seriesPattern, statIfThere } from '@thawline/media';
import { proxyFiles, syncToDisk, syncTree } from '@thawline/work';
import { Store, type StoredMedia } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { MEDIA } from '../ports.js';
import { newId, now } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { fingerprintOf, fingerprintOfSeries } from './fingerprint.js';
import { FoldersService } from './folders.service.js';

/** The files behind sources: copies of ours or files in place, single ones or numbered series. They are only ever read. */
@Injectable()
export class MediaService {
  private readonly logger = new Logger('media');
  /** Files whose project does not speak of them yet: they are not unneeded. */
  private readonly adding = new Set<string>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(FoldersService) private readonly folders: FoldersService,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(MEDIA) private readonly port: Media,
  ) {}

  async media(id: string): Promise<StoredMedia> {
    const media = await this.store.media(id);
    if (!media) throw new Failure('unknown-media', { id }, 'There is no such file.');
    return media;
  }

  /** What the media port is given. Rejects when the file is gone or is another one now. */
  async open(id: string): Promise<{ path: string; probe: Probe }> {
    const media = await this.media(id);
    const { state, sentence } = await this.state(media);
    if (state !== 'here')
      throw new Failure(state === 'missing' ? 'file-missing' : 'file-changed', { file: media.name }, sentence ?? '');
    return { path: this.pathOf(media), probe: media.probe };
  }

  /** Takes a single file: moves it into the data folder, or uses it in place. */
  async take(file: { name: string; path: string; inPlace: boolean }, known: KnownFiles): Promise<StoredMedia> {
    // A file that is gone or cannot be opened has no contents to know again: the probe says which.
    const fingerprint = await fingerprintOf(file.path).catch(() => null);
    return once(fingerprint, file.name, known, async () => {
      const probe = await this.port.probe(file.path);
      const { size, mtimeMs } = await stat(file.path);
      // FFmpeg looks at contents; the ending only helps people who look into the folder.
      const ending = extname(file.name).toLowerCase();
      const fileName = `original${/^\.[a-z0-9]{1,5}$/.test(ending) ? ending : ''}`;
      const place = file.inPlace ? { path: file.path, modifiedMs: mtimeMs } : { path: null, modifiedMs: null };
      return this.keep({ name: file.name, fileName, bytes: size, fingerprint, series: null, ...place }, async (folder) => {
        if (!file.inPlace) await rename(file.path, join(folder, fileName));
        return probe;
      });
    });
  }

  /** Takes numbered pictures as one clip at the rate asked for. In place they are linked to, so that their own numbers do not matter. */
  async takeSeries(
    series: { name: string; ending: string; paths: readonly string[]; names: readonly string[]; inPlace: boolean },
    rate: Rate,
    known: KnownFiles,
  ): Promise<StoredMedia> {
    const { fingerprint, bytes, modifiedMs } = await fingerprintOfSeries(series.paths);
    const place = series.inPlace ? { path: dirname(series.paths[0] as string), modifiedMs } : { path: null, modifiedMs: null };
    const row = { name: series.name, fileName: 'pictures', bytes, fingerprint, ...place };
    return once(fingerprint, series.name, known, () =>
      this.keep({ ...row, series: { ending: series.ending, names: series.names } }, async (folder) => {
        const pictures = join(folder, 'pictures');
        await mkdir(pictures);
        for (const [k, path] of series.paths.entries()) {
          const own = join(pictures, seriesName(k, series.ending));
          await (series.inPlace ? symlink(path, own) : rename(path, own));
        }
        return this.port.probeSeries(seriesPattern(pictures, series.ending), { pictures: series.paths.length, rate });
      }),
    );
  }

  /**
   * A file with its fields read in runs, as media of its own: its pictures, what is made of them and what is found of them are others. It shares the
   * file, and the same runs give the same media.
   */
  async readFields(id: string, runs: readonly FieldRun[]): Promise<StoredMedia> {
    const stored = await this.media(id);
    const own = createHash('sha256')
      .update(JSON.stringify([id, runs]))
      .digest('hex')
      .slice(0, 16);
    this.adding.add(own);
    const known = await this.store.media(own);
    if (known) return known;
    let probe: Probe;
    try {
      probe = probeWithFields(stored.probe, runs);
    } catch (error) {
      this.adding.delete(own);
      if (!(error instanceof RangeError)) throw error;
      throw new Failure('fields-end', { source: stored.name, pictures: stored.probe.pictures });
    }
    const { name, fileName, bytes, fingerprint, path, modifiedMs, series } = stored;
    return this.keep(
      { name, fileName, bytes, fingerprint, path, modifiedMs, series },
      async (folder) => {
        if (path === null) await sameFile(this.pathOf(stored), join(folder, fileName));
        return probe;
      },
      own,
    );
  }

  /** How the file stands now. One that was only touched is taken for the same. */
  async state(media: StoredMedia): Promise<FileState> {
    const proxy = (await statIfThere(proxyFiles(places.media(this.settings, media.id)).offsets)) !== null;
    const reply = (state: FileState['state'], sentence: string | null): FileState => ({
      mediaId: media.id,
      state,
      proxy,
      path: media.path,
      sentence,
    });
    const where = media.path ?? 'the data folder';
    if (media.path !== null && (await this.folders.stillInside(media.path)) === false)
      return reply(
        'missing',
        `${media.name} lies at ${where}, outside the media folders that this server is given now (THAWLINE_MEDIA).`,
      );
    const now = await this.look(media).catch(() => null);
    if (!now) return reply('missing', `${media.name} is no longer at ${where}. Find it again, or put it back.`);
    if (media.path === null || (now.bytes === media.bytes && now.modifiedMs === media.modifiedMs)) return reply('here', null);
    const same = now.bytes === media.bytes && (await this.fingerprint(media)) === media.fingerprint;
    if (same) {
      await this.store.moveMedia(media.id, { path: media.path, modifiedMs: now.modifiedMs });
      return reply('here', null);
    }
    return reply('changed', `${media.name} was changed after it was added: its pictures may no longer be those told of here.`);
  }

  /** Looks for a file that moved: at a path in the media folders, or anywhere in them. Only the very same contents will do. */
  async find(id: string, shown: string | null): Promise<FileState> {
    const media = await this.media(id);
    if (shown === null && (await this.state(media)).state === 'here') return this.state(media);
    const found = media.series ? await this.findSeries(media, shown) : await this.findFile(media, shown);
    await this.store.moveMedia(id, found);
    return this.state(await this.media(id));
  }

  /** A file is on its way to a project. */
  adds(id: string): void {
    this.adding.add(id);
  }

  beingAdded(): string[] {
    return [...this.adding];
  }

  /** A project speaks of these files now. */
  added(ids: readonly string[]): void {
    for (const id of ids) this.adding.delete(id);
  }

  /** Takes a file out again that did not get into a project. What cannot be removed now is cleared at the next start. */
  async forget(id: string): Promise<void> {
    this.adding.delete(id);
    await this.store.removeMedia([id]).catch((error: unknown) => this.logger.warn(`media ${id} stays for now: ${String(error)}`));
    await rm(places.media(this.settings, id), { recursive: true, force: true });
  }

  private async findFile(media: StoredMedia, shown: string | null): Promise<{ path: string; modifiedMs: number }> {
    if (media.path === null)
      throw new Failure('not-found-again', {}, `${media.name} was a copy in the data folder, which is gone. Add the file anew.`);
    const candidates = shown === null ? await this.folders.ofSize(media.bytes) : [await this.folders.real(shown)];
    for (const path of candidates) {
      const file = await stat(path);
      if (file.isFile() && (await fingerprintOf(path)) === media.fingerprint) return { path, modifiedMs: file.mtimeMs };
    }
    if (shown === null) throw new Failure('not-found-again', {}, `No file in the media folders is ${media.name}.`);
    throw new Failure(
      'another-file',
      {},
      `${basename(shown)} is not the file that ${media.name} was: size or contents differ. Add it as a source of its own.`,
    );
  }

  private async findSeries(media: StoredMedia, shown: string | null): Promise<{ path: string; modifiedMs: number }> {
    const names = media.series?.names ?? [];
    if (shown === null)
      throw new Failure('not-found-again', {}, `${media.name} is ${names.length} pictures. Say the folder they lie in now.`);
    const real = await this.folders.real(shown);
    const folder = (await stat(real)).isDirectory() ? real : dirname(real);
    const paths = names.map((name) => join(folder, name));
    const now = await fingerprintOfSeries(paths).catch(() => null);
    if (now?.fingerprint !== media.fingerprint)
      throw new Failure(
        'another-file',
        {},
        `${shown} does not hold the ${names.length} pictures of ${media.name}, or they were changed.`,
      );
    const own = join(places.media(this.settings, media.id), 'pictures');
    await rm(own, { recursive: true, force: true });
    await mkdir(own);
    for (const [k, path] of paths.entries()) await symlink(path, join(own, seriesName(k, media.series?.ending ?? '')));
    return { path: folder, modifiedMs: now.modifiedMs };
  }

  private pathOf(media: StoredMedia): string {
    const folder = places.media(this.settings, media.id);
    if (media.series) return seriesPattern(join(folder, 'pictures'), media.series.ending);
    return media.path ?? join(folder, media.fileName);
  }

  private originals(media: StoredMedia): string[] {
    const folder = places.media(this.settings, media.id);
    if (!media.series) return [this.pathOf(media)];
    const { names, ending } = media.series;
    return names.map((name, k) => (media.path ? join(media.path, name) : join(folder, 'pictures', seriesName(k, ending))));
  }

  private async look(media: StoredMedia): Promise<{ bytes: number; modifiedMs: number }> {
    const files = await Promise.all(this.originals(media).map((path) => this.lookAt(media, path)));
    return {
      bytes: files.reduce((sum, f) => sum + f.size, 0),
      modifiedMs: files.reduce((latest, f) => Math.max(latest, f.mtimeMs), 0),
    };
  }

  /** Throws where it is not there, is no file, or (of a file in place) a link that leads out of the media folders. */
  private async lookAt(media: StoredMedia, path: string): Promise<Stats> {
    const link = media.path !== null && (await lstat(path)).isSymbolicLink();
    const file = await stat(path);
    if (!file.isFile() || (link && !(await this.folders.stillInside(path)))) throw new Error(`${path} is not to be opened`);
    return file;
  }

  private async fingerprint(media: StoredMedia): Promise<string> {
    const paths = this.originals(media);
    return media.series ? (await fingerprintOfSeries(paths)).fingerprint : fingerprintOf(paths[0] as string);
  }

  /** Makes the file's folder, fills it, and only then writes its row; a failure removes everything. */
  private async keep(
    row: Omit<StoredMedia, 'id' | 'probe'>,
    fill: (folder: string) => Promise<Probe>,
    id = newId(),
  ): Promise<StoredMedia> {
    this.adding.add(id);
    const folder = places.media(this.settings, id);
    await mkdir(folder, { recursive: true });
    try {
      const media = { ...row, id, probe: await fill(folder) };
      // On the disk before its row: what the database speaks of is there after a power cut.
      await syncTree(folder);
      await syncToDisk(dirname(folder));
      await this.store.addMedia(media, now());
      return media;
    } catch (error) {
      this.adding.delete(id);
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }
}

/** The same file under a second name: no byte of it twice, where the disk's format allows that. */
async function sameFile(path: string, to: string): Promise<void> {
  await link(path, to).catch(async (error: NodeJS.ErrnoException) => {
    if (error.code !== 'EPERM' && error.code !== 'ENOTSUP' && error.code !== 'EMLINK' && error.code !== 'EXDEV') throw error;
    await copyFile(path, to);
  });
}

/** Takes a file unless one of the same contents is here already. */
async function once<T>(fingerprint: string | null, name: string, known: KnownFiles, take: () => Promise<T>): Promise<T> {
  if (fingerprint === null) return take();
  const as = known.get(fingerprint);
  if (as !== undefined) {
    const also = as === name ? '' : ` as ${as}`;
    throw new Failure('already-here', { name: as }, `${name} is already here${also}. It was not added again.`);
  }
  known.set(fingerprint, name);
  try {
    return await take();
  } catch (error) {
    known.delete(fingerprint);
    throw error;
  }
}

/** Names of the files that a project has already, by fingerprint. */
export type KnownFiles = Map<string, string>;
