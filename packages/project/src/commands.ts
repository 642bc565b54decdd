import { FITS } from '@thawline/core/cadence';
import { z } from 'zod';
import { clipSchema, idSchema, rateSchema, readingSchema, sourceSchema, timelineSchema } from './document.js';

/** Everything a person can do to a project, as data. One command is one step to undo, however much it touches. */

const name = z.string().trim().min(1).max(120);
const frame = z.int().min(0).max(100_000_000);
const clipIds = z.array(idSchema).min(1).max(10_000);
const timelineId = idSchema;
const sourceIds = z.array(idSchema).min(1).max(10_000);

/**
 * What a clip does when its source is read at another rate. move: its length changes and what follows moves. length: it
 * keeps place and length and shows fewer or more pictures. time: it goes on showing the same pictures at the same frames, sped up or slowed.
 */
export const USES = ['move', 'length', 'time'] as const;
export type Uses = (typeof USES)[number];

export const commandSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('renameProject'), name }),
  z.object({ type: z.literal('addSources'), sources: z.array(sourceSchema).min(1).max(10_000) }),
  /** Sources in use go only `withUses`: their clips are then taken off in the same step. */
  z.object({ type: z.literal('removeSources'), sourceIds, withUses: z.boolean().default(false) }),
  /** What a camera is said to have taken, pictures a second; null takes the claim away. */
  z.object({ type: z.literal('setClaim'), sourceIds, claimed: rateSchema.nullable() }),
  /**
   * The same pictures at another rate; a null reading is the file's own timing. Clips on timelines stay on their pictures:
   * `uses` says what gives way, `except` says otherwise for single clips (and what is linked with them).
   */
  z.object({
    type: z.literal('readAt'),
    readings: z
      .array(z.object({ sourceId: idSchema, reading: readingSchema.nullable() }))
      .min(1)
      .max(10_000),
    uses: z.enum(USES),
    except: z
      .array(z.object({ clipId: idSchema, uses: z.enum(USES) }))
      .max(10_000)
      .default([]),
  }),
  /** The file behind a source is another one now: its facts are taken over, its name, claim and reading stay. */
  z.object({ type: z.literal('renewSource'), source: sourceSchema }),
  z.object({
    type: z.literal('addTimeline'),
    timeline: timelineSchema.pick({ id: true, width: true, height: true, rate: true }).extend({ name }),
  }),
  z.object({ type: z.literal('renameTimeline'), timelineId, name }),
  /** For a timeline without clips only: one with clips would be re-timed silently. */
  z.object({ type: z.literal('setTimelineFormat'), timelineId, rate: rateSchema, width: z.int(), height: z.int() }),
  z.object({ type: z.literal('removeTimeline'), timelineId }),
  z.object({ type: z.literal('placeClips'), timelineId, clips: z.array(clipSchema).min(1).max(10_000) }),
  /** Moves clips and what is linked with them by whole frames; `lanes` of picture clips move up (positive) or down. */
  z.object({
    type: z.literal('moveClips'),
    timelineId,
    clipIds,
    byFrames: z.int(),
    byLanes: z.int().min(-50).max(50).default(0),
  }),
  /** Cuts or pulls a clip's ends to these frames; linked clips follow as far as they have material. */
  z.object({ type: z.literal('trimClip'), timelineId, clipId: idSchema, start: frame, end: frame }),
  z.object({ type: z.literal('setFit'), timelineId, clipIds, fit: z.enum(FITS) }),
  z.object({ type: z.literal('removeClips'), timelineId, clipIds }),
]);

export type Command = z.infer<typeof commandSchema>;
export type CommandType = Command['type'];

/** Why a command was not applied. The interface writes its sentence from code and facts. */
export const REFUSALS = [
  'unknown-source',
  'unknown-timeline',
  'unknown-clip',
  'unknown-lane',
  'source-in-use',
  'timeline-has-clips',
  'overlap',
  'before-start',
  'past-source',
  'id-taken',
  'no-lane-there',
  'bad-size',
  'no-rate',
] as const;
export type RefusalCode = (typeof REFUSALS)[number];

export type Facts = Readonly<Record<string, string | number | readonly string[]>>;

export interface Refusal {
  readonly ok: false;
  readonly code: RefusalCode;
  readonly facts: Facts;
}
