import { Worker } from 'node:worker_threads';
import type { MadePicture } from '@thawline/core/motion';
import type { Numbered } from '../compose/interpolate.js';
import { JobError } from '../jobs/errors.js';
import type { FromMotionWorker, MotionWorkerData, ToMotionWorker } from './messages.js';

/** How many threads, and the compiled file motion/worker. */
export interface MotionThreads {
  readonly count: number;
  readonly entry: URL;
}

/** A picture made between two, in a buffer of its own. */
export interface MadeBetween extends MadePicture {
  readonly picture: Uint8Array;
}

interface Waiting {
  readonly resolve: (made: MadeBetween) => void;
  readonly reject: (error: Error) => void;
}

interface Thread {
  readonly worker: Worker;
  readonly waiting: Map<number, Waiting>;
  /** Why it is no more. */
  ended: JobError | null;
}

/**
 * Makes pictures in threads: pairs of pictures are dealt out in turn, all that lie between two come from one thread. Every call
 * settles exactly once, with the picture or with JobError when its thread died or the pool was closed.
 */
export class MotionPool {
  private readonly threads: Thread[];
  private pair = '';
  private turn = -1;
  private asked = 0;

  constructor({ count, entry }: MotionThreads, data: MotionWorkerData) {
    this.threads = Array.from({ length: count }, () => {
      const worker = new Worker(entry, { workerData: data });
      const thread: Thread = { worker, waiting: new Map(), ended: null };
      worker.on('message', ({ id, picture, certainty, moved }: FromMotionWorker) => {
        thread.waiting.get(id)?.resolve({ picture: new Uint8Array(picture), certainty, moved });
        thread.waiting.delete(id);
      });
      worker.once('error', (error: Error) => drop(thread, new JobError('crashed', error.message)));
      worker.once('exit', () => drop(thread, new JobError('crashed', 'the thread ended')));
      return thread;
    });
  }

  get count(): number {
    return this.threads.length;
  }

  /**
   * @param a copied, as b is
   * @param t above 0 and below 1
   */
  make(a: Numbered, b: Numbered, t: number): Promise<MadeBetween> {
    const pair = `${a.k} ${b.k}`;
    const fresh = pair !== this.pair;
    if (fresh) {
      this.pair = pair;
      this.turn = (this.turn + 1) % this.threads.length;
    }
    const thread = this.threads[this.turn] as Thread;
    if (thread.ended) return Promise.reject(thread.ended);
    if (fresh) {
      const [first, second] = [a.picture.slice(), b.picture.slice()];
      post(thread, { type: 'pair', a: first, b: second }, [first.buffer, second.buffer]);
    }
    const id = this.asked++;
    return new Promise((resolve, reject) => {
      thread.waiting.set(id, { resolve, reject });
      post(thread, { type: 'make', id, t });
    });
  }

  /** Rejects pending requests before terminating, so that late results cannot resolve them. */
  async close(): Promise<void> {
    for (const thread of this.threads) drop(thread, new JobError('aborted', 'the pool was closed'));
    await Promise.all(this.threads.map(({ worker }) => worker.terminate()));
  }
}

function post({ worker }: Thread, message: ToMotionWorker, handed: ArrayBuffer[] = []): void {
  worker.postMessage(message, handed);
}

function drop(thread: Thread, error: JobError): void {
  thread.ended ??= error;
  for (const { reject } of thread.waiting.values()) reject(error);
  thread.waiting.clear();
}
