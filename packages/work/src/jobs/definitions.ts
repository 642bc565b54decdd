import { z } from 'zod';
import { align } from './align/definition.js';
import { check } from './check/definition.js';
import { compare } from './compare/definition.js';
import type { JobDefinition, ResultOf } from './define.js';
import { deliver } from './deliver/definition.js';
import { heldOut } from './heldout/definition.js';
import { pan } from './pan/definition.js';
import { proxy } from './proxy/definition.js';
import { receipt } from './receipt/definition.js';
import { render } from './render/definition.js';
import { sound } from './sound/definition.js';
import { trial } from './trial/definition.js';

/**
 * Every kind of job. A new one is a folder beside this file (definition.ts, start.ts, run.ts) and a line here; the folder bears the kind's
 * name. docs/how-it-works.md has the recipe.
 */
export const JOBS = { proxy, sound, check, compare, align, heldout: heldOut, pan, render, receipt, trial, deliver } as const;

export type JobKind = keyof typeof JOBS;
/** What a job of a kind finds. */
export type JobResult<Kind extends JobKind = JobKind> = { [K in Kind]: ResultOf<(typeof JOBS)[K]> }[Kind];

/** A job as plain data: what a worker thread is given. */
export interface JobSpecification<Kind extends JobKind = JobKind> {
  readonly kind: Kind;
  readonly specification: object;
}

export const JOB_KINDS = Object.keys(JOBS) as [JobKind, ...JobKind[]];

/** The definition of a kind, for callers that handle any kind. */
export function jobOf(kind: JobKind): JobDefinition {
  return JOBS[kind];
}

type Requests = (typeof JOBS)[JobKind]['requests'][number];

const requests = Object.values(JOBS).flatMap((job): readonly Requests[] => job.requests) as unknown as readonly [
  Requests,
  ...Requests[],
];
/** How a job is asked for: by its kind, and what that kind wants to know. */
export const startJobSchema = z.discriminatedUnion('kind', requests);
export type StartJob = z.output<typeof startJobSchema>;

/** The kind of job that a request starts: several requests may start one kind. */
export function kindStartedBy(request: Pick<StartJob, 'kind'>): JobKind {
  const found = JOB_KINDS.find((kind) => JOBS[kind].requests.some((r) => r.shape.kind.value === request.kind));
  if (!found) throw new RangeError(`no job is started by ${request.kind}`);
  return found;
}
