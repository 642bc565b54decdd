import { createWriteStream } from 'node:fs';
import { mkdir, readdir, realpath, rm, stat, statfs } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Inject, Injectable } from '@nestjs/common';
import type { ImportedReply } from '@thawline/contract';
import type { Media } from '@thawline/media';
import { DOCUMENT_FORMAT } from '@thawline/project';
import { ZipFile } from 'yazl';
import { Store, type StoredMedia } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { StartsService } from '../jobs/starts.service.js';
import { MEDIA } from '../ports.js';
import { newId, now } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';
import { UploadsService } from '../uploads/uploads.service.js';
import { ImportedProject } from './importedProject.js';

/** Room that stays on the disk when files are unpacked. */
const RESERVE_BYTES = 200_000_000;

/** A project as one file: out, and in again here or on another machine. */
@Injectable()
export class PortableService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(UploadsService) private readonly uploads: UploadsService,
    @Inject(StartsService) private readonly starts: StartsService,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(MEDIA) private readonly port: Media,
  ) {}

  /** What of a project's files cannot be put into it, a sentence each. */
  async losses(projectId: string, withMedia: boolean): Promise<string[]> {
    const archive = await this.archive(projectId);
    if (!withMedia) {
      const count = archive.media.length;
      return count === 0
        ? []
        : [`The files of ${count === 1 ? 'one source' : `${count} sources`} stay here: they have to be found again.`];
    }
    const told: string[] = [];
    for (const one of await this.store.mediaOf(archive.media.map((m) => m.id))) {
      const { state, sentence } = await this.media.state(one);
      if (state !== 'here') told.push(sentence ?? `${one.name} is not here.`);
    }
    return told;
  }

  /** The project as a zip, made as it is read. Media are stored as they are; they are compressed already. */
  async export(projectId: string, withMedia: boolean): Promise<{ name: string; stream: Readable }> {
    const archive = await this.archive(projectId);
    const rows = await this.store.mediaOf(archive.media.map((m) => m.id));
    const zip = new ZipFile();
    const put = (name: string, value: unknown): void => zip.addBuffer(Buffer.from(JSON.stringify(value)), name);
    const { document, version, createdAt, changedAt, format } = archive;
    const { name } = document;
    put('thawline.json', { kind: 'thawline-project', layout: 1, format, name, madeAt: now(), program: '0.1.0' });
    put('project.json', { document, version, createdAt, changedAt });
    put('history.json', archive.revisions);
    put('jobs.json', archive.jobs);
    const media: unknown[] = [];
    const files: { path: string; name: string }[] = [];
    for (const row of rows) {
      const own = withMedia ? await this.filesOf(row) : null;
      files.push(...(own ?? []));
      const fileName = row.series ? 'pictures' : row.fileName;
      const { id, name: called, bytes, probe, fingerprint, series } = row;
      media.push({ id, name: called, fileName, bytes, probe, fingerprint, series, included: own !== null });
    }
    put('media.json', media);
    for (const file of files) zip.addFile(file.path, file.name, { compress: false });
    zip.end();
    const stem =
      name
        .replace(/[^\p{L}\p{N} ._-]+/gu, '')
        .trim()
        .slice(0, 80) || 'project';
    return { name: `${stem}.thawline.zip`, stream: zip.outputStream as Readable };
  }

  async importUpload(upload: string): Promise<ImportedReply> {
    const [file] = await this.uploads.files([upload]);
    if (!file) throw new Failure('unknown-upload');
    try {
      const imported = await this.importFile(file.path);
      await this.uploads.remove([upload]);
      return imported;
    } finally {
      await rm(file.path, { force: true });
    }
  }

  async importStream(body: Readable): Promise<ImportedReply> {
    await mkdir(places.incoming(this.settings), { recursive: true });
    const path = join(places.incoming(this.settings), newId());
    try {
      await pipeline(body, createWriteStream(path));
      return await this.importFile(path);
    } finally {
      await rm(path, { force: true });
    }
  }

  /** Takes a project file in as a new project beside those that are there; nothing of it stays where it is refused. */
  private async importFile(path: string): Promise<ImportedReply> {
    const imported = await ImportedProject.open(path);
    const folders: string[] = [];
    const ids: string[] = [];
    try {
      const { bsize, bavail } = await statfs(this.settings.dataFolder);
      if (imported.mediaBytes > bsize * bavail - RESERVE_BYTES) throw new Failure('disk-full');
      for (const media of imported.media) {
        const [known] = await this.store.mediaOf([media.id]);
        // The very same file is here already, from this project or a copy of it.
        if (known && known.fingerprint !== null && known.fingerprint === media.fingerprint) continue;
        const id = newId();
        ids.push(id);
        this.media.adds(id);
        imported.rename(media.id, id);
        if (!media.included) continue;
        const folder = places.media(this.settings, id);
        folders.push(folder);
        await imported.extract(media, folder, this.port);
      }
      const { archive, notes } = await imported.archive(this.settings.renderFolders[0]?.path ?? this.settings.dataFolder);
      const options = { id: newId(), name: archive.document.name, at: now(), newId };
      await this.store.addArchives([{ archive, options }]);
      const here = new Set(folders.map((folder) => basename(folder)));
      const sourceIds = archive.document.sources.filter((s) => here.has(s.mediaId)).map((s) => s.id);
      await this.starts.start(options.id, { kind: 'proxy', sourceIds });
      return { id: options.id, name: options.name, notes };
    } catch (error) {
      for (const folder of folders) await rm(folder, { recursive: true, force: true });
      throw error;
    } finally {
      this.media.added(ids);
      imported.close();
    }
  }

  private async archive(projectId: string) {
    // Tells a project that is not there from one that is damaged.
    if (!(await this.store.project(projectId))) throw new Failure('unknown-project', { id: projectId });
    const archive = await this.store.archive(projectId);
    if (!archive) throw new Failure('unknown-project', { id: projectId });
    // What a project holds in the database was brought to this program's format when it was opened.
    return { ...archive, format: DOCUMENT_FORMAT };
  }

  /** The files of a media row with their names in the zip; null where they are not here as they were added. */
  private async filesOf(row: StoredMedia): Promise<{ path: string; name: string }[] | null> {
    if ((await this.media.state(row)).state !== 'here') return null;
    const folder = places.media(this.settings, row.id);
    if (!row.series) {
      const path = await realpath(row.path ?? join(folder, row.fileName));
      return [{ path, name: `media/${row.id}/${row.fileName}` }];
    }
    const pictures = join(folder, 'pictures');
    const found: { path: string; name: string }[] = [];
    for (const name of await readdir(pictures)) {
      const path = await realpath(join(pictures, name));
      if ((await stat(path)).isFile()) found.push({ path, name: `media/${row.id}/pictures/${name}` });
    }
    return found;
  }
}
