import { FITS, SHUTTER_MAX } from '@thawline/core/cadence';
import { MIXES } from '@thawline/core/picture';
import { rateToNumber, SPEED_MAX, SPEED_MIN } from '@thawline/core/time';
import { z } from 'zod';
import {
  clipSchema,
  curveSchema,
  FRAMINGS,
  INSTEADS,
  idSchema,
  LEVEL_MAX,
  LEVEL_MIN,
  laneSchema,
  rateSchema,
  readingSchema,
  soundWaySchema,
  sourceSchema,
  tieSchema,
  timelineSchema,
} from './document.js';
import type { Facts, RefusalCode } from './refusals.js';

/** Everything a person can do to a project, as data. One command is one step to undo, however much it touches. */

const name = z.string().trim().min(1).max(120);
const frame = z.int().min(0).max(100_000_000);
const clipIds = z.array(idSchema).min(1).max(10_000);
const timelineId = idSchema;
/** Start of the ids that a command makes: `-` and a number follow. */
const seedSchema = z.string().regex(/^[A-Za-z0-9_-]{1,24}$/);
const sourceIds = z.array(idSchema).min(1).max(10_000);

/**
 * What a clip does when its source is read at another rate. move: its length changes and what follows moves. length: it
 * keeps place and length and shows fewer or more pictures. time: it goes on showing the same pictures at the same frames, sped up or slowed.
 */
export const USES = ['move', 'length', 'time'] as const;
export type Uses = (typeof USES)[number];

/** What gives way when a clip's time changes: what follows, or the clip's own length. */
export const FOLLOWS = ['move', 'keep'] as const;
export type Follow = (typeof FOLLOWS)[number];

/** Speed of the action as an exact fraction. */
const speedSchema = z
  .object({ num: z.int().min(1).max(Number.MAX_SAFE_INTEGER), den: z.int().min(1).max(Number.MAX_SAFE_INTEGER) })
  .refine((s) => rateToNumber(s) >= SPEED_MIN && rateToNumber(s) <= SPEED_MAX, { message: 'speed-out-of-range' });

