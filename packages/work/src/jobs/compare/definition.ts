import { idSchema, rateSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { storedProjectSchema } from '../render/storedProject.js';

const counted = z.array(z.int());
const edit = storedProjectSchema.nullable();

/** How two sources match. */
export const comparisonResultSchema = z.object({
  offsetSeconds: z.number(),
  speed: z.number(),
  rateA: rateSchema,
  rateB: rateSchema,
  picturesA: z.int(),
  picturesB: z.int(),
  certainty: z.number(),
  missing: z.object({ headA: z.int(), tailA: z.int(), headB: z.int(), tailB: z.int() }),
  droppedFromA: counted,
  repeatedInB: counted,
  blendsInB: z.array(z.object({ b: z.int(), a: z.int(), share: z.number() })),
  /** [picture of a, picture of b]. */
  path: z.array(z.tuple([z.int(), z.int()])),
});

/** Both sides by the ids that they were asked for with, their media (of a timeline its own id), and a timeline's edit as it was. */
export const comparedSchema = z.object({
  a: idSchema,
  b: idSchema,
  mediaA: z.string(),
  mediaB: z.string(),
  edits: z.object({ a: edit, b: edit }).optional(),
  names: z.object({ a: z.string(), b: z.string() }),
});

/** Which pictures of a are shown by b. */
export const compare = defineJob({
  kind: 'compare',
  title: 'Comparison of',
  requests: [z.object({ kind: z.literal('compare'), a: idSchema, b: idSchema })],
  params: comparedSchema,
  result: comparisonResultSchema,
  subject: 'pair',
  stale: [{ query: 'comparisons', of: 'project' }],
});
