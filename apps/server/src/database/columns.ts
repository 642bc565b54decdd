import { timingSchema } from '@thawline/contract';
import type { Probe } from '@thawline/media';
import { fieldRunsSchema, looksSchema, rateSchema } from '@thawline/project';
import { z } from 'zod';

/** What the JSON in columns of the database looks like; a project file has the same. */

const count = z.int().min(0).max(1_000_000_000_000);

/** What was found of a file when it was added. */
export const probeSchema = z.object({
  kind: z.enum(['film', 'sequence', 'still', 'sound']),
  pictures: count.min(1),
  stored: rateSchema.nullable(),
  measured: z.object({ rate: rateSchema, ppm: z.number() }).nullable(),
  variable: z.boolean(),
  timing: timingSchema,
  seconds: z.number().nullable(),
  firstSeconds: z.number(),
  width: count,
  height: count,
  sampleAspect: z.number().positive(),
  codec: z.string().max(100),
  pixelFormat: z.string().max(100),
  ...looksSchema.shape,
  container: z.string().max(200),
  fields: z.enum(['progressive', 'top', 'bottom']),
  flagged: z.boolean().optional(),
  sound: z
    .object({
      seconds: z.number().min(0),
      sampleRate: z.int().min(1),
      channels: z.int().min(1),
      codec: z.string().max(100),
      startSeconds: z.number(),
      others: z.int().min(1).optional(),
    })
    .nullable(),
  timecode: z.string().max(100).nullable(),
  endsEarly: z.boolean().optional(),
  fieldsRead: z.object({ runs: fieldRunsSchema, stored: timingSchema }).optional(),
}) satisfies z.ZodType<Probe>;

/** Pictures of a folder, by their names in order. */
export const seriesSchema = z.object({
  ending: z.string().regex(/^[a-z0-9]{1,5}$/),
  names: z.array(z.string().max(255)).max(1_000_000),
});

const patchSchema = z.object({
  op: z.enum(['add', 'remove', 'replace']),
  path: z.array(z.union([z.string().max(100), z.int().min(0)])).max(12),
  value: z.unknown().optional(),
});

/** One way of a difference: from the document before a change to the one after it, or back. */
export const patchesSchema = z.array(patchSchema);
