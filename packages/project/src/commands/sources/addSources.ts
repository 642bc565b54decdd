import { z } from 'zod';
import { sourceSchema } from '../../document/document.js';
import { Refused } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';

export const addSources = defineCommand({
  schema: z.object({ type: z.literal('addSources'), sources: z.array(sourceSchema).min(1).max(10_000) }),
  change(draft, command) {
    for (const source of command.sources) {
      if (draft.sources.some((s) => s.id === source.id)) throw new Refused('id-taken', { id: source.id });
      draft.sources.push(source);
    }
  },
  label: (command) =>
    `Added ${command.sources.length === 1 ? command.sources[0]?.name : counted(command.sources.length, 'source')}`,
});
