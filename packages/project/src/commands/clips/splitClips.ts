import { z } from 'zod';
import { type Clip, idSchema } from '../../document/document.js';
import { findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { clipEnd } from '../../timing/mapping.js';
import { defineCommand } from '../define.js';
import { frameSchema, seedSchema } from '../schemas.js';

/** Cuts clips in two at a frame; with no clips named, all under it. New ids are made from the seed. */
export const splitClips = defineCommand({
  schema: z.object({
    type: z.literal('splitClips'),
    timelineId: idSchema,
    clipIds: z.array(idSchema).max(10_000),
    frame: frameSchema,
    seed: seedSchema,
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const { frame, seed } = command;
    const under = (clip: Clip): boolean => clip.start < frame && clipEnd(clip) > frame;
    const named = command.clipIds.length > 0 ? withLinked(timeline, command.clipIds) : timeline.clips;
    const cut = named.filter(under);
    if (cut.length === 0) throw new Refused('nothing-there', { frame });
    const ids = new Set(timeline.clips.map((c) => c.id));
    const links = new Map<string, string>();
    cut.forEach((clip, i) => {
      const id = `${seed}-${i}`;
      if (ids.has(id)) throw new Refused('id-taken', { id });
      if (clip.link !== null && !links.has(clip.link)) links.set(clip.link, `${seed}-l${links.size}`);
      const by = frame - clip.start;
      const { dissolve: _, ...rest } = clip;
      const right = { ...rest, id, start: frame, length: clip.length - by, headTrim: clip.headTrim + by, cut: null };
      timeline.clips.push({ ...right, link: clip.link && (links.get(clip.link) ?? null) });
      clip.length = by;
      clip.cut = null;
    });
  },
  label: (command, names) =>
    `Split ${command.clipIds.length === 0 ? 'all clips' : names.clips(command.timelineId, command.clipIds)} at frame ${command.frame}`,
});
