import { FITS } from '@thawline/core/cadence';
import { RATE_MAX, RATE_MIN, rateToNumber } from '@thawline/core/time';
import { z } from 'zod';

// The interface's content policy forbids code made from text, which Zod would otherwise try on its first parse.
z.config({ jitless: true });

/** What a project is: sources, and timelines with clips. Everything that can be undone lives here and nothing else does. */

export const idSchema = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/);

const count = z.int().min(0).max(100_000_000);

/** Pictures or frames a second as an exact fraction. */
export const rateSchema = z
  .object({ num: z.int().min(1).max(Number.MAX_SAFE_INTEGER), den: z.int().min(1).max(Number.MAX_SAFE_INTEGER) })
  .refine((r) => rateToNumber(r) >= RATE_MIN && rateToNumber(r) <= RATE_MAX, { message: 'rate-out-of-range' });

export const soundSchema = z.object({
  seconds: z.number().min(0),
  sampleRate: z.int().min(1),
  channels: z.int().min(1),
  codec: z.string(),
  /** Start of the sound minus start of the first picture, in seconds. */
  startSeconds: z.number(),
});

/** A file as it was probed, and how the project reads it. The file itself is never written to. */
export const sourceSchema = z.object({
  id: idSchema,
  /** The stored file's id: facts, pictures and timing are found under it. */
  mediaId: idSchema,
  name: z.string().min(1).max(255),
  pictures: count.min(1),
  stored: rateSchema,
  measured: z.object({ rate: rateSchema, ppm: z.number() }),
  variable: z.boolean(),
  /** First picture's start to last picture's end. */
  seconds: z.number().positive(),
  width: z.int().min(1),
  height: z.int().min(1),
  codec: z.string(),
  pixelFormat: z.string(),
  fields: z.enum(['progressive', 'top', 'bottom']),
  sound: soundSchema.nullable(),
});

export const laneSchema = z.object({ id: idSchema, kind: z.enum(['picture', 'sound']), name: z.string().min(1).max(60) });

/**
 * A source placed on a lane. Frame n of the clip (0 is its first) shows the picture that core's step map gives for
 * inPicture and headTrim. Picture and sound of one placement are two clips with the same link and move together.
 */
export const clipSchema = z.object({
  id: idSchema,
  sourceId: idSchema,
  laneId: idSchema,
  link: idSchema.nullable(),
  /** First frame on the timeline. */
  start: count,
  /** Frames. */
  length: count.min(1),
  /** Source picture the count begins at. */
  inPicture: count,
  /** Frames between the in point and the first frame; negative when the head was pulled out. */
  headTrim: z.int().min(-100_000_000).max(100_000_000),
  fit: z.enum(FITS),
});

export const timelineSchema = z.object({
  id: idSchema,
  name: z.string().min(1).max(120),
  rate: rateSchema,
  /** Even, because chroma is halved. */
  width: z.int().min(16).max(8192).multipleOf(2),
  height: z.int().min(16).max(8192).multipleOf(2),
  /** Picture lanes bottom to top, then sound lanes. */
  lanes: z.array(laneSchema),
  clips: z.array(clipSchema),
});

export const documentSchema = z.object({
  name: z.string().min(1).max(120),
  sources: z.array(sourceSchema),
  timelines: z.array(timelineSchema),
});

export type Source = z.infer<typeof sourceSchema>;
export type Lane = z.infer<typeof laneSchema>;
export type Clip = z.infer<typeof clipSchema>;
export type Timeline = z.infer<typeof timelineSchema>;
export type Project = z.infer<typeof documentSchema>;

export function emptyProject(name: string): Project {
  return { name, sources: [], timelines: [] };
}

/** The lanes a new timeline has. */
export function firstLanes(): Lane[] {
  return [
    { id: 'p1', kind: 'picture', name: 'Picture 1' },
    { id: 'p2', kind: 'picture', name: 'Picture 2' },
    { id: 's1', kind: 'sound', name: 'Sound 1' },
    { id: 's2', kind: 'sound', name: 'Sound 2' },
  ];
}
