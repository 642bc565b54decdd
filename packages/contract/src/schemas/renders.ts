import { deskSpecSchema } from '@thawline/desk';
import { formSchema, idSchema, RECEIPT_WHAT, rateSchema } from '@thawline/project';
import { z } from 'zod';

/** Renders, what they were measured to be, and where they go. Shapes of what travels between browser and server. */

/** What the desk made of a file. */
export const deliverySchema = z.object({
  jobId: idSchema,
  at: z.string(),
  accepted: z.boolean(),
  reasons: z.array(z.string()),
});

const namedPicture = z.object({ source: z.string(), picture: z.int() });

/** What of a file is as asked, a line each. */
const receiptLinesSchema = z.array(
  z.object({ what: z.enum(RECEIPT_WHAT), asked: z.string(), measured: z.string(), same: z.boolean() }),
);

/** Where frames show another picture than they should. */
const wrongPlacesSchema = z.array(
  z.object({
    /** Of the file; `frames` of them are alike. */
    frame: z.int(),
    frames: z.int(),
    shows: z.int().nullable(),
    asked: namedPicture.nullable(),
    shown: namedPicture.nullable(),
  }),
);

/** What was measured on a rendered file, as its job's row holds it. */
export const receiptFactsSchema = z.object({
  lines: receiptLinesSchema,
  wrong: wrongPlacesSchema,
  differs: z.int(),
  alike: z.int(),
  frames: z.int(),
  bytes: z.int(),
  fingerprint: z.string(),
  stamp: z.string(),
  files: z.array(z.string()),
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
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
  lines: receiptLinesSchema,
  wrong: wrongPlacesSchema,
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

/** An estimate, and between what it lies. */
const estimate = z.object({ value: z.number(), least: z.number(), most: z.number() });

/** What a render would cost, estimated from a little of it. */
export const trialSchema = z.object({
  jobId: idSchema,
  frames: z.int(),
  /** Frames whose pictures are there already. */
  reused: z.int(),
  bytes: estimate,
  seconds: estimate,
  /** How near coded pictures come to the composed ones, luma in dB; null where nothing is lost. */
  psnr: z.number().nullable(),
  /** Bytes that are free where it is written. */
  free: z.number(),
  /** Of the sound as the file will hold it: LUFS, and true peak in dBTP. */
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
  /** What coding adds to the mix's true peak, and what the mix is brought up by before, in dB. */
  addedDb: z.number().nullable(),
  gainDb: z.number(),
});
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
