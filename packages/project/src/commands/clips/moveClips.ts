import { z } from 'zod';
import { type Clip, idSchema, type Timeline } from '../../document/document.js';
import { checkRoom, findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** Moves clips and what is linked with them by whole frames; `lanes` of picture clips move up (positive) or down. */
export const moveClips = defineCommand({
  schema: z.object({
    type: z.literal('moveClips'),
    timelineId: idSchema,
    clipIds: clipIdsSchema,
    byFrames: z.int(),
    byLanes: z.int().min(-50).max(50).default(0),
  }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    const moved = withLinked(timeline, command.clipIds);
    const named = new Set(command.clipIds);
    for (const clip of moved) {
      if (clip.start + command.byFrames < 0) throw new Refused('before-start', {});
      clip.start += command.byFrames;
      if (command.byLanes !== 0 && named.has(clip.id)) clip.laneId = laneBeside(timeline, clip, command.byLanes);
    }
    checkRoom(timeline, moved);
  },
  label: (command, names) =>
    `Moved ${names.clips(command.timelineId, command.clipIds)} by ${command.byFrames} ${Math.abs(command.byFrames) === 1 ? 'frame' : 'frames'}`,
});

function laneBeside(timeline: Timeline, clip: Clip, by: number): string {
  const own = timeline.lanes.find((l) => l.id === clip.laneId);
  const sameKind = timeline.lanes.filter((l) => l.kind === own?.kind);
  const lane = sameKind[sameKind.findIndex((l) => l.id === clip.laneId) + by];
  if (!lane) throw new Refused('no-lane-there', {});
  return lane.id;
}
