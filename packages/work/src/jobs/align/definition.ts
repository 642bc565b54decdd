import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';

const strikeSchema = z.object({ seconds: z.number(), strength: z.number() });

/** What aligning two files by their sound found; times count from each file's first picture, of sound alone from its first sample. */
export const alignedSchema = z.object({
  /** In microseconds. */
  ties: z.array(z.object({ a: z.int(), b: z.int(), strength: z.number(), strike: z.boolean() })),
  /** Under 0.5 the sounds do not match. */
  certainty: z.number(),
  strikesA: z.array(strikeSchema),
  strikesB: z.array(strikeSchema),
});

/** Offset of b against a and the ratio of their clocks, from the sound of both. */
export const align = defineJob({
  kind: 'align',
  title: 'Alignment of',
  requests: [z.object({ kind: z.literal('align'), a: idSchema, b: idSchema })],
  params: z.object({ mediaA: z.string(), mediaB: z.string(), names: z.object({ a: z.string(), b: z.string() }) }),
  result: alignedSchema,
  subject: 'pair',
  stale: [{ query: 'aligned', of: 'project' }],
});

/** What such a job's row is found by: both files, in this order. */
export function alignSubject(mediaA: string, mediaB: string): string {
  return `${mediaA}+${mediaB}`;
}
