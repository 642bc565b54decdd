import { FAULT_KINDS, FIELD_KINDS, FLAGS, NO_FIELDS, PASSAGE_KINDS } from '@thawline/core/truth';
import { filmRunSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { rangeSchema, regionSchema, sourceIdsSchema } from '../shared.js';

export const stretchSchema = z.object({
  from: z.int(),
  to: z.int(),
  pattern: z.string(),
  trueRate: z.number().nullable(),
  certainty: z.number(),
  /** Of `of` pictures of the higher rate in a row so many were left out; null where none were. */
  skips: z.object({ leftOut: z.int(), of: z.int(), madeFrom: z.number() }).nullable().default(null),
});

/** Earlier versions said upper and lower. */
const orderSchema = z
  .enum(['top', 'bottom', 'upper', 'lower'])
  .transform((first) => (first === 'upper' ? 'top' : first === 'lower' ? 'bottom' : first))
  .nullable();

const fieldsSchema = z.object({
  kind: z.enum([...FIELD_KINDS, 'mixed']),
  first: orderSchema,
  flag: z.enum(FLAGS).default('absent'),
  certainty: z.number().default(0),
  stretches: z
    .array(
      z.object({
        from: z.int(),
        to: z.int(),
        kind: z.enum(FIELD_KINDS),
        first: orderSchema,
        flag: z.enum(FLAGS),
        certainty: z.number(),
      }),
    )
    .readonly()
    .default([]),
  breaks: z.array(z.int()).readonly().default([]),
  film: z.array(filmRunSchema).readonly().default([]),
});

/** A part of the picture with a rate of its own; its box in shares of the picture. */
const ownRateSchema = z.object({
  x: z.number(),
  y: z.number(),
  width: z.number(),
  height: z.number(),
  trueRate: z.number(),
  pattern: z.string(),
  certainty: z.number(),
});

/**
 * What checks of earlier versions do not say is left at what it means: none were found, all that is unchanged is held, and one picture is
 * missing at each jump.
 */
export const verdictSchema = z
  .object({
    kind: z.enum(['new', 'padded', 'one-in-n', 'pulldown', 'blended', 'still', 'mixed']),
    pictures: z.int(),
    storedRate: z.number(),
    trueRate: z.number(),
    held: z.array(z.int()),
    /** The same samples as the picture before, held ones included. */
    unchanged: z.array(z.int()).nullish(),
    jumps: z.array(z.int()),
    /** How many pictures are missing at each of `jumps`. */
    missing: z.array(z.int()).nullish(),
    cuts: z.array(z.int()).default([]),
    faults: z.array(z.object({ picture: z.int(), kind: z.enum(FAULT_KINDS), certainty: z.number() })).default([]),
    blends: z.array(z.int()),
    /** The later picture's share in each of `blends`. */
    shares: z.array(z.number()).default([]),
    made: z.array(z.object({ from: z.int(), to: z.int(), sourceRate: z.number(), certainty: z.number() })).default([]),
    fields: fieldsSchema.default(NO_FIELDS),
    parts: z.array(ownRateSchema).readonly().default([]),
    passages: z
      .array(z.object({ from: z.int(), to: z.int(), kind: z.enum(PASSAGE_KINDS) }))
      .readonly()
      .default([]),
    stretches: z.array(stretchSchema),
    certainty: z.number(),
    holdCeiling: z.number().nullable(),
  })
  .transform(({ unchanged, missing, ...found }) => ({
    ...found,
    unchanged: unchanged ?? found.held,
    missing: missing ?? found.jumps.map(() => 1),
  }));

/** Of each picture a part in its pixels. */
export const pixelsSchema = z.object({ x: z.int(), y: z.int(), width: z.int(), height: z.int() });

const resultSchema = z
  .object({
    verdict: verdictSchema,
    /** Left out of lists. */
    trace: z.array(z.number()).default([]),
    decoded: z.int(),
    range: rangeSchema.nullish(),
    region: pixelsSchema.nullish(),
    counter: regionSchema.nullish(),
  })
  // Checks of earlier versions were of whole files.
  .transform(({ range, region, counter, ...found }) => ({
    ...found,
    range: range ?? { from: 0, to: found.decoded },
    region: region ?? null,
    counter: counter ?? null,
  }));

/** What of a file is checked; all of it where both are null. */
const partSchema = {
  /** Only these pictures of each. */
  range: z
    .object({ from: z.int().min(0), to: z.int().min(1) })
    .refine((r) => r.to > r.from)
    .nullable()
    .default(null),
  /** Only this part of each picture, in shares of its width and height. */
  region: regionSchema.nullable().default(null),
};

/** The true rate of a source, by finding repeated pictures. */
export const check = defineJob({
  kind: 'check',
  title: 'Check of',
  requests: [z.object({ kind: z.literal('check'), sourceIds: sourceIdsSchema, ...partSchema })],
  params: z.object(partSchema),
  result: resultSchema,
  subject: 'media',
  stale: [
    { query: 'checks', of: 'project' },
    { query: 'check', of: 'subject' },
  ],
});
