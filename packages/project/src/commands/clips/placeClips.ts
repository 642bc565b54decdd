import { z } from 'zod';
import { type Clip, clipSchema, idSchema, type Project, type Timeline } from '../../document/document.js';
import { checkMaterial, checkRoom, findSource, findTimeline, Refused } from '../../refusals/guards.js';
import { holds, nestedOf } from '../../resolve/sources.js';
import type { TimingOf } from '../../timing/mapping.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';

export const placeClips = defineCommand({
  schema: z.object({ type: z.literal('placeClips'), timelineId: idSchema, clips: z.array(clipSchema).min(1).max(10_000) }),
  change(draft, command, known) {
    putClips(draft, findTimeline(draft, command.timelineId), command.clips, known);
  },
  label(command, names) {
    const ids = new Set(command.clips.map((c) => c.sourceId));
    const what = ids.size === 1 ? names.source(command.clips[0]?.sourceId ?? '') : counted(ids.size, 'source');
    return `Placed ${what} on ${names.timeline(command.timelineId)}`;
  },
});

/** Clips that come from another rate have their cuts at the nearest frame: the last may begin after the pictures' end. */
const ROUNDED = 1;

export function putClips(draft: Project, timeline: Timeline, clips: readonly Clip[], known: TimingOf): void {
  const ids = new Set(timeline.clips.map((c) => c.id));
  const lanes = new Map(timeline.lanes.map((l) => [l.id, l]));
  for (const clip of clips) {
    if (ids.has(clip.id)) throw new Refused('id-taken', { id: clip.id });
    ids.add(clip.id);
    if (!lanes.has(clip.laneId)) throw new Refused('unknown-lane', { lane: clip.laneId });
    if (nestedOf(draft, clip.sourceId) && holds(draft, clip.sourceId, timeline.id))
      throw new Refused('within-itself', { timeline: timeline.name });
    const source = findSource(draft, clip.sourceId);
    if (source.kind === 'sound' && lanes.get(clip.laneId)?.kind === 'picture')
      throw new Refused('no-pictures', { clip: source.name });
    checkMaterial(draft, timeline, { clip, known, slack: ROUNDED });
    timeline.clips.push(clip);
  }
  checkRoom(timeline, clips);
}
