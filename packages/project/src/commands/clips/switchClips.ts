import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline, withLinked } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** Switches clips off, so that they are neither seen nor heard, or on again; linked ones go along. */
export const switchClips = defineCommand({
  schema: z.object({ type: z.literal('switchClips'), timelineId: idSchema, clipIds: clipIdsSchema, off: z.boolean() }),
  change(draft, command) {
    for (const clip of withLinked(findTimeline(draft, command.timelineId), command.clipIds)) {
      if (command.off) clip.off = true;
      else delete clip.off;
    }
  },
  label: (command, names) => `Switch ${names.clips(command.timelineId, command.clipIds)} ${command.off ? 'off' : 'on'}`,
});
