import { curveFault, furthestRun, longestRun, type Mapping } from '@thawline/core/cadence';
import { over, type Rate, rateToNumber, SPEED_MAX, SPEED_MIN } from '@thawline/core/time';
import { z } from 'zod';
import { type Clip, curveSchema, idSchema, rateSchema, type Source, type Timeline } from '../../document/document.js';
import { checkRoom, findClip, findSource, findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { stretchOf } from '../../timelines/curves.js';
import { framesThrough, moveFollowers } from '../../timelines/moveFollowers.js';
import { clipEnd, mappingOf, type TimingOf } from '../../timing/mapping.js';
import { actionSpeed, readingSpeed } from '../../timing/reading.js';
import { furthestLength, isSoundClip, lengthAtSpeed } from '../../timing/soundLength.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';

/** What gives way when a clip's time changes: what follows, or the clip's own length. */
export const FOLLOWS = ['move', 'keep'] as const;
export type Follow = (typeof FOLLOWS)[number];

/** Speed of the action as an exact fraction. */
const speedSchema = z
  .object({ num: z.int().min(1).max(Number.MAX_SAFE_INTEGER), den: z.int().min(1).max(Number.MAX_SAFE_INTEGER) })
  .refine((s) => rateToNumber(s) >= SPEED_MIN && rateToNumber(s) <= SPEED_MAX, { message: 'speed-out-of-range' });

const schema = z.object({
  type: z.literal('retimeClip'),
  timelineId: idSchema,
  clipId: idSchema,
  speed: speedSchema.optional(),
  pins: curveSchema.nullable().optional(),
  /** Whether eased stretches may run back on themselves. */
  backward: z.boolean().default(false),
  follow: z.enum(FOLLOWS),
  /** The clip by itself, and not what is linked with it: sound beside pictures that stay as they are. */
  alone: z.boolean().optional(),
  /** Frames, where another end than the same picture is meant. */
  length: frameSchema.min(1).optional(),
});

/**
 * Runs a clip at one speed of the action (1 is real time, as it was taken), or along a time curve; null pins take the curve away.
 * move: its length changes so that it ends on the same picture, and what follows moves. keep: it keeps place and length.
 */
export const retimeClip = defineCommand({
  schema,
  change(draft, command, known) {
    const timeline = findTimeline(draft, command.timelineId);
    const clip = findClip(timeline, command.clipId);
    const before = timeline.clips.map((c) => ({ clip: c, lane: c.laneId, start: c.start, end: clipEnd(c), pulls: true }));
    for (const part of command.alone ? [clip] : withLinked(timeline, [clip.id]))
      retime(part, { source: findSource(draft, part.sourceId), timeline, command, known });
    if (command.follow === 'move') moveFollowers(before);
    checkRoom(timeline, timeline.clips);
  },
  label(command, names) {
    const what = names.clips(command.timelineId, [command.clipId]);
    if (command.pins) return `Curved the time of ${what}`;
    return command.speed
      ? `Set ${what} to ${Number((rateToNumber(command.speed) * 100).toFixed(3))} %`
      : `Took the time curve off ${what}`;
  },
});

function retime(
  clip: Clip,
  {
    source,
    timeline,
    command,
    known,
  }: {
    readonly source: Source;
    readonly timeline: Timeline;
    readonly command: z.output<typeof schema>;
    readonly known: TimingOf;
  },
): void {
  if (source.kind === 'still') throw new Refused('no-time', { clip: source.name });
  const { speed, pins, follow } = command;
  const was = { ...clip };
  const { first, last, whole } = stretchOf(clip, source, timeline, known);
  const plain = speed !== undefined || pins === null || clip.fit === 'freeze' || clip.fit === 'pictures';
  if (speed) clip.speed = over(speed, readingSpeed(source));
  // Each picture once is a speed, too: the one that other ways of keeping time go on from.
  else if (clip.fit === 'pictures') clip.speed = over(actionSpeed(source, clip, timeline), readingSpeed(source));
  // Combined with a very slow or fast reading, the speed may exceed what a clip can hold.
  if (!rateSchema.safeParse(clip.speed).success) throw new Refused('bad-speed', { clip: source.name });
  if (clip.fit === 'pictures' || clip.fit === 'freeze') clip.fit = 'nearest';
  if (plain) Object.assign(clip, { curve: null, inPicture: first, headTrim: 0 });
  Object.assign(clip, { cut: null, keptAt: null, instead: [] });
  if (pins) {
    const fault = curveFault(pins, source.pictures, command.backward);
    if (fault) throw new Refused('bad-curve', { fault, clip: source.name, pictures: source.pictures });
    clip.curve = pins;
  }
  if (speed && isSoundClip(timeline, clip) && (command.alone || clip.link === null)) {
    // Sound by itself has no last picture to end on: as much of it lasts longer or shorter.
    clip.inPicture = was.inPicture;
    clip.headTrim = trimmedAt(was, clip);
    const long = command.length ?? (follow === 'keep' ? clip.length : lengthAtSpeed(source, was, clip, timeline));
    clip.length = Math.max(1, Math.min(long, furthestLength(source, clip, timeline, known)));
    return;
  }
  const after = mappingOf(clip, source, timeline, known);
  const wanted =
    command.length ?? (follow === 'keep' ? clip.length : whole && !pins ? longestRun(after) : endOn(after, last, timeline.rate));
  clip.length = Math.max(1, Math.min(wanted, furthestRun(after)));
}

/** Frames of head trim that cover the same stretch of source at another speed. */
function trimmedAt(before: Clip, after: Clip): number {
  const { num, den } = over(before.speed, after.speed);
  return Math.round((before.headTrim * num) / den);
}

/** Frames until a run has shown a picture: after its last pin, unless its pins came further before (and run back). */
function endOn(mapping: Mapping, last: number, timeline: Rate): number {
  const pin = mapping.curve?.at(-1);
  const from = pin ? pin.picture : mapping.inPicture;
  const at = (pin?.frame ?? 0) - mapping.headTrim;
  const further = last >= from && !mapping.curve?.some((p) => p.picture > from);
  return further ? at + framesThrough(mapping.timing, from, last, timeline) : at + 1;
}
