import { MIXES } from '@thawline/core/picture';
import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** How two pictures are mixed where a frame shows both. */
export const setMix = defineCommand({
  schema: z.object({ type: z.literal('setMix'), timelineId: idSchema, clipIds: clipIdsSchema, mix: z.enum(MIXES) }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) findClip(timeline, id).mix = command.mix;
  },
  label: (command, names) =>
    `Mixed ${names.clips(command.timelineId, command.clipIds)} ${command.mix === 'light' ? 'in linear light' : 'as stored'}`,
});
