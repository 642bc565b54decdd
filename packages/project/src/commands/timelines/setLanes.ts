import { z } from 'zod';
import { idSchema, laneSchema } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { changeLanes } from './lanes.js';

/** The lanes as they are to be, in order. A lane with clips cannot go. */
export const setLanes = defineCommand({
  schema: z.object({ type: z.literal('setLanes'), timelineId: idSchema, lanes: z.array(laneSchema).min(1).max(100) }),
  change(draft, command) {
    changeLanes(findTimeline(draft, command.timelineId), command.lanes);
  },
  label: (command, names) => `Changed the lanes of ${names.timeline(command.timelineId)}`,
});
