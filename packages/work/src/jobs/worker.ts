import { parentPort } from 'node:worker_threads';
import { ffmpeg, MediaError } from '@thawline/media';
import type { JobSpecification } from './definitions.js';
import { JobError, SoundError } from './errors.js';
import type { FromWorker, ToWorker } from './messages.js';
import { runJob } from './runJob.js';

/** A worker thread: runs one job after another until one fails or is stopped, or the thread is ended. */
let stop = new AbortController();
const post = (message: FromWorker): void => parentPort?.postMessage(message);

parentPort?.on('message', (message: ToWorker) => {
  switch (message.type) {
    case 'job':
      stop = new AbortController();
      void work(message.job);
      return;
    case 'abort':
      stop.abort();
      return;
    default:
      message satisfies never;
  }
});

let said = 0;
const progress = (done: number, total: number | null, phase: string): void => {
  const now = performance.now();
  // Ten times a second is enough for anybody.
  if (now - said < 100 && done !== total) return;
  said = now;
  post({ type: 'progress', done, total, phase });
};

const show = (frame: number, jpeg: Uint8Array): void => post({ type: 'picture', frame, jpeg });

async function work(job: JobSpecification): Promise<void> {
  said = 0;
  try {
    const result = await runJob({ media: ffmpeg, progress, signal: stop.signal, show }, job);
    post({ type: 'done', result });
  } catch (error) {
    post(failure(error));
    parentPort?.close();
  }
}

function failure(error: unknown): FromWorker {
  if (error instanceof MediaError) {
    const which = error instanceof SoundError ? { which: error.which } : {};
    return { type: 'failed', code: error.code, detail: error.detail, ...which };
  }
  // Of the desk, or of a thread of this one's own that makes pictures.
  if (error instanceof JobError) return { type: 'failed', code: error.code, detail: error.detail };
  return { type: 'failed', ...systemFailure(error) };
}

function systemFailure(error: unknown): { code: 'disk-full' | 'broken'; detail: string } {
  const full = error instanceof Error && 'code' in error && error.code === 'ENOSPC';
  return { code: full ? 'disk-full' : 'broken', detail: error instanceof Error ? error.message : String(error) };
}
