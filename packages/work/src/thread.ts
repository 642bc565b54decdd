import { Worker } from 'node:worker_threads';
import type { Progress } from './check.js';
import type { Show } from './perform.js';
import type { FromWorker, JobErrorCode, JobResult, JobSpec, ToWorker } from './protocol.js';

/** A job failed, was stopped ("aborted") or its thread died ("crashed"). */
export class JobError extends Error {
  override readonly name = 'JobError';
  constructor(
    readonly code: JobErrorCode,
    readonly detail: string,
    /** Of two files, whose fault it is. */
    readonly which?: 'a' | 'b',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

/** How long a stopped job may take to put away its files before its thread is ended. */
const PATIENCE_MS = 5000;

/**
 * Runs a job in a thread of its own. Settles exactly once: with the result, or with JobError for failure, stop or crash.
 * @param entry the compiled worker file; tests that run from sources give the one in dist
 */
export function runInThread(
  spec: JobSpec,
  entry: URL,
  progress: Progress,
  signal?: AbortSignal,
  show?: Show,
): Promise<JobResult> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(entry, { workerData: spec });
    let patience: NodeJS.Timeout | undefined;
    const stop = (): void => {
      worker.postMessage({ type: 'abort' } satisfies ToWorker);
      patience = setTimeout(() => void worker.terminate(), PATIENCE_MS);
    };
    const settle = (finish: () => void): void => {
      clearTimeout(patience);
      signal?.removeEventListener('abort', stop);
      finish();
    };
    worker.on('message', (message: FromWorker) => {
      switch (message.type) {
        case 'progress':
          progress(message.done, message.total, message.phase);
          return;
        case 'picture':
          show?.(message.frame, message.jpeg);
          return;
        case 'done':
          settle(() => resolve(message.result));
          return;
        case 'failed':
          settle(() => reject(new JobError(message.code, message.detail, message.which)));
          return;
        default:
          message satisfies never;
      }
    });
    worker.once('error', (error: Error) => settle(() => reject(new JobError('crashed', error.message))));
    // After a result or a failure this finds the promise settled and changes nothing.
    worker.once('exit', () => settle(() => reject(new JobError(signal?.aborted ? 'aborted' : 'crashed', 'the thread ended'))));
    if (signal?.aborted) stop();
    else signal?.addEventListener('abort', stop, { once: true });
  });
}
