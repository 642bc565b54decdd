import { allowsDropFrame, formatRate, sameRate } from '@thawline/core/time';
import { z } from 'zod';
import { idSchema, rateSchema } from '../../document/document.js';
import { findTimeline, Refused } from '../../refusals/guards.js';
import { carryStart } from '../../timelines/carry.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';
import { checkFormat } from './newTimeline.js';

/** Size, start and drop-frame change at any time; the rate of a timeline with clips does not: its edit is carried to another. */
export const setTimelineFormat = defineCommand({
  schema: z.object({
    type: z.literal('setTimelineFormat'),
    timelineId: idSchema,
    rate: rateSchema,
    width: z.int(),
    height: z.int(),
    startFrame: frameSchema.optional(),
    dropFrame: z.boolean().optional(),
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const next = {
      rate: command.rate,
      width: command.width,
      height: command.height,
      // The label stays, not the count: 01:00:00:00 is 01:00:00:00 at any rate.
      startFrame: command.startFrame ?? carryStart(timeline.startFrame, timeline.rate, command.rate),
      dropFrame: command.dropFrame ?? (timeline.dropFrame && allowsDropFrame(command.rate)),
    };
    if (!sameRate(timeline.rate, next.rate) && timeline.clips.length > 0)
      throw new Refused('timeline-has-clips', { timeline: timeline.name });
    checkFormat(next);
    Object.assign(timeline, next);
  },
  label: (command, names) =>
    `Set ${names.timeline(command.timelineId)} to ${formatRate(command.rate)}, ${command.width}x${command.height}`,
});
