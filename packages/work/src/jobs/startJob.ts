import type { JobDefinition } from './define.js';
import { type JobKind, kindStartedBy, type StartJob } from './definitions.js';
import type { BeginningJob, NewJob, SpecificationContext, StartContext, StartModule } from './starting.js';

/** The jobs that a request makes, as they go into the queue. Throws JobRefused where it cannot be done. */
export async function startJob(request: StartJob, context: StartContext): Promise<readonly NewJob[]> {
  const { start } = await startModule(kindStartedBy(request));
  return start(request as never, context);
}

/** What a job's thread is given. Throws where something it needs is gone. */
export async function specificationOf(kind: JobKind, job: BeginningJob<unknown>, context: SpecificationContext): Promise<object> {
  const { specification } = await startModule(kind);
  return specification(job as never, context);
}

/** `start.ts` of the kind's folder: see runJob about types. */
async function startModule(kind: JobKind): Promise<StartModule<JobDefinition, object>> {
  return (await import(`./${kind}/start.js`)) as StartModule<JobDefinition, object>;
}
