import { deskSpecSchema } from '@thawline/desk';
import { formSchema, idSchema, rateSchema } from '@thawline/project';
import { receiptFactsSchema, trialResultSchema } from '@thawline/work/definitions';
import { z } from 'zod';

/** Renders, what they were measured to be, and where they go. Shapes of what travels between browser and server. */

/** What the desk made of a file. */
export const deliverySchema = z.object({
  jobId: idSchema,
  at: z.string(),
  accepted: z.boolean(),
  reasons: z.array(z.string()),
});

/** What a rendered file was measured to be. Never changed: measuring it again gives another one. */
export const receiptSchema = z.object({
  /** Of the job that measured. */
  jobId: idSchema,
  /** Of the job that rendered. */
  renderId: idSchema,
  /** Its name, the folder it lies in, and all that was written. */
  file: z.string(),
  folder: z.string(),
  files: z.array(z.string()),
  form: formSchema,
  formWords: z.string(),
  /** At the render's rate, as is what its frames are called by. */
  rate: rateSchema,
  startFrame: z.int(),
  dropFrame: z.boolean(),
  range: z.object({ from: z.int(), to: z.int() }),
  timeline: z.string(),
  timelineId: idSchema,
  madeAt: z.string(),
  bytes: z.int(),
  differs: z.int(),
  lines: receiptFactsSchema.shape.lines,
  wrong: receiptFactsSchema.shape.wrong,
  alike: z.int(),
  frames: z.int(),
  reused: z.int().nullable(),
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
  fingerprint: z.string(),
  /** Whether the file on the disk is the one that was measured. */
  disk: z.enum(['same', 'changed', 'missing']),
  deliveries: z.array(deliverySchema),
});
export type ReceiptReply = z.infer<typeof receiptSchema>;

/** What a render would cost, estimated from a little of it. */
export const trialSchema = trialResultSchema.extend({ jobId: idSchema });
export type TrialReply = z.infer<typeof trialSchema>;

/** What is kept of renders, so that what is unchanged is not written again. */
export const cacheSchema = z.object({ bytes: z.number(), files: z.int(), most: z.number() });
export type CacheReply = z.infer<typeof cacheSchema>;

/** Where renders go, and the desk they may be handed to. */
export const outputsSchema = z.object({
  folders: z.array(z.object({ name: z.string(), path: z.string(), free: z.number().nullable() })),
  desk: z.object({ address: z.string(), spec: deskSpecSchema.nullable(), words: z.string() }).nullable(),
});
export type OutputsReply = z.infer<typeof outputsSchema>;
