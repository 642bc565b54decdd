import { z } from 'zod';
import { FRAMINGS, idSchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

export const setFraming = defineCommand({
  schema: z.object({ type: z.literal('setFraming'), timelineId: idSchema, clipIds: clipIdsSchema, framing: z.enum(FRAMINGS) }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) findClip(timeline, id).framing = command.framing;
  },
  label: (command, names) => `Framed ${names.clips(command.timelineId, command.clipIds)}: ${FRAMING_WORDS[command.framing]}`,
});

const FRAMING_WORDS = { inside: 'fit inside', fill: 'fill the frame', 'as-is': 'pixel for pixel', stretch: 'stretched' } as const;
