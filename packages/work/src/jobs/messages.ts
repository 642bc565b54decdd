import type { JobResult, JobSpecification } from './definitions.js';
import type { JobErrorCode } from './errors.js';

/** To the worker: one job at a time, the next after the previous has ended. */
export type ToWorker = { readonly type: 'job'; readonly job: JobSpecification } | { readonly type: 'abort' };

/** From the worker. Exactly one of done and failed ends a job. */
export type FromWorker =
  | { readonly type: 'progress'; readonly done: number; readonly total: number | null; readonly phase: string }
  /** A picture of what is being made: a JPEG, and which frame it is. */
  | { readonly type: 'picture'; readonly frame: number; readonly jpeg: Uint8Array }
  | { readonly type: 'done'; readonly result: JobResult }
  | { readonly type: 'failed'; readonly code: JobErrorCode; readonly detail: string; readonly which?: 'a' | 'b' };
