import { formatRate } from '@thawline/core/time';
import { z } from 'zod';
import { idSchema, rateSchema } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { carriedTimeline } from '../../timelines/carry.js';
import { defineCommand } from '../define.js';
import { nameSchema } from '../schemas.js';
import { checkIdFree, insertBeside } from './newTimeline.js';

/** The same edit at another rate, as a new timeline beside the old one: each cut at the nearest frame, pictures in real time. */
export const carryTimeline = defineCommand({
  schema: z.object({
    type: z.literal('carryTimeline'),
    timelineId: idSchema,
    newId: idSchema,
    name: nameSchema,
    rate: rateSchema,
  }),
  change(draft, command, known) {
    checkIdFree(draft, command.newId);
    const timeline = findTimeline(draft, command.timelineId);
    insertBeside(
      draft,
      timeline,
      carriedTimeline(draft, timeline, { id: command.newId, name: command.name, rate: command.rate }, known),
    );
  },
  label: (command, names) => `Carried ${names.timeline(command.timelineId)} to ${formatRate(command.rate)}, as ${command.name}`,
});
