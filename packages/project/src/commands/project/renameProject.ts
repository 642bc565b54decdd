import { z } from 'zod';
import { defineCommand } from '../define.js';
import { nameSchema } from '../schemas.js';

export const renameProject = defineCommand({
  schema: z.object({ type: z.literal('renameProject'), name: nameSchema }),
  change(draft, command) {
    draft.name = command.name;
  },
  label: (command) => `Named the project ${command.name}`,
});
