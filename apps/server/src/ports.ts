import type { JobListener, JobResult, JobSpecification } from '@thawline/work';

/** What the server is given from outside: its adapters are chosen in app.ts, and tests choose others. */

/** Reads and writes films, pictures and sound: FFmpeg in the product. The value is a `Media`. */
export const MEDIA = Symbol('media');

/** How a job is carried out: in the product by a worker thread. Rejects with JobError. */
export type Runner = (job: JobSpecification, listener: JobListener) => Promise<JobResult>;
export const RUNNER = Symbol('runner');
