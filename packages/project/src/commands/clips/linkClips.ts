import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** Links clips under a new link, or parts what is linked (null). */
export const linkClips = defineCommand({
  schema: z.object({ type: z.literal('linkClips'), timelineId: idSchema, clipIds: clipIdsSchema, link: idSchema.nullable() }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const clips = withLinked(timeline, command.clipIds);
    if (command.link !== null && clips.length < 2) throw new Refused('one-clip', {});
    for (const clip of clips) clip.link = command.link;
  },
  label: (command, names) => `${command.link ? 'Linked' : 'Unlinked'} ${names.clips(command.timelineId, command.clipIds)}`,
});
