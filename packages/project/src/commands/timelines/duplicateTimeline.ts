import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { nameSchema } from '../schemas.js';
import { checkIdFree, insertBeside } from './newTimeline.js';

export const duplicateTimeline = defineCommand({
  schema: z.object({ type: z.literal('duplicateTimeline'), timelineId: idSchema, newId: idSchema, name: nameSchema }),
  change(draft, command) {
    checkIdFree(draft, command.newId);
    const timeline = findTimeline(draft, command.timelineId);
    insertBeside(draft, timeline, { ...timeline, id: command.newId, name: command.name });
  },
  label: (command, names) => `Made ${command.name}, a copy of ${names.timeline(command.timelineId)}`,
});
