import { reasonSchema } from '@thawline/desk';
import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';

/** Hands a rendered file over to the intake desk. */
export const deliver = defineJob({
  kind: 'deliver',
  title: 'Handing over',
  requests: [z.object({ kind: z.literal('deliver'), jobId: idSchema })],
  params: z.object({ desk: z.string(), path: z.string() }),
  result: z.object({
    /** The desk's own number for it. */
    delivery: z.string(),
    accepted: z.boolean(),
    reasons: z.array(reasonSchema),
  }),
  subject: 'render',
  stale: [{ query: 'receipts', of: 'project' }],
});
