import { copyFile, mkdir, rename, rm, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { ffmpeg, MediaError, type Probe, sentence } from '@thawline/media';
import { type Source, sourceSchema } from '@thawline/project';
import type { Request } from 'express';
import { Store, type StoredMedia } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { JobsService } from '../jobs/jobs.service.js';
import { newId, now, ProjectsService } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { nameTrouble, receiveFiles } from './receive.js';

export interface Added {
  readonly added: Source[];
  readonly refused: { file: string; code: string; message: string }[];
}

@Injectable()
export class SourcesService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  /** Takes uploaded files: each is probed, what cannot be used is refused with a sentence and removed, the rest is one step to undo. */
  async upload(project: string, request: Request): Promise<Added> {
    await this.projects.document(project);
    const received = await receiveFiles(request, places.incoming(this.settings), newId);
    if (received.length === 0) throw new Failure('no-file', {}, 'No file came with the request.');
    return this.take(project, received);
  }

  /** Copies files that lie on this machine into the project, as an upload would. The originals are only read. */
  async addFrom(project: string, paths: readonly string[]): Promise<Added> {
    const folder = places.incoming(this.settings);
    await mkdir(folder, { recursive: true });
    const copies = await Promise.all(
      paths.map(async (path) => {
        const copy = join(folder, newId());
        await copyFile(path, copy);
        return { name: basename(path), path: copy, bytes: (await stat(copy)).size };
      }),
    );
    return this.take(project, copies);
  }

  async media(id: string): Promise<StoredMedia> {
    const media = await this.store.media(id);
    if (!media) throw new Failure('unknown-media', { id }, 'There is no such file.');
    return media;
  }

  private async take(project: string, files: readonly { name: string; path: string; bytes: number }[]): Promise<Added> {
    const added: Source[] = [];
    const refused: Added['refused'] = [];
    for (const file of files) {
      try {
        added.push(await this.keep(file));
      } catch (error) {
        await rm(file.path, { force: true });
        if (!(error instanceof MediaError || error instanceof Failure)) throw error;
        const message = error instanceof MediaError ? sentence(error.code, file.name, error.detail) : error.message;
        refused.push({ file: file.name.slice(0, 80), code: error.code, message });
      }
    }
    if (added.length > 0) {
      await this.projects.command(project, { type: 'addSources', sources: added });
      for (const source of added) await this.jobs.startProxy(project, source);
    }
    return { added, refused };
  }

  private async keep(file: { name: string; path: string; bytes: number }): Promise<Source> {
    const trouble = nameTrouble(file.name);
    if (trouble) throw new Failure('bad-name', {}, trouble);
    const probe = await ffmpeg.probe(file.path);
    const mediaId = newId();
    // FFmpeg looks at contents; the ending only helps people who look into the folder.
    const ending = extname(file.name).toLowerCase();
    const fileName = `original${/^\.[a-z0-9]{1,5}$/.test(ending) ? ending : ''}`;
    const folder = places.media(this.settings, mediaId);
    await mkdir(folder, { recursive: true });
    try {
      await rename(file.path, join(folder, fileName));
      const source = sourceSchema.parse(asSource(newId(), mediaId, file.name, probe));
      await this.store.addMedia({ id: mediaId, name: file.name, fileName, bytes: file.bytes, probe }, now());
      return source;
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }
}

/** What of a probe the project's document holds. */
function asSource(id: string, mediaId: string, fileName: string, probe: Probe): Source {
  return {
    id,
    mediaId,
    name: basename(fileName, extname(fileName)) || fileName,
    pictures: probe.pictures,
    stored: probe.stored,
    measured: probe.measured,
    variable: probe.variable,
    seconds: probe.seconds,
    width: Math.max(1, Math.round(probe.width * probe.sampleAspect)),
    height: probe.height,
    codec: probe.codec,
    pixelFormat: probe.pixelFormat,
    fields: probe.fields,
    sound: probe.sound,
  };
}
