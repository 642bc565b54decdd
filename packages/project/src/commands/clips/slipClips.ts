import { over, rate, type Timing } from '@thawline/core/time';
import { z } from 'zod';
import { type Clip, idSchema, type Timeline } from '../../document/document.js';
import { checkMaterial, findSource, findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { mappingOf } from '../../timing/mapping.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { clipIdsSchema } from '../schemas.js';

/** Other pictures at the same place, `byPictures` later ones; linked clips slip as well. */
export const slipClips = defineCommand({
  schema: z.object({ type: z.literal('slipClips'), timelineId: idSchema, clipIds: clipIdsSchema, byPictures: z.int() }),
  change(draft, command, known) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const clip of withLinked(timeline, command.clipIds)) {
      const source = findSource(draft, clip.sourceId);
      clip.inPicture += command.byPictures;
      if (clip.inPicture < 0) countFromLater(timeline, clip, mappingOf(clip, source, timeline, known).timing);
      if (clip.curve) for (const pin of clip.curve) pin.picture += command.byPictures;
      clip.cut = null;
      if (clip.curve?.some((pin) => pin.picture < 0 || pin.picture >= source.pictures))
        throw new Refused('past-source', { clip: source.name });
      if (clip.inPicture < 0) throw new Refused('past-source', { clip: source.name });
      checkMaterial(draft, timeline, { clip, known });
    }
  },
  label: (command, names) =>
    `Slipped ${names.clips(command.timelineId, command.clipIds)} by ${counted(command.byPictures, 'picture')}`,
});

/**
 * Lets a clip whose in picture lies before the first one count from a later one instead, by whole turns of its cadence: it shows the
 * same. A clip that was split far from its in point may well be slipped by more than that lies in.
 */
function countFromLater(timeline: Timeline, clip: Clip, timing: Timing): void {
  if (timing.kind !== 'constant') return;
  const turn = clip.fit === 'pictures' ? rate(1) : over(timing.rate, timeline.rate);
  const turns = Math.ceil(-clip.inPicture / turn.num);
  if (clip.headTrim < turns * turn.den) return;
  clip.inPicture += turns * turn.num;
  clip.headTrim -= turns * turn.den;
}
