import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findClip, findSource, findTimeline, Refused } from '../../refusals/guards.js';
import { clipBefore } from '../../resolve/dissolves.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';

/** Lets a clip come in over the one that ends where it begins, from so many frames before the cut to so many behind it; 0 and 0: by a cut. */
export const setDissolve = defineCommand({
  schema: z.object({
    type: z.literal('setDissolve'),
    timelineId: idSchema,
    clipId: idSchema,
    before: z.int().min(0),
    after: z.int().min(0),
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const { clipId, before, after } = command;
    const clip = findClip(timeline, clipId);
    if (before + after === 0) {
      delete clip.dissolve;
      return;
    }
    const lane = timeline.lanes.find((l) => l.id === clip.laneId);
    if (lane?.kind !== 'picture') throw new Refused('no-pictures', { clip: findSource(draft, clip.sourceId).name });
    if (!clipBefore(timeline, clip)) throw new Refused('nothing-before', { clip: findSource(draft, clip.sourceId).name });
    clip.dissolve = { before, after, kept: clip.dissolve?.kept ?? null };
  },
  label: (command, names) =>
    command.before + command.after === 0
      ? `Cut to ${names.clips(command.timelineId, [command.clipId])}`
      : `Dissolve to ${names.clips(command.timelineId, [command.clipId])} over ${counted(command.before + command.after, 'frame')}`,
});
