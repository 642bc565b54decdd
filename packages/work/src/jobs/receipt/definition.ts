import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { receiptFactsSchema } from './receiptFacts.js';

/** Measures a rendered file again, as it is on the disk now. */
export const receipt = defineJob({
  kind: 'receipt',
  title: 'Measuring again',
  requests: [z.object({ kind: z.literal('receipt'), jobId: idSchema })],
  params: z.object({ renderId: z.string(), paths: z.array(z.string()) }),
  result: receiptFactsSchema,
  subject: 'render',
  stale: [{ query: 'receipts', of: 'project' }],
});
