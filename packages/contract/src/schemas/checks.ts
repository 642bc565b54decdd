import { FRAME_CAUSES, idSchema, rateSchema } from '@thawline/project';
import { comparisonResultSchema, pixelsSchema, rangeSchema, regionSchema, verdictSchema } from '@thawline/work/definitions';
import { z } from 'zod';

/** What checks, comparisons and timings found. Shapes of what travels between browser and server. */

/** A finished check. The list of a project's checks leaves the trace out. */
export const checkSchema = z.object({
  mediaId: idSchema,
  jobId: idSchema,
  verdict: verdictSchema,
  trace: z.array(z.number()),
  decoded: z.int(),
  /** What of the file was checked: its pictures, `to` not included, and of each picture a part in its pixels (null: all). */
  range: rangeSchema,
  region: pixelsSchema.nullable(),
  /** An area that keeps changing while pictures hold. */
  counter: regionSchema.nullable(),
});
export type CheckReply = z.infer<typeof checkSchema>;

export const checkSummarySchema = checkSchema.omit({ trace: true });
export type CheckSummary = z.infer<typeof checkSummarySchema>;

/** Each frame of a timeline by what it shows, and who is to blame where that is nothing new; where frames are of two fields (moments: 2), each field. */
export const timelineCheckSchema = z.object({
  moments: z.union([z.literal(1), z.literal(2)]),
  range: z.object({ from: z.int(), to: z.int() }),
  fresh: z.int(),
  frames: z.record(z.enum(FRAME_CAUSES), z.int()),
  blended: z.int(),
  frozen: z.int(),
  black: z.int(),
  trueRate: z.number(),
  findings: z.array(
    z.object({
      from: z.int(),
      to: z.int(),
      cause: z.enum(FRAME_CAUSES),
      clipId: idSchema,
      sourceId: idSchema,
      picture: z.int(),
      before: z.int(),
    }),
  ),
  uncheckedIds: z.array(idSchema),
});

export const reusedSchema = z.object({
  sourceId: idSchema,
  from: z.int(),
  to: z.int(),
  uses: z.array(z.object({ timelineId: idSchema, clipId: idSchema, frame: z.int() })),
});

/** How two sources match; a and b are sources' ids as they were asked for. */
export const comparisonSchema = comparisonResultSchema.extend({
  jobId: idSchema,
  a: idSchema,
  b: idSchema,
  /** Their names at that time. */
  names: z.object({ a: z.string(), b: z.string() }),
  madeAt: z.string(),
});
export type ComparisonReply = z.infer<typeof comparisonSchema>;

export const comparisonSummarySchema = comparisonSchema.omit({ path: true });
export type ComparisonSummary = z.infer<typeof comparisonSummarySchema>;

export const timingSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('constant'), rate: rateSchema, pictures: z.int() }),
  z.object({ kind: z.literal('variable'), ticks: z.array(z.int()), end: z.int(), timeBase: rateSchema }),
  z.object({ kind: z.literal('still') }),
]);
