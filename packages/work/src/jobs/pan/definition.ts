import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';

/** How the whole picture moves from the one before, in shares of its width and height; right and down are positive. */
export const panSchema = z.object({ shifts: z.array(z.object({ x: z.number(), y: z.number() })) });

/** How the whole picture of a source moves from picture to picture. */
export const pan = defineJob({
  kind: 'pan',
  title: 'Pans of',
  requests: [z.object({ kind: z.literal('pan'), sourceId: idSchema })],
  /** Whether its pictures are of all around; as its file says when left out. */
  params: z.object({ sphere: z.boolean().optional() }),
  result: panSchema,
  subject: 'media',
  stale: [{ query: 'pan', of: 'subject' }],
});
