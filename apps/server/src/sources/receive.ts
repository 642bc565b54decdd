import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import { asStoreError } from '../database/storeError.js';
import { Failure } from '../http/failure.js';

/** A file on disk under a name of ours, with the name it came with. */
export interface Received {
  readonly name: string;
  readonly path: string;
  readonly bytes: number;
}

/** Streams every file of a multipart request to a folder, one after the other; nothing is held in memory. */
export async function receiveFiles(request: IncomingMessage, folder: string, newId: () => string): Promise<Received[]> {
  await mkdir(folder, { recursive: true });
  let parser: ReturnType<typeof busboy>;
  try {
    // Names as they come: a path in one is refused, not quietly shortened. Latin-1 would spoil every other alphabet.
    parser = busboy({ headers: request.headers, preservePath: true, defParamCharset: 'utf8' });
  } catch {
    throw new Failure('bad-request', {}, 'Files are sent as multipart/form-data.');
  }
  const started: Promise<Received>[] = [];
  const paths: string[] = [];
  parser.on('file', (_field, stream, info) => {
    const path = join(folder, newId());
    paths.push(path);
    const writing = writeTo(path, stream, info.filename ?? '');
    // Looked at together below; an early failure must not count as unhandled.
    writing.catch(() => undefined);
    started.push(writing);
  });
  try {
    await pipeline(request, parser);
    return await Promise.all(started);
  } catch (error) {
    const writes = await Promise.allSettled(started);
    await Promise.all(paths.map((path) => rm(path, { force: true })));
    const store = asStoreError(error);
    if (store) throw store;
    if (error instanceof Failure) throw error;
    // A failed write is the server's fault, not the sender's: log it and report it as such.
    const failed = writes.find((w) => w.status === 'rejected' && isSystemError(w.reason));
    if (failed?.status === 'rejected') throw failed.reason;
    throw new Failure('bad-request', {}, 'The upload broke off; nothing of it was kept.');
  }
}

/**
 * Writes one part to disk. When that fails the rest of the part is read and dropped: a parser whose part nobody reads would
 * wait for ever, and the client would never be told.
 */
function writeTo(path: string, part: Readable, name: string): Promise<Received> {
  return new Promise((resolve, reject) => {
    const target = createWriteStream(path);
    target.once('finish', () => resolve({ name, path, bytes: target.bytesWritten }));
    target.once('error', (error) => {
      part.unpipe(target);
      part.resume();
      reject(error);
    });
    const broken = (error?: Error): void => {
      target.destroy();
      reject(error ?? new Error('the upload broke off'));
    };
    part.once('error', broken);
    part.once('close', () => part.readableEnded || broken());
    part.pipe(target);
  });
}

const LONGEST_NAME = 255;

/** Why a name is not taken, as a sentence; null when it is fine. Files are stored under names of ours in any case. */
export function nameTrouble(name: string): string | null {
  if (name.trim() === '') return 'A file without a name is not taken.';
  const shown = name.length > 60 ? `${name.slice(0, 57)}...` : name;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for
  const clean = shown.replace(/[\u0000-\u001f\u007f]/g, '?');
  if (new TextEncoder().encode(name).length > LONGEST_NAME)
    return `${clean} has a name of ${name.length} characters: 255 bytes are the most.`;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(name))
    return `${clean} has line breaks or control characters in its name. Rename it and add it again.`;
  if (/[/\\]/.test(name) || name === '.' || name === '..') return `${clean} has a path in its name. Add the file by itself.`;
  return null;
}

/** An error of the operating system's: opening or writing a file failed. A sender that goes away has none of these. */
function isSystemError(error: unknown): boolean {
  return error instanceof Error && 'syscall' in error && ['open', 'write', 'close'].includes(String(error.syscall));
}
