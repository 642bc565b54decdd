import { z } from 'zod';
import { defineJob } from '../define.js';
import { renderParamsSchema, wantedSchema } from '../render/definition.js';

/** An estimate with its lower and upper bound. Trials of earlier versions gave one number. */
const estimateSchema = z.preprocess(
  (value) => (typeof value === 'number' ? { value, least: value, most: value } : value),
  z.object({ value: z.number(), least: z.number(), most: z.number() }),
);

/** What a render would cost, estimated from a little of it. */
export const trialResultSchema = z.object({
  frames: z.int(),
  /** Frames that the cache has already. */
  reused: z.int(),
  /** Of the file. */
  bytes: estimateSchema,
  /** Until it is written and measured. */
  seconds: estimateSchema,
  /** Peak signal-to-noise ratio of coded against composed luma, in dB; null for lossless forms, 100 for identical pictures. */
  psnr: z.number().nullable(),
  /** Bytes that are free where it is written. */
  free: z.number(),
  /** Of the sound as the file will hold it: LUFS, and true peak in dBTP; null for silence. */
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
  /** What coding adds to the mix's true peak, and what the mix is brought up by before, in dB. */
  addedDb: z.number().nullable(),
  gainDb: z.number(),
});

/** Writes a little of a render and throws that away: what all of it would cost. */
export const trial = defineJob({
  kind: 'trial',
  title: 'Trial of',
  requests: [z.object({ kind: z.literal('trial'), ...wantedSchema })],
  params: renderParamsSchema,
  result: trialResultSchema,
  subject: 'timeline',
  stale: [],
});
