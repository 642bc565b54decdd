import { idSchema } from '@thawline/project';
import { JOB_KINDS } from '@thawline/work/definitions';
import { z } from 'zod';
import { changeSchema } from './projects.js';

/** Work that takes its time, and what the server says of it. Shapes of what travels between browser and server. */

/** paused: held back by a person before or during its run; resuming puts it back into the queue. */
export const JOB_STATES = ['queued', 'running', 'paused', 'done', 'failed', 'cancelled'] as const;

export const jobSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  kind: z.enum(JOB_KINDS),
  state: z.enum(JOB_STATES),
  /** What it works on, for people: a source's or a timeline's name. */
  label: z.string(),
  /** Media id, both of a pair, timeline id, or id of the render that it works on: see the kind's definition. */
  subject: z.string(),
  done: z.int(),
  total: z.int().nullable(),
  phase: z.string(),
  /** Estimated from the pace so far; null until there is one. */
  secondsLeft: z.number().nullable(),
  /** Frame of the newest picture of what is being made; null where there is none to look at. */
  picture: z.int().nullable(),
  error: z.object({ code: z.string(), message: z.string() }).nullable(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
});
export type JobReply = z.infer<typeof jobSchema>;

/** What the server says unasked, as server-sent events with JSON data. */
export const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('change'), change: changeSchema }),
  z.object({ type: z.literal('job'), job: jobSchema }),
]);
export type ServerEvent = z.infer<typeof eventSchema>;
