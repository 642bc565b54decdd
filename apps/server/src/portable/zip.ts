import { createWriteStream } from 'node:fs';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type Entry, openPromise, type ZipFile } from 'yauzl';
import { Failure } from '../http/failure.js';

/** A project file's zip, read as what it is: something that anybody may have made. */
export class ProjectZip {
  private constructor(
    private readonly zip: ZipFile,
    readonly entries: ReadonlyMap<string, Entry>,
  ) {}

  /**
   * Reads the list of what is in it; the caller closes it.
   * @param known names that may be in it; anything else is refused, paths that lead elsewhere with it
   */
  static async open(path: string, known: RegExp, mostEntries: number): Promise<ProjectZip> {
    const zip = await openPromise(path, {
      lazyEntries: true,
      autoClose: false,
      strictFileNames: true,
      validateEntrySizes: true,
    }).catch((error: Error) => {
      throw notOne(error.message);
    });
    try {
      if (zip.entryCount > mostEntries) throw notOne(`it holds ${zip.entryCount} entries`);
      const entries = new Map<string, Entry>();
      for await (const entry of zip.eachEntry()) {
        const { fileName } = entry;
        if (!known.test(fileName)) throw notOne(`"${fileName.slice(0, 80)}" has no place in it`);
        if (entries.has(fileName)) throw notOne(`"${fileName.slice(0, 80)}" is in it twice`);
        if (entry.isEncrypted()) throw notOne('it is encrypted');
        entries.set(fileName, entry);
      }
      return new ProjectZip(zip, entries);
    } catch (error) {
      zip.close();
      throw error instanceof Failure ? error : notOne((error as Error).message);
    }
  }

  close(): void {
    this.zip.close();
  }

  /** An entry's JSON; undefined where there is no such entry. It never unpacks to more than it says, nor to more than `most` bytes. */
  async json(name: string, most: number): Promise<unknown> {
    const entry = this.entries.get(name);
    if (!entry) return undefined;
    if (entry.uncompressedSize > most) throw notOne(`${name} has ${entry.uncompressedSize} bytes`);
    const chunks: Buffer[] = [];
    try {
      for await (const chunk of await this.stream(entry)) chunks.push(chunk as Buffer);
      return JSON.parse(Buffer.concat(chunks).toString('utf8')) as unknown;
    } catch (error) {
      throw error instanceof Failure ? error : notOne(`${name} cannot be read: ${(error as Error).message.slice(0, 100)}`);
    }
  }

  async extract(name: string, path: string): Promise<void> {
    const entry = this.entries.get(name);
    if (!entry) throw notOne(`${name} is missing`);
    try {
      await pipeline(await this.stream(entry), createWriteStream(path));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'ENOSPC' || code === 'EIO' || code === 'EFBIG') throw error;
      throw notOne(`${name} is damaged: ${(error as Error).message.slice(0, 100)}`);
    }
  }

  private stream(entry: Entry): Promise<Readable> {
    return this.zip.openReadStreamPromise(entry);
  }
}

export function notOne(reason: string): Failure {
  return new Failure('not-a-project', { reason });
}
