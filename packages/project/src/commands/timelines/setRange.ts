import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';

/** In to out, `to` not included; null for all of it. */
export const setRange = defineCommand({
  schema: z.object({
    type: z.literal('setRange'),
    timelineId: idSchema,
    range: z
      .object({ from: frameSchema, to: frameSchema })
      .refine((r) => r.to > r.from)
      .nullable(),
  }),
  change(draft, command) {
    findTimeline(draft, command.timelineId).range = command.range;
  },
  label: (command, names) =>
    command.range
      ? `Set in and out of ${names.timeline(command.timelineId)}`
      : `Cleared in and out of ${names.timeline(command.timelineId)}`,
});
