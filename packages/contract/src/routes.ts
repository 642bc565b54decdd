import { z } from 'zod';
import {
  changeSchema,
  checkSchema,
  checkSummarySchema,
  commandBodySchema,
  jobSchema,
  newProjectSchema,
  projectStateSchema,
  projectSummarySchema,
  receiptSchema,
  revisionSchema,
  startJobSchema,
  timingSchema,
  uploadReplySchema,
} from './schemas.js';

export interface Route {
  readonly method: 'get' | 'post' | 'delete';
  /** Under /api; parameters in braces. */
  readonly path: string;
  readonly summary: string;
  /** JSON body, multipart upload or none. */
  readonly body?: z.ZodType | 'files';
  /** JSON reply, or another media type. */
  readonly reply: z.ZodType | { readonly type: string };
}

const nothing = z.object({});

/** Every request there is. The interface's client, the server and /api/openapi.json are all held to this table. */
export const routes = {
  health: { method: 'get', path: '/health', summary: 'Whether the server answers', reply: z.object({ ok: z.literal(true) }) },
  listProjects: { method: 'get', path: '/projects', summary: 'All projects', reply: z.array(projectSummarySchema) },
  createProject: {
    method: 'post',
    path: '/projects',
    summary: 'Make a project',
    body: newProjectSchema,
    reply: projectStateSchema,
  },
  readProject: { method: 'get', path: '/projects/{project}', summary: 'A project as it stands', reply: projectStateSchema },
  command: {
    method: 'post',
    path: '/projects/{project}/commands',
    summary: 'Do one thing to a project: one step to undo',
    body: commandBodySchema,
    reply: changeSchema,
  },
  undo: {
    method: 'post',
    path: '/projects/{project}/undo',
    summary: 'Take back the newest step',
    body: nothing,
    reply: changeSchema,
  },
  redo: { method: 'post', path: '/projects/{project}/redo', summary: 'Do it again', body: nothing, reply: changeSchema },
  history: {
    method: 'get',
    path: '/projects/{project}/history',
    summary: 'What was done, newest first',
    reply: z.array(revisionSchema),
  },
  upload: {
    method: 'post',
    path: '/projects/{project}/sources',
    summary: 'Add files as sources (multipart/form-data, any number of parts with a file name)',
    body: 'files',
    reply: uploadReplySchema,
  },
  timing: { method: 'get', path: '/media/{media}/timing', summary: "Every picture's own time", reply: timingSchema },
  picture: {
    method: 'get',
    path: '/media/{media}/pictures/{picture}',
    summary: 'Exactly that picture, as JPEG',
    reply: { type: 'image/jpeg' },
  },
  checks: { method: 'get', path: '/projects/{project}/checks', summary: 'What checks found', reply: z.array(checkSummarySchema) },
  check: {
    method: 'get',
    path: '/media/{media}/check',
    summary: 'The newest check of a file, with its trace',
    reply: checkSchema,
  },
  jobs: { method: 'get', path: '/projects/{project}/jobs', summary: 'Heavy jobs, newest first', reply: z.array(jobSchema) },
  startJobs: {
    method: 'post',
    path: '/projects/{project}/jobs',
    summary: 'Check sources or render a timeline',
    body: startJobSchema,
    reply: z.array(jobSchema),
  },
  stopJob: { method: 'delete', path: '/jobs/{job}', summary: 'Stop a job; nothing of it is left behind', reply: jobSchema },
  receipts: {
    method: 'get',
    path: '/projects/{project}/receipts',
    summary: 'Receipts of renders, newest first',
    reply: z.array(receiptSchema),
  },
  file: { method: 'get', path: '/jobs/{job}/file', summary: 'The rendered file', reply: { type: 'video/mp4' } },
  events: {
    method: 'get',
    path: '/projects/{project}/events',
    summary: 'Changes and job progress as they happen',
    reply: { type: 'text/event-stream' },
  },
  openapi: { method: 'get', path: '/openapi.json', summary: 'This description', reply: z.record(z.string(), z.unknown()) },
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof routes;

/** The route's address with its parameters filled in: address('undo', {project: 'p1'}) is /api/projects/p1/undo. */
export function address(name: RouteName, parameters: Readonly<Record<string, string | number>> = {}): string {
  const path = routes[name].path.replace(/\{(\w+)\}/g, (_, key: string) => encodeURIComponent(String(parameters[key] ?? '')));
  return `/api${path}`;
}
