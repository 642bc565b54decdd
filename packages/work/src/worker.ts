import { availableParallelism } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import { DeskError } from '@thawline/desk';
import { ffmpeg, MediaError } from '@thawline/media';
import { SoundError } from './align.js';
import { perform } from './perform.js';
import type { FromWorker, JobSpec, ToWorker } from './protocol.js';
import { JobError } from './thread.js';

/** A worker thread's whole life: one job, given at its start. */
const stop = new AbortController();
const post = (message: FromWorker): void => parentPort?.postMessage(message);

parentPort?.on('message', (message: ToWorker) => {
  if (message.type === 'abort') stop.abort();
  else message.type satisfies never;
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

try {
  const result = await perform(ffmpeg, withThreads(workerData as JobSpec), progress, stop.signal, show);
  post({ type: 'done', result });
} catch (error) {
  if (error instanceof MediaError)
    post({
      type: 'failed',
      code: error.code,
      detail: error.detail,
      ...(error instanceof SoundError ? { which: error.which } : {}),
    });
  // JobError: a thread of this one's own that makes pictures is gone.
  else if (error instanceof DeskError || error instanceof JobError)
    post({ type: 'failed', code: error.code, detail: error.detail });
  else post({ type: 'failed', ...systemFailure(error) });
} finally {
  parentPort?.close();
}

/** Pictures made by motion come from threads of their own, as many as there are cores. */
function withThreads(spec: JobSpec): JobSpec {
  const threads = { count: availableParallelism(), entry: new URL('./motionWorker.js', import.meta.url) };
  const composing = spec.kind === 'render' || spec.kind === 'receipt' || spec.kind === 'trial';
  return composing ? { ...spec, input: { ...spec.input, threads } } : spec;
}

function systemFailure(error: unknown): { code: 'disk-full' | 'broken'; detail: string } {
  const full = error instanceof Error && 'code' in error && error.code === 'ENOSPC';
  return { code: full ? 'disk-full' : 'broken', detail: error instanceof Error ? error.message : String(error) };
}
