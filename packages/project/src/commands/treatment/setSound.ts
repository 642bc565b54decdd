import { z } from 'zod';
import { idSchema, LEVEL_MAX, LEVEL_MIN, soundWaySchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** What clips sound like: at another speed (null: as their sources' readings say), and how loud. What is left out stays. */
export const setSound = defineCommand({
  schema: z.object({
    type: z.literal('setSound'),
    timelineId: idSchema,
    clipIds: clipIdsSchema,
    way: soundWaySchema.nullable().optional(),
    level: z.number().min(LEVEL_MIN).max(LEVEL_MAX).optional(),
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) {
      const clip = findClip(timeline, id);
      if (command.way !== undefined) clip.sound = command.way;
      if (command.level !== undefined) clip.level = command.level;
    }
  },
  label(command, names) {
    const what = names.clips(command.timelineId, command.clipIds);
    if (command.level !== undefined) return `Set the sound of ${what} to ${command.level.toFixed(1)} dB`;
    return command.way ? `Sound of ${what}: ${SOUND_WORDS[command.way]}` : `Left the sound of ${what} to its source`;
  },
});

const SOUND_WORDS = { along: 'goes with the speed', pitch: 'keeps its pitch', own: 'its own speed', off: 'off' } as const;
