import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline, withLinked } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

export const removeClips = defineCommand({
  schema: z.object({ type: z.literal('removeClips'), timelineId: idSchema, clipIds: clipIdsSchema }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const gone = new Set(withLinked(timeline, command.clipIds).map((c) => c.id));
    timeline.clips = timeline.clips.filter((c) => !gone.has(c.id));
  },
  label: (command, names) => `Took ${names.clips(command.timelineId, command.clipIds)} off ${names.timeline(command.timelineId)}`,
});
