import { Worker } from 'node:worker_threads';
import type { JobContext } from './context.js';
import type { JobKind, JobResult, JobSpecification } from './definitions.js';
import { JobError } from './errors.js';
import type { FromWorker, ToWorker } from './messages.js';

/** How long a stopped job may take to put away its files before its thread is ended. */
const PATIENCE_MS = 5000;
/** How long a thread that did its job waits for another: starting one costs as much as a small job. */
const IDLE_MS = 10_000;

/** A running job as its caller sees it: events, and a way to stop it. */
export type JobListener = Pick<JobContext, 'progress' | 'signal' | 'show'>;

interface Job extends JobListener {
  readonly resolve: (result: JobResult) => void;
  readonly reject: (error: JobError) => void;
}

/** A thread that does one job after the other; whatever becomes of it, each is settled exactly once. */
class Thread {
  private readonly worker: Worker;
  private job: Job | null = null;
  private stopped = false;

  /**
   * @param onFree called when its job is done and it waits for another
   * @param onEnd called when the thread has ended
   */
  constructor(
    entry: URL,
    private readonly onFree: (thread: Thread) => void,
    onEnd: (thread: Thread) => void,
  ) {
    this.worker = new Worker(entry);
    this.worker.on('message', (message: FromWorker) => this.hear(message));
    this.worker.once('error', (error: Error) => this.fail(new JobError('crashed', error.message)));
    this.worker.once('exit', () => {
      this.fail(new JobError(this.stopped ? 'aborted' : 'crashed', 'the thread ended'));
      onEnd(this);
    });
  }

  run(job: JobSpecification, listener: JobListener): Promise<JobResult> {
    const { signal } = listener;
    let patience: NodeJS.Timeout | undefined;
    const stop = (): void => {
      this.stopped = true;
      this.worker.postMessage({ type: 'abort' } satisfies ToWorker);
      patience = setTimeout(() => this.end(), PATIENCE_MS);
    };
    return new Promise<JobResult>((resolve, reject) => {
      this.job = { ...listener, resolve, reject };
      this.worker.ref();
      this.worker.postMessage({ type: 'job', job } satisfies ToWorker);
      if (signal?.aborted) stop();
      else signal?.addEventListener('abort', stop, { once: true });
    }).finally(() => {
      clearTimeout(patience);
      signal?.removeEventListener('abort', stop);
    });
  }

  end(): void {
    void this.worker.terminate();
  }

  private hear(message: FromWorker): void {
    const { job } = this;
    if (!job) return;
    switch (message.type) {
      case 'progress':
        job.progress(message.done, message.total, message.phase);
        return;
      case 'picture':
        job.show?.(message.frame, message.jpeg);
        return;
      case 'done':
        this.job = null;
        job.resolve(message.result);
        if (this.stopped) this.end();
        else {
          // An idle thread must not keep the process alive.
          this.worker.unref();
          this.onFree(this);
        }
        return;
      case 'failed':
        this.fail(new JobError(message.code, message.detail, message.which));
        return;
      default:
        message satisfies never;
    }
  }

  private fail(error: JobError): void {
    this.job?.reject(error);
    this.job = null;
  }
}

/** Threads that wait for a job, by the file they run, with what ends their waiting. */
const waiting = new Map<string, Map<Thread, NodeJS.Timeout>>();

function free(entry: URL): Map<Thread, NodeJS.Timeout> {
  const threads = waiting.get(entry.href) ?? new Map<Thread, NodeJS.Timeout>();
  waiting.set(entry.href, threads);
  return threads;
}

/**
 * Runs a job in a thread: one that did its job well and waits, else a new one. Settles exactly once: with the result, or with JobError for
 * failure, stop or crash. A thread whose job failed or was stopped ends: what it left in memory ends with it.
 * @param entry the compiled worker file; tests that run from sources give the one in dist
 */
export function runInThread<Kind extends JobKind>(
  entry: URL,
  job: JobSpecification<Kind>,
  listener: JobListener,
): Promise<JobResult<Kind>> {
  const threads = free(entry);
  const leave = (thread: Thread): void => {
    clearTimeout(threads.get(thread));
    threads.delete(thread);
  };
  const wait = (thread: Thread): void => {
    const end = (): void => {
      leave(thread);
      thread.end();
    };
    threads.set(thread, setTimeout(end, IDLE_MS).unref());
  };
  const [idle] = threads.keys();
  if (idle) leave(idle);
  // A thread's result is that of the kind it was given.
  return (idle ?? new Thread(entry, wait, leave)).run(job, listener) as Promise<JobResult<Kind>>;
}
