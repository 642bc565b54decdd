import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { nameSchema } from '../schemas.js';

export const renameTimeline = defineCommand({
  schema: z.object({ type: z.literal('renameTimeline'), timelineId: idSchema, name: nameSchema }),
  change(draft, command) {
    findTimeline(draft, command.timelineId).name = command.name;
  },
  label: (command, names) => `Named ${names.timeline(command.timelineId)} ${command.name}`,
});
