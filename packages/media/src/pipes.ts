import type { Readable, Writable } from 'node:stream';
import { type AnyIterable, MediaError } from './port.js';
import type { Running } from './process.js';

/** A pipe and what goes into it. */
export type Feed = readonly [pipe: Writable, source: AnyIterable<Uint8Array>];

/** Feeds a process side by side and waits for its good end; whatever fails ends it. */
export async function fed(process: Running, signal: AbortSignal | undefined, feeds: readonly Feed[]): Promise<void> {
  try {
    await Promise.all(feeds.map(([pipe, source]) => feed(pipe, source)));
  } catch (error) {
    process.child.kill('SIGKILL');
    await process.done.catch(() => undefined);
    throw signal?.aborted ? new MediaError('aborted') : error;
  }
  await process.done;
}

export async function* asBytes(sound: AnyIterable<Float32Array>): AsyncGenerator<Uint8Array> {
  for await (const block of sound) yield new Uint8Array(block.buffer, block.byteOffset, block.byteLength);
}

/**
 * Writes to a pipe what comes, as fast as it is taken, and closes it at once: FFmpeg reads its inputs in turn, and one that stays open
 * without giving anything would stop the other. When FFmpeg is gone the rest is left unread; its end tells why.
 */
export async function feed(pipe: Writable, source: AnyIterable<Uint8Array>): Promise<void> {
  pipe.on('error', () => undefined);
  for await (const bytes of source) {
    if (pipe.destroyed) return;
    if (!pipe.write(bytes)) await drained(pipe);
  }
  pipe.end();
}

function drained(pipe: Writable): Promise<void> {
  return new Promise((resolve) => {
    const go = (): void => {
      pipe.off('drain', go);
      pipe.off('close', go);
      resolve();
    };
    pipe.on('drain', go);
    pipe.on('close', go);
  });
}

/** A process that pictures go into: it ends well once both do, and what fails in them is told before what their end makes of the process. */
export function fedWith(process: Running, pictures: AnyIterable<Uint8Array>): Running {
  const fed = feed(process.child.stdin as Writable, pictures);
  const done = fed.then(
    () => process.done,
    (error) => {
      process.child.kill('SIGKILL');
      throw error;
    },
  );
  done.catch(() => undefined);
  return { ...process, done };
}

/** Cuts a byte stream into buffers of one size; ends the process when the reader stops early or has all it asked for. */
export async function* slices(
  stream: Readable,
  size: number,
  process: Running,
  count = Number.POSITIVE_INFINITY,
): AsyncGenerator<Uint8Array> {
  let picture = new Uint8Array(size);
  let filled = 0;
  let given = 0;
  let finished = false;
  try {
    for await (const chunk of stream as AsyncIterable<Uint8Array>) {
      let at = 0;
      while (at < chunk.length) {
        const take = Math.min(size - filled, chunk.length - at);
        picture.set(chunk.subarray(at, at + take), filled);
        filled += take;
        at += take;
        if (filled === size) {
          given++;
          yield picture;
          picture = new Uint8Array(size);
          filled = 0;
        }
      }
    }
    finished = true;
  } finally {
    if (!finished) process.child.kill('SIGKILL');
  }
  if (given < count) await process.done;
}
