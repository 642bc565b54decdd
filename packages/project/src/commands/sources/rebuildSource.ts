import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { ownRate } from '../../timing/reading.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { frameSchema } from '../schemas.js';
import { readSources } from './readAt.js';

/**
 * Held pictures give way to made ones, wherever the source is used: it is read without them, at the moments of the others, and its clips
 * that keep time are made by motion. No file is changed.
 */
export const rebuildSource = defineCommand({
  schema: z.object({ type: z.literal('rebuildSource'), sourceId: idSchema, held: z.array(frameSchema).min(1).max(2_000_000) }),
  change(draft, command, known) {
    const { sourceId, held } = command;
    const source = findFileSource(draft, sourceId);
    const own = source.readAt?.rate ?? ownRate(source);
    if (!own) throw new Refused('no-rate', { source: source.name, kind: source.kind });
    if (held.some((k, i) => k < 1 || k >= source.pictures || (i > 0 && k <= (held[i - 1] as number))))
      throw new Refused('past-source', { clip: source.name });
    const reading = {
      rate: own,
      pictures: 'rebuilt' as const,
      held,
      from: source.readAt?.from ?? ('stored' as const),
      sound: source.readAt?.sound ?? ('along' as const),
    };
    readSources(draft, { type: 'readAt', readings: [{ sourceId, reading }], uses: 'length', except: [] }, known);
    for (const timeline of draft.timelines)
      for (const clip of timeline.clips)
        if (clip.sourceId === sourceId && (clip.fit === 'nearest' || clip.fit === 'blend')) clip.fit = 'motion';
  },
  label: (command, names) =>
    `Rebuilt the ${counted(command.held.length, 'held picture')} of ${names.source(command.sourceId)} with motion`,
});
