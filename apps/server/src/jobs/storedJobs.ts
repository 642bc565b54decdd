import { type CheckSummary, type ComparisonReply, type JobKind } from '@thawline/contract';
import { JOBS, PART } from '@thawline/work';
import type { z } from 'zod';
import type { DoneJob, StoredJob } from '../database/store.js';

/** Rows of jobs, read by the schemas of their kinds. */

/** What a job was asked with. Throws ZodError where the row holds something else. */
export function paramsOf<Kind extends JobKind>(
  kind: Kind,
  job: Pick<StoredJob, 'params'>,
): z.output<(typeof JOBS)[Kind]['params']> {
  // A schema picked by a type parameter gives its own output; the compiler does not follow that through the table.
  return JOBS[kind].params.parse(JSON.parse(job.params)) as z.output<(typeof JOBS)[Kind]['params']>;
}

/** What a finished job found. Throws where the row holds something else. */
export function resultOf<Kind extends JobKind>(
  kind: Kind,
  job: Pick<DoneJob, 'result'>,
): z.output<(typeof JOBS)[Kind]['result']> {
  return JOBS[kind].result.parse(JSON.parse(job.result)) as z.output<(typeof JOBS)[Kind]['result']>;
}

/** A finished check without its trace. */
export function checkSummary(job: Pick<DoneJob, 'id' | 'subject' | 'result'>): CheckSummary {
  const { trace: _trace, ...found } = resultOf('check', job);
  return { mediaId: job.subject.replace(PART, ''), jobId: job.id, ...found };
}

const named = JOBS.compare.params.pick({ a: true, b: true, names: true });

/** What was compared, and when. The edits of compared timelines are not read: a list has many. */
export function comparedSides(job: DoneJob): Pick<ComparisonReply, 'jobId' | 'a' | 'b' | 'names' | 'madeAt'> {
  return { jobId: job.id, ...named.parse(JSON.parse(job.params)), madeAt: job.endedAt };
}