export const commandSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('renameProject'), name }),
  z.object({ type: z.literal('addSources'), sources: z.array(sourceSchema).min(1).max(10_000) }),
  /** Sources in use go only `withUses`: their clips are then taken off in the same step. */
  z.object({ type: z.literal('removeSources'), sourceIds, withUses: z.boolean().default(false) }),
  /** What a camera is said to have taken, pictures a second; null takes the claim away. */
  z.object({ type: z.literal('setClaim'), sourceIds, claimed: rateSchema.nullable() }),
  /** A note on a picture of a source; null takes it away. */
  z.object({ type: z.literal('markPicture'), sourceId: idSchema, picture: frame, note: z.string().trim().max(500).nullable() }),
  /** Notes on frames of timelines, in one step; one on the same frame is replaced, a null name takes it away. */
  z.object({
    type: z.literal('markFrames'),
    marks: z
      .array(z.object({ timelineId: idSchema, frame, length: frame.default(0), name: z.string().trim().max(500).nullable() }))
      .min(1)
      .max(10_000),
  }),
  /** A person's word on a picture against what a check found; null takes it back. */
  z.object({ type: z.literal('judgePicture'), sourceId: idSchema, picture: frame, as: z.enum(['held', 'new']).nullable() }),
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
  /**
   * Held pictures give way to made ones, wherever the source is used: it is read without them, at the moments of the others, and its clips
   * that keep time are made by motion. No file is changed.
   */
  z.object({ type: z.literal('rebuildSource'), sourceId: idSchema, held: z.array(frame).min(1).max(2_000_000) }),
  /** One source in the place of another, wherever that is used: the found file of an edit's, or a better copy. Clips keep their moments. */
  z.object({ type: z.literal('replaceSource'), sourceId: idSchema, byId: idSchema }),
  /** The file behind a source is another one now: its facts are taken over, its name, claim and reading stay. */
  z.object({ type: z.literal('renewSource'), source: sourceSchema }),
  z.object({
    type: z.literal('addTimeline'),
    timeline: timelineSchema
      .pick({ id: true, width: true, height: true, rate: true, startFrame: true, dropFrame: true })
      .extend({ name }),
  }),
  z.object({ type: z.literal('renameTimeline'), timelineId, name }),
  /** The rate of a timeline with clips does not change in place: carryTimeline makes another beside it. */
  z.object({
    type: z.literal('setTimelineFormat'),
    timelineId,
    rate: rateSchema,
    width: z.int(),
    height: z.int(),
    startFrame: frame.optional(),
    dropFrame: z.boolean().optional(),
  }),
  z.object({ type: z.literal('duplicateTimeline'), timelineId, newId: idSchema, name }),
  /** The same edit at another rate, as a new timeline beside the old one: each cut at the nearest frame, pictures in real time. */
  z.object({ type: z.literal('carryTimeline'), timelineId, newId: idSchema, name, rate: rateSchema }),
  /** In to out, `to` not included; null for all of it. */
  z.object({
    type: z.literal('setRange'),
    timelineId,
    range: z
      .object({ from: frame, to: frame })
      .refine((r) => r.to > r.from)
      .nullable(),
  }),
  /** The lanes as they are to be, in order. A lane with clips cannot go. */
  z.object({ type: z.literal('setLanes'), timelineId, lanes: z.array(laneSchema).min(1).max(100) }),
  /** What an edit file brought: timelines, and sources that are not found yet. */
  z.object({
    type: z.literal('openEdit'),
    file: z.string().max(255),
    timelines: z.array(timelineSchema).max(100),
    sources: z.array(sourceSchema).max(10_000),
  }),
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
  /** Switches clips off, so that they are neither seen nor heard, or on again; linked ones go along. */
  z.object({ type: z.literal('switchClips'), timelineId, clipIds, off: z.boolean() }),
  /** Lets a clip come in over the one that ends where it begins, from so many frames before the cut to so many behind it; 0 and 0: by a cut. */
  z.object({ type: z.literal('setDissolve'), timelineId, clipId: idSchema, before: z.int().min(0), after: z.int().min(0) }),
  z.object({ type: z.literal('setFit'), timelineId, clipIds, fit: z.enum(FITS) }),
  /**
   * Runs a clip at one speed of the action (1 is real time, as it was taken), or along a time curve; null pins take the curve away.
   * move: its length changes so that it ends on the same picture, and what follows moves. keep: it keeps place and length.
   */
  z.object({
    type: z.literal('retimeClip'),
    timelineId,
    clipId: idSchema,
    speed: speedSchema.optional(),
    pins: curveSchema.nullable().optional(),
    /** Whether eased stretches may run back on themselves. */
    backward: z.boolean().default(false),
    follow: z.enum(FOLLOWS),
    /** The clip by itself, and not what is linked with it: sound beside pictures that stay as they are. */
    alone: z.boolean().optional(),
    /** Frames, where another end than the same picture is meant. */
    length: frame.min(1).optional(),
  }),
  /** How much of a frame the shutter is open, in degrees. */
  z.object({ type: z.literal('setShutter'), timelineId, clipIds, degrees: z.int().min(0).max(SHUTTER_MAX) }),
  /** How two pictures are mixed where a frame shows both. */
  z.object({ type: z.literal('setMix'), timelineId, clipIds, mix: z.enum(MIXES) }),
  /** Another way than the fit's for single frames, counted from the clip's first; null leaves them to the fit. */
  z.object({
    type: z.literal('chooseFrames'),
    timelineId,
    clipId: idSchema,
    frames: z.array(frame).min(1).max(100_000),
    as: z.enum(INSTEADS).nullable(),
  }),
  z.object({ type: z.literal('setFraming'), timelineId, clipIds, framing: z.enum(FRAMINGS) }),
  /** What clips sound like: at another speed (null: as their sources' readings say), and how loud. What is left out stays. */
  z.object({
    type: z.literal('setSound'),
    timelineId,
    clipIds,
    way: soundWaySchema.nullable().optional(),
    level: z.number().min(LEVEL_MIN).max(LEVEL_MAX).optional(),
  }),
  /** The ties of two recordings of one event; none takes the alignment away. */
  z.object({ type: z.literal('setTies'), aId: idSchema, bId: idSchema, ties: z.array(tieSchema).max(1000) }),
  /**
   * Puts the second recording beside the first one, at the offset and speed that their ties give: where the first one stands on the
   * timeline, or at its end together with it. `timeline` makes that timeline first.
   */
  z.object({
    type: z.literal('placeAligned'),
    aId: idSchema,
    bId: idSchema,
    timelineId,
    timeline: timelineSchema.pick({ width: true, height: true, rate: true }).extend({ name }).nullable().default(null),
    way: soundWaySchema.nullable().default(null),
    /** These ties, taken in the same step; those that are kept already where left out. */
    ties: z.array(tieSchema).max(1000).default([]),
    /** More recordings of the event, each by one that is placed before it. */
    more: z
      .array(z.object({ aId: idSchema, bId: idSchema, ties: z.array(tieSchema).max(1000).default([]) }))
      .max(100)
      .default([]),
    seed: seedSchema,
  }),
  /** Other pictures at the same place, `byPictures` later ones; linked clips slip as well. */
  z.object({ type: z.literal('slipClips'), timelineId, clipIds, byPictures: z.int() }),
  /** Cuts clips in two at a frame; with no clips named, all under it. New ids are made from the seed. */
  z.object({ type: z.literal('splitClips'), timelineId, clipIds: z.array(idSchema).max(10_000), frame, seed: seedSchema }),
  /** Moves what follows a gap to the left: where nothing lies on any lane (null), or on one lane. */
  z.object({ type: z.literal('closeGaps'), timelineId, laneId: idSchema.nullable() }),
  /** Links clips under a new link, or parts what is linked (null). */
  z.object({ type: z.literal('linkClips'), timelineId, clipIds, link: idSchema.nullable() }),
  /** A timeline placed as a clip gives way to its own clips. */
  z.object({ type: z.literal('unpackClip'), timelineId, clipId: idSchema, seed: seedSchema }),
  z.object({ type: z.literal('removeClips'), timelineId, clipIds }),
]);

export type Command = z.infer<typeof commandSchema>;
/** As a request may say it: what has a usual value may be left out. */
export type CommandInput = z.input<typeof commandSchema>;
export type CommandType = Command['type'];

export interface Refusal {
  readonly ok: false;
  readonly code: RefusalCode;
  readonly facts: Facts;
}
