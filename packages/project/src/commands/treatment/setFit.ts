import { FITS, longestRun, positionAt } from '@thawline/core/cadence';
import { z } from 'zod';
import { type Clip, idSchema, type Timeline } from '../../document/document.js';
import { checkRoom, findSource, findTimeline, withLinked } from '../../refusals/guards.js';
import { mappingOf } from '../../timing/mapping.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/**
 * Another fit keeps the clip's place and its first picture. A clip that was as long as its source stays so, if there is
 * room; one that is now longer than its material ends with it.
 */
export const setFit = defineCommand({
  schema: z.object({ type: z.literal('setFit'), timelineId: idSchema, clipIds: clipIdsSchema, fit: z.enum(FITS) }),
  change(draft, command, known) {
    const timeline = findTimeline(draft, command.timelineId);
    const { fit } = command;
    const clips = withLinked(timeline, command.clipIds);
    for (const clip of clips) {
      const source = findSource(draft, clip.sourceId);
      // Sound alone has no pictures to fit; it can stop.
      if (source.kind === 'sound' && fit !== 'nearest' && fit !== 'freeze') continue;
      const before = mappingOf(clip, source, timeline, known);
      const whole = clip.fit !== 'freeze' && !clip.curve && clip.length >= longestRun(before);
      const paced = (f: Clip['fit']): boolean => f === 'pictures' || f === 'freeze';
      if (paced(clip.fit) !== paced(fit) || clip.fit === 'freeze' || fit === 'freeze') {
        clip.curve = null;
        clip.instead = [];
        clip.inPicture = Math.max(0, Math.min(source.pictures - 1, positionAt(before, 0).picture));
        clip.headTrim = 0;
      }
      clip.fit = fit;
      clip.cut = null;
      clip.keptAt = null;
      if (fit === 'freeze') continue;
      const longest = longestRun(mappingOf(clip, source, timeline, known));
      if (whole) clip.length = Math.min(longest, roomAfter(timeline, clip));
      clip.length = Math.max(1, Math.min(clip.length, longest));
    }
    checkRoom(timeline, clips);
  },
  label: (command, names) => `Fitted ${names.clips(command.timelineId, command.clipIds)}: ${FIT_WORDS[command.fit]}`,
});

const FIT_WORDS = {
  nearest: 'keep time, nearest',
  blend: 'keep time, blend',
  motion: 'keep time, motion',
  pictures: 'keep pictures',
  freeze: 'freeze',
} as const;

/** Free frames from the clip's start to the next clip of its lane. */
function roomAfter(timeline: Timeline, clip: Clip): number {
  const next = timeline.clips
    .filter((c) => c.laneId === clip.laneId && c.id !== clip.id && c.start >= clip.start)
    .reduce((least, c) => Math.min(least, c.start), Number.MAX_SAFE_INTEGER);
  return next - clip.start;
}
