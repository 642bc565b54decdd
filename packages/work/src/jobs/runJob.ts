import type { JobContext } from './context.js';
import type { JobKind, JobResult, JobSpecification } from './definitions.js';

/** The thread's side of a kind: what `run.ts` of its folder exports. */
interface RunModule {
  run(context: JobContext, specification: object): Promise<JobResult>;
}

/**
 * Runs a job here and now. What it needs is loaded with the first of its kind: a new thread costs what its job costs, and no more. The
 * specification is what `start.ts` of the same folder made; both sides have one type there, which a name made at run time cannot keep.
 */
export async function runJob<Kind extends JobKind>(
  context: JobContext,
  { kind, specification }: JobSpecification<Kind>,
): Promise<JobResult<Kind>> {
  const { run } = (await import(`./${kind}/run.js`)) as RunModule;
  return (await run(context, specification)) as JobResult<Kind>;
}
