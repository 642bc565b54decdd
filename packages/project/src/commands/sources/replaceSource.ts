import { earliestHead } from '@thawline/core/cadence';
import { type LabelledSource, labelledRun } from '@thawline/core/exchange';
import {
  allowsDropFrame,
  formatTimecode,
  frameAtOrBefore,
  nominalRate,
  over,
  parseTimecode,
  type Rate,
  rate,
  sameRate,
  times,
} from '@thawline/core/time';
import { z } from 'zod';
import { idSchema, type Source } from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { mappingOf } from '../../timing/mapping.js';
import { ownRate } from '../../timing/reading.js';
import { defineCommand } from '../define.js';

/**
 * Every clip of one source shows another's pictures at the same moments of the file; the first one goes. What an edit named
 * by timecode counts from the other's own, where it has one.
 */
export const replaceSource = defineCommand({
  schema: z.object({ type: z.literal('replaceSource'), sourceId: idSchema, byId: idSchema }),
  change(draft, command, known) {
    const source = findFileSource(draft, command.sourceId);
    const by = findFileSource(draft, command.byId);
    if (source.id === by.id) throw new Refused('id-taken', { id: by.id });
    const seen = new Set(
      draft.timelines.flatMap((t) => t.lanes.filter((l) => l.kind === 'picture').map((l) => `${t.id} ${l.id}`)),
    );
    const pictured = draft.timelines.some((t) =>
      t.clips.some((c) => c.sourceId === source.id && seen.has(`${t.id} ${c.laneId}`)),
    );
    if (by.kind === 'sound' && pictured) throw new Refused('no-pictures', { clip: by.name });
    const [from, to] = [ownRate(source), ownRate(by)];
    const labels = source.lost?.labels;
    const start = source.lost && !source.timecode && by.timecode && to ? (parseTimecode(by.timecode, to) ?? 0) : 0;
    for (const timeline of draft.timelines)
      for (const clip of timeline.clips.filter((c) => c.sourceId === source.id)) {
        const there = (picture: number): number => {
          const same = from && to && !sameRate(from, to) ? frameAtOrBefore(picture, from, to) : picture;
          if (labels && from && to)
            return clamped(relabelled(picture, from, labels === 'drop', { rate: to, start: by.timecode }), by);
          // Only what counts from midnight lies past the start of the file's own timecode.
          return clamped(same >= start ? same - start : same, by);
        };
        clip.inPicture = there(clip.inPicture);
        for (const pin of clip.curve ?? []) pin.picture = there(pin.picture);
        // A list counts frames: as many pictures pass in each as the source counts more in a second.
        if (labels && from && to && !clip.curve)
          clip.speed = times(clip.speed, over(times(from, rate(nominalRate(to), nominalRate(from))), to));
        clip.sourceId = by.id;
        clip.cut = null;
        clip.headTrim = Math.max(clip.headTrim, earliestHead(mappingOf(clip, by, timeline, known)));
      }
    draft.alignments = draft.alignments.filter((x) => x.aId !== source.id && x.bId !== source.id);
    draft.sources = draft.sources.filter((s) => s.id !== source.id);
  },
  label: (command, names) => `Put ${names.source(command.byId)} in the place of ${names.source(command.sourceId)}`,
});

function clamped(picture: number, { pictures }: Source): number {
  return Math.max(0, Math.min(pictures - 1, picture));
}

/** The picture of a source that bears the label which a count from midnight at a list's rate is. */
function relabelled(frames: number, list: Rate, dropFrame: boolean, source: LabelledSource): number {
  const label = formatTimecode(frames, list, { dropFrame: dropFrame && allowsDropFrame(list) });
  const length = nominalRate(list);
  return labelledRun({ from: label, to: label, speed: 0, dropFrame }, { list, length, source })?.picture ?? frames;
}
