import { createHash } from 'node:crypto';
import { constants } from 'node:fs';
import { open, stat } from 'node:fs/promises';
import { MediaError } from '@thawline/media';

const SAMPLE = 262_144;

/**
 * Tells files apart without reading all of them: SHA-256 over the size and 256 kB from the start, the middle and the end.
 * Copies of a file have the same one; a rewritten index or another take does not.
 */
export async function fingerprintOf(path: string): Promise<string> {
  // Non-blocking: opening a named pipe would otherwise wait for a writer.
  const file = await open(path, constants.O_RDONLY | constants.O_NONBLOCK);
  try {
    // Looked at when it is open: between a look at the path and this anything may have taken its place.
    const entry = await file.stat();
    if (!entry.isFile()) throw new MediaError('missing-file');
    const { size } = entry;
    const hash = createHash('sha256').update(`${size}\n`);
    const starts = size <= 3 * SAMPLE ? [0] : [0, Math.floor(size / 2), size - SAMPLE];
    const length = size <= 3 * SAMPLE ? size : SAMPLE;
    for (const start of starts) {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, start);
      hash.update(buffer.subarray(0, bytesRead));
    }
    return hash.digest('hex').slice(0, 32);
  } finally {
    await file.close();
  }
}

/** Of a numbered series: every file's size, and the contents of the first, the middle and the last one. */
export async function fingerprintOfSeries(
  paths: readonly string[],
): Promise<{ fingerprint: string; bytes: number; modifiedMs: number }> {
  const hash = createHash('sha256');
  let bytes = 0;
  let modifiedMs = 0;
  for (const path of paths) {
    const { size, mtimeMs } = await stat(path);
    hash.update(`${size}\n`);
    bytes += size;
    modifiedMs = Math.max(modifiedMs, mtimeMs);
  }
  for (const k of [0, paths.length >> 1, paths.length - 1]) hash.update(await fingerprintOf(paths[k] as string));
  return { fingerprint: hash.digest('hex').slice(0, 32), bytes, modifiedMs };
}
