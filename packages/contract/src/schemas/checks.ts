import { FRAME_CAUSES, idSchema, rateSchema } from '@thawline/project';
import { z } from 'zod';
import { regionSchema } from './jobs.js';

/** What checks, comparisons and timings found. Shapes of what travels between browser and server. */

export const stretchSchema = z.object({
  from: z.int(),
  to: z.int(),
  pattern: z.string(),
  trueRate: z.number().nullable(),
  certainty: z.number(),
});

export const verdictSchema = z.object({
  kind: z.enum(['new', 'padded', 'one-in-n', 'pulldown', 'blended', 'still', 'mixed']),
  pictures: z.int(),
  storedRate: z.number(),
  trueRate: z.number(),
  held: z.array(z.int()),
  jumps: z.array(z.int()),
  blends: z.array(z.int()),
  /** The later picture's share in each of `blends`. */
  shares: z.array(z.number()).default([]),
  made: z.array(z.object({ from: z.int(), to: z.int(), sourceRate: z.number(), certainty: z.number() })).default([]),
  fields: z
    .object({
      kind: z.enum(['none', 'pulldown', 'interlaced']),
      first: z.enum(['upper', 'lower']).nullable(),
    })
    .default({ kind: 'none', first: null }),
  stretches: z.array(stretchSchema),
  certainty: z.number(),
  holdCeiling: z.number().nullable(),
});

/** A finished check. The list of a project's checks leaves the trace out. */
export const checkSchema = z.object({
  mediaId: idSchema,
  jobId: idSchema,
  verdict: verdictSchema,
  trace: z.array(z.number()),
  decoded: z.int(),
  /** What of the file was checked: its pictures, `to` not included, and of each picture a part in its pixels (null: all). */
  range: z.object({ from: z.int(), to: z.int() }),
  region: z.object({ x: z.int(), y: z.int(), width: z.int(), height: z.int() }).nullable(),
  /** A part that goes on changing while pictures hold. */
  counter: regionSchema.nullable(),
});
export type CheckReply = z.infer<typeof checkSchema>;

export const checkSummarySchema = checkSchema.omit({ trace: true });
export type CheckSummary = z.infer<typeof checkSummarySchema>;

const counted = z.array(z.int());

/** Each frame of a timeline by what it shows, and who is to blame where that is nothing new. */
export const timelineCheckSchema = z.object({
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
export const comparisonSchema = z.object({
  jobId: idSchema,
  a: idSchema,
  b: idSchema,
  /** Their names at that time. */
  names: z.object({ a: z.string(), b: z.string() }),
  madeAt: z.string(),
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
export type ComparisonReply = z.infer<typeof comparisonSchema>;

export const comparisonSummarySchema = comparisonSchema.omit({ path: true });
export type ComparisonSummary = z.infer<typeof comparisonSummarySchema>;

export const timingSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('constant'), rate: rateSchema, pictures: z.int() }),
  z.object({ kind: z.literal('variable'), ticks: z.array(z.int()), end: z.int(), timeBase: rateSchema }),
  z.object({ kind: z.literal('still') }),
]);
