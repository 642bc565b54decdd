import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline, Refused } from '../../refusals/guards.js';
import { placedIn } from '../../resolve/sources.js';
import { defineCommand } from '../define.js';

export const removeTimeline = defineCommand({
  schema: z.object({ type: z.literal('removeTimeline'), timelineId: idSchema }),
  change(draft, command) {
    const { timelineId } = command;
    const timeline = findTimeline(draft, timelineId);
    const uses = placedIn(draft, timelineId).map((t) => t.name);
    if (uses.length > 0) throw new Refused('timeline-in-use', { timeline: timeline.name, timelines: uses });
    draft.timelines.splice(draft.timelines.indexOf(timeline), 1);
  },
  label: (command, names) => `Removed ${names.timeline(command.timelineId)}`,
});
