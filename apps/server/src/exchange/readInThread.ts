import { Worker } from 'node:worker_threads';
import { Failure } from '../http/failure.js';
import type { EditToRead, ReadEdit } from './readEdit.js';

/** Memory limit of the thread that reads an edit file: a file that needs more is refused without harm to the server. */
const MOST_MEGABYTES = 1024;
/** The largest edits that are taken take a few seconds. */
const MOST_MS = 60_000;

/** Reads an edit file in its own thread, so that a large or malformed file does not block other requests. */
export function readInThread(edit: EditToRead): Promise<ReadEdit> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./readEditWorker.js', import.meta.url), {
      workerData: edit,
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEGABYTES },
    });
    const refuse = (why: string): void =>
      reject(new Failure('not-an-edit', { file: edit.file }, `${edit.file} was not opened: ${why}`));
    const tooLong = setTimeout(() => {
      refuse('reading it takes too long.');
      void worker.terminate();
    }, MOST_MS);
    worker.once('message', (text: string) => resolve(JSON.parse(text) as ReadEdit));
    worker.once('error', (error: NodeJS.ErrnoException) =>
      error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? refuse('reading it takes too much memory.') : reject(error),
    );
    // After a message or an error this changes nothing.
    worker.once('exit', () => {
      clearTimeout(tooLong);
      reject(new Error('the thread that reads edit files ended without a word'));
    });
  });
}
