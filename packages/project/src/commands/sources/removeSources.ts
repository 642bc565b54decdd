import { z } from 'zod';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { sourceIdsSchema } from '../schemas.js';

/** Sources in use go only `withUses`: their clips are then taken off in the same step. */
export const removeSources = defineCommand({
  schema: z.object({ type: z.literal('removeSources'), sourceIds: sourceIdsSchema, withUses: z.boolean().default(false) }),
  change(draft, command) {
    const gone = new Set(command.sourceIds);
    for (const id of gone) {
      const source = findFileSource(draft, id);
      const uses = draft.timelines.filter((t) => t.clips.some((c) => c.sourceId === id)).map((t) => t.name);
      if (uses.length > 0 && !command.withUses) throw new Refused('source-in-use', { source: source.name, timelines: uses });
    }
    for (const timeline of draft.timelines) {
      if (timeline.clips.some((c) => gone.has(c.sourceId))) timeline.clips = timeline.clips.filter((c) => !gone.has(c.sourceId));
    }
    draft.sources = draft.sources.filter((s) => !gone.has(s.id));
    draft.alignments = draft.alignments.filter((x) => !gone.has(x.aId) && !gone.has(x.bId));
  },
  label: (command, names) =>
    `Removed ${command.sourceIds.length === 1 ? names.source(command.sourceIds[0] ?? '') : counted(command.sourceIds.length, 'source')}${command.withUses ? ' and what was placed of it' : ''}`,
});
