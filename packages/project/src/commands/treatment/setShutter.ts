import { SHUTTER_MAX } from '@thawline/core/cadence';
import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** How much of a frame the shutter is open, in degrees. */
export const setShutter = defineCommand({
  schema: z.object({
    type: z.literal('setShutter'),
    timelineId: idSchema,
    clipIds: clipIdsSchema,
    degrees: z.int().min(0).max(SHUTTER_MAX),
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) findClip(timeline, id).shutter = command.degrees;
  },
  label: (command, names) => `Set the shutter of ${names.clips(command.timelineId, command.clipIds)} to ${command.degrees}\u00b0`,
});
