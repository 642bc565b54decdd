import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { checkRoom, findTimeline, Refused } from '../../refusals/guards.js';
import { clipEnd } from '../../timing/mapping.js';
import { defineCommand } from '../define.js';

/**
 * Closes gaps by moving what follows to the left: those where nothing lies on any lane, or those of one lane, whose clips
 * take along what is linked with them.
 */
export const closeGaps = defineCommand({
  schema: z.object({ type: z.literal('closeGaps'), timelineId: idSchema, laneId: idSchema.nullable() }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const { laneId } = command;
    if (laneId !== null && !timeline.lanes.some((l) => l.id === laneId)) throw new Refused('unknown-lane', { lane: laneId });
    const counted = timeline.clips.filter((c) => laneId === null || c.laneId === laneId).sort((a, b) => a.start - b.start);
    let end = 0;
    let shift = 0;
    const moves = new Map<string, number>();
    for (const clip of counted) {
      if (clip.start > end) shift += clip.start - end;
      end = Math.max(end, clipEnd(clip));
      if (shift > 0) moves.set(clip.id, shift);
    }
    if (moves.size === 0) throw new Refused('no-gaps', {});
    const byLink = new Map(counted.filter((c) => c.link !== null).map((c) => [c.link, moves.get(c.id) ?? 0]));
    for (const clip of timeline.clips) {
      const by = moves.get(clip.id) ?? (laneId === null ? 0 : (byLink.get(clip.link) ?? 0));
      if (by > clip.start) throw new Refused('before-start', {});
      clip.start -= by;
    }
    checkRoom(timeline, timeline.clips);
  },
  label: (command, names) => `Closed gaps on ${names.timeline(command.timelineId)}`,
});
