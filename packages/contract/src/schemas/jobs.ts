import { formSchema, idSchema } from '@thawline/project';
import { z } from 'zod';
import { changeSchema } from './projects.js';

/** Work that takes its time, and what the server says of it. Shapes of what travels between browser and server. */

/** paused: a person keeps it from beginning, or from going on; whoever resumes it puts it back into the queue. */
export const JOB_STATES = ['queued', 'running', 'paused', 'done', 'failed', 'cancelled'] as const;

export const JOB_KINDS = [
  ...(['proxy', 'sound', 'check', 'compare', 'align', 'heldout', 'pan'] as const),
  ...(['render', 'receipt', 'trial', 'deliver'] as const),
] as const;

export const jobSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  kind: z.enum(JOB_KINDS),
  state: z.enum(JOB_STATES),
  /** What it works on, for people: a source's or a timeline's name. */
  label: z.string(),
  /** Media id of a check, proxy, held-out test or pan (of a part's check with "-part" behind it), of a comparison the second one's; timeline id of a render or its trial; the render's job id of a receipt or a hand-over. */
  subject: z.string(),
  done: z.int(),
  total: z.int().nullable(),
  phase: z.string(),
  /** Estimated from the pace so far; null until there is one. */
  secondsLeft: z.number().nullable(),
  /** Frame of the newest picture of what is being made; null where there is none to look at. */
  picture: z.int().nullable(),
  error: z.object({ code: z.string(), message: z.string() }).nullable(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
});
export type JobReply = z.infer<typeof jobSchema>;

/** A part of a picture, in shares of its width and height. */
export const regionSchema = z
  .object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })
  .refine((r) => r.x >= 0 && r.y >= 0 && r.width > 0 && r.height > 0 && r.x + r.width <= 1.0001 && r.y + r.height <= 1.0001);
export type Region = z.infer<typeof regionSchema>;

/** What of a timeline is rendered, and as what. */
const wanted = {
  timelineId: idSchema,
  /** In to out only. */
  range: z.boolean().default(false),
  /** The frames of this clip only. */
  clipId: idSchema.nullable().default(null),
  form: formSchema.prefault({}),
};

export const startJobSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('check'),
    sourceIds: z.array(idSchema).min(1).max(10_000),
    /** Only these pictures of each, `to` not included. */
    range: z
      .object({ from: z.int().min(0), to: z.int().min(1) })
      .refine((r) => r.to > r.from)
      .nullable()
      .default(null),
    /** Only this part of each picture, in shares of its width and height. */
    region: regionSchema.nullable().default(null),
  }),
  /** Which pictures of a are shown by b. */
  z.object({ kind: z.literal('compare'), a: idSchema, b: idSchema }),
  /** Where b lies to a, and how fast its clock runs, by the sound of both. */
  z.object({ kind: z.literal('align'), a: idSchema, b: idSchema }),
  /** Small pictures to play and look at, and waveforms: made by themselves when sources are added, and anew after they were freed. */
  z.object({ kind: z.literal('proxy'), sourceIds: z.array(idSchema).min(1).max(10_000) }),
  /** Waveform and loudness. */
  z.object({ kind: z.literal('sound'), sourceId: idSchema }),
  /** How the whole picture moves from picture to picture. */
  z.object({ kind: z.literal('pan'), sourceId: idSchema }),
  /** Hides every second picture and makes it again from its neighbours. */
  z.object({ kind: z.literal('heldout'), sourceId: idSchema }),
  z.object({
    kind: z.literal('render'),
    ...wanted,
    /** The file's name without its ending; one is made of the timeline's where there is none. */
    name: z.string().max(200).nullable().default(null),
    /** One of the folders for renders, by its name; the first where there is none. */
    folder: z.string().max(200).nullable().default(null),
    /** Frames of the render whose part is written anew, whatever there is of it. */
    anew: z.array(z.int().min(0)).max(10_000).default([]),
  }),
  /** Writes a little of it and throws that away: what all of it would cost. */
  z.object({ kind: z.literal('trial'), ...wanted, folder: z.string().max(200).nullable().default(null) }),
  /** Measures a rendered file again as it lies on the disk now. */
  z.object({ kind: z.literal('receipt'), jobId: idSchema }),
  /** The same render once more, as the edit was then; with frames whose parts are written anew. */
  z.object({ kind: z.literal('rerender'), jobId: idSchema, anew: z.array(z.int().min(0)).max(10_000).default([]) }),
  /** Hands a rendered file over to the intake desk. */
  z.object({ kind: z.literal('deliver'), jobId: idSchema }),
]);

/** What the server says unasked, as server-sent events with JSON data. */
export const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('change'), change: changeSchema }),
  z.object({ type: z.literal('job'), job: jobSchema }),
]);
export type ServerEvent = z.infer<typeof eventSchema>;
