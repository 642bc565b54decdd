import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { checkMaterial, checkRoom, findClip, findSource, findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { clipEnd } from '../../timing/mapping.js';
import { furthestLength } from '../../timing/soundLength.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';

/** Cuts or pulls a clip's ends to these frames; linked clips follow as far as they have material. */
export const trimClip = defineCommand({
  schema: z.object({ type: z.literal('trimClip'), timelineId: idSchema, clipId: idSchema, start: frameSchema, end: frameSchema }),
  change(draft, command, known) {
    const timeline = findTimeline(draft, command.timelineId);
    const clip = findClip(timeline, command.clipId);
    const trimmed = withLinked(timeline, [clip.id]);
    const { start, end } = command;
    if (end <= start) throw new Refused('past-source', { clip: findSource(draft, clip.sourceId).name });
    for (const each of trimmed) {
      const shorter = start >= each.start && end <= clipEnd(each);
      each.headTrim += start - each.start;
      each.start = start;
      each.length = end - start;
      each.cut = null;
      // Linked clips follow as far as they have material; sound that is longer than its pictures may be extended.
      if (each !== clip) {
        const furthest = furthestLength(findSource(draft, each.sourceId), each, timeline, known);
        each.length = Math.max(1, Math.min(each.length, furthest));
      }
      // A carried clip may run a little past its pictures: cutting it shorter is always allowed.
      if (!shorter) checkMaterial(draft, timeline, { clip: each, known });
    }
    checkRoom(timeline, trimmed);
  },
  label: (command, names) => `Trimmed ${names.clips(command.timelineId, [command.clipId])}`,
});
