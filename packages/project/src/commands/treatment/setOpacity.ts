import { z } from 'zod';
import { idSchema, opacitySchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** How much of clips' pictures is seen over what lies beneath them. */
export const setOpacity = defineCommand({
  schema: z.object({ type: z.literal('setOpacity'), timelineId: idSchema, clipIds: clipIdsSchema, opacity: opacitySchema }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) {
      const clip = findClip(timeline, id);
      if (command.opacity === 1) delete clip.opacity;
      else clip.opacity = command.opacity;
    }
  },
  label: ({ timelineId, clipIds, opacity }, names) =>
    `Set ${names.clips(timelineId, clipIds)} to ${Math.round(opacity * 100)} % opacity`,
});
