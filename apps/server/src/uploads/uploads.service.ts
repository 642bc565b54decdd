import { copyFile, link, mkdir, readdir, rm, stat, statfs } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { statIfThere } from '@thawline/media';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import { errorReply, Failure, STATUS } from '../http/failure.js';
import { newId } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { nameTrouble, type Received } from '../sources/receive.js';

/** Where uploads by the tus protocol 1.0 go (https://tus.io/protocols/resumable-upload). */
export const UPLOADS_PATH = '/api/uploads';

/** Age after which an unfinished upload is removed at the next start. */
const FORGOTTEN_AFTER_MS = 7 * 24 * 3600 * 1000;

/** So much room stays for what else the server writes. */
const RESERVE_BYTES = 200_000_000;

/** Uploads that may be cut off, paused, and go on: also in another window, after a restart, and for as long as they take. */
@Injectable()
export class UploadsService implements OnApplicationBootstrap {
  private readonly tus: TusServer;
  private readonly folder: string;

  constructor(@Inject(SETTINGS) private readonly settings: Settings) {
    this.folder = places.uploads(settings);
    this.tus = new TusServer({
      path: UPLOADS_PATH,
      relativeLocation: true,
      // The upload server answers every origin by default; only our own page may upload.
      allowedOrigins: () => false,
      datastore: new FileStore({ directory: this.folder }),
      namingFunction: () => newId(),
      onUploadCreate: async (_request, upload) => {
        await this.mayBegin(upload.size ?? null, upload.metadata?.filename ?? '').catch(asTusError);
        return {};
      },
    });
  }

  /** Uploads of before go on; forgotten ones, and what has no record, are removed. */
  async onApplicationBootstrap(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    for (const name of await readdir(this.folder)) {
      const path = join(this.folder, name);
      const { mtimeMs } = await stat(path);
      const alone = name.endsWith('.json') ? path.slice(0, -'.json'.length) : `${path}.json`;
      const whole = await statIfThere(alone);
      if (!whole || Date.now() - Math.max(mtimeMs, whole.mtimeMs) > FORGOTTEN_AFTER_MS) await rm(path, { force: true });
    }
  }

  /** Answers a request of the protocol. */
  handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    return this.tus.handle(request, response);
  }

  /**
   * Finished uploads, each as a file of its own with the name that it came with. The uploads stay until they are `remove`d: where what is
   * made of them cannot be stored, nobody has to send them again. All are there, or none is given.
   */
  async files(ids: readonly string[]): Promise<Received[]> {
    const found = await Promise.all(
      ids.map(async (id) => {
        const upload = await this.tus.datastore.getUpload(id).catch(() => null);
        const file = await statIfThere(join(this.folder, id));
        if (!upload || !file) throw new Failure('unknown-upload');
        if (file.size !== upload.size) throw new Failure('not-finished', {}, 'This upload has not come to its end yet.');
        return { id, name: upload.metadata?.filename ?? '', bytes: file.size };
      }),
    );
    const incoming = places.incoming(this.settings);
    await mkdir(incoming, { recursive: true });
    const taken: Received[] = [];
    for (const { id, name, bytes } of found) {
      const path = join(incoming, newId());
      // A second name of the same file, where the disk has such a thing.
      await link(join(this.folder, id), path).catch(() => copyFile(join(this.folder, id), path));
      taken.push({ name, path, bytes });
    }
    return taken;
  }

  /** Removes uploads that are no longer needed. */
  async remove(ids: readonly string[]): Promise<void> {
    for (const id of ids) for (const name of [id, `${id}.json`]) await rm(join(this.folder, name), { force: true });
  }

  /** Refuses a file before the first byte of it comes: of a name that is not taken, of unknown size, or larger than what is left. */
  private async mayBegin(bytes: number | null, name: string): Promise<void> {
    const trouble = nameTrouble(name);
    if (trouble) throw new Failure('bad-name', {}, trouble);
    if (bytes === null) throw new Failure('bad-request', {}, 'An upload has to say how many bytes it has.');
    const { bsize, bavail } = await statfs(this.folder);
    const left = bsize * bavail - RESERVE_BYTES - (await this.stillToCome());
    if (bytes > left)
      throw new Failure(
        'disk-full',
        { bytes, left: Math.max(0, left) },
        `${name} has ${inGigabytes(bytes)}; ${inGigabytes(Math.max(0, left))} are left on the server's disk. Make room, or use the file where it lies (THAWLINE_MEDIA).`,
      );
  }

  /** Bytes that uploads under way have not brought yet. */
  private async stillToCome(): Promise<number> {
    let sum = 0;
    for (const name of await readdir(this.folder)) {
      if (name.endsWith('.json')) continue;
      // One that ended meanwhile brings nothing more.
      const upload = await this.tus.datastore.getUpload(name).catch(() => null);
      sum += upload ? (upload.size ?? 0) - upload.offset : 0;
    }
    return sum;
  }
}

function asTusError(error: unknown): never {
  if (!(error instanceof Failure)) throw error;
  // The protocol's own server reads these two names.
  throw { status_code: STATUS[error.code], body: JSON.stringify(errorReply(error)) };
}

function inGigabytes(bytes: number): string {
  return `${(bytes / 1e9).toFixed(bytes < 1e8 ? 3 : 1)} GB`;
}
