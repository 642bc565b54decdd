import { FIELD_ORDERS } from '@thawline/core/fields';
import { allowsDropFrame, formatRate, sameRate } from '@thawline/core/time';
import { z } from 'zod';
import { COLOUR_CHOICES, idSchema, rateSchema } from '../../document/document.js';
import { findTimeline, Refused } from '../../refusals/guards.js';
import { COLOUR_SPACES } from '../../resolve/colour.js';
import { placedIn } from '../../resolve/sources.js';
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
    /** Which field of its frames comes first; null: they are whole pictures. Left out: as they are. */
    fields: z.enum(FIELD_ORDERS).nullable().optional(),
    /** What its pictures are composed in; null: as its sources have it. Left out: as it is. */
    colour: z.enum(COLOUR_CHOICES).nullable().optional(),
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
    const fields = command.fields === undefined ? timeline.fields : (command.fields ?? undefined);
    checkFormat({ ...next, ...(fields ? { fields } : {}) });
    // Where it is placed its pictures are counted, and they would be others.
    const uses = placedIn(draft, timeline.id).map((t) => t.name);
    if (!fields !== !timeline.fields && uses.length > 0)
      throw new Refused('timeline-in-use', { timeline: timeline.name, timelines: uses });
    Object.assign(timeline, next);
    if (fields) timeline.fields = fields;
    else delete timeline.fields;
    if (command.colour) timeline.colour = command.colour;
    else if (command.colour === null) delete timeline.colour;
  },
  label: ({ timelineId, rate, width, height, fields, colour }, names) =>
    `Set ${names.timeline(timelineId)} to ${formatRate(rate)}, ${width}x${height}${fields ? `, ${fields} field first` : fields === null ? ', whole pictures' : ''}${colour ? `, ${COLOUR_SPACES[colour].words}` : ''}`,
});
