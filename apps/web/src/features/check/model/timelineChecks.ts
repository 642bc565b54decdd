import { checkTimeline, type FrameCause, type TimelineCheck } from '@thawline/project';
import { useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks } from '../../../api/queries.js';
import { count, plural } from '../../../shared/words.js';

/** What each timeline's own frames show, by timeline id: follows the edit and the checks as they change. */
export function useTimelineChecks(): ReadonlyMap<string, TimelineCheck> {
  const { id, project, timings } = useProject();
  const checks = useChecks(id);
  return useMemo(
    () =>
      new Map(
        project.timelines.map((t) => [
          t.id,
          checkTimeline(project, t, { known: timings, faultsOf: (media) => checks.get(media)?.verdict }),
        ]),
      ),
    [project, timings, checks],
  );
}

/** A cause in a word or two, as lists and keys have it. */
export const CAUSES: Record<FrameCause, string> = {
  rate: 'held by rate',
  cut: 'held at a cut',
  source: 'held in source',
  skip: 'skipped',
  jump: 'jump in source',
};

export const heldFrames = ({ frames }: TimelineCheck): number => frames.rate + frames.cut + frames.source;

/** "12 held, 3 skipped" or "each frame new"; of a timeline in fields these are fields. */
export function timelineShort(check: TimelineCheck): string {
  const { skip, jump } = check.frames;
  const held = heldFrames(check);
  const parts = [
    held > 0 ? `${count(held)} held` : '',
    skip > 0 ? `${count(skip)} skipped` : '',
    jump > 0 ? plural(jump, 'jump') : '',
  ];
  const said = parts.filter(Boolean).join(', ');
  return said || (check.fresh > 0 ? `each ${check.moments === 2 ? 'field' : 'frame'} new` : 'nothing moves');
}

/** Who is to blame, in sentences. */
export function timelineLong(check: TimelineCheck): string {
  const { frames, moments } = check;
  const frame = moments === 2 ? 'field' : 'frame';
  const said = [
    frames.rate > 0 ? `The timeline's rate repeats ${plural(frames.rate, 'picture')}.` : '',
    frames.cut > 0 ? `${plural(frames.cut, 'cut begins', 'cuts begin')} with the picture shown last.` : '',
    frames.source > 0
      ? `${plural(frames.source, `${frame} shows`, `${frame}s show`)} a picture that its source holds, whatever the timeline's rate.`
      : '',
    frames.skip > 0 ? `At ${plural(frames.skip, frame)} new pictures are left out.` : '',
    frames.jump > 0 ? `At ${plural(frames.jump, frame)} the source lacks pictures.` : '',
  ].filter(Boolean);
  if (said.length > 0) return said.join(' ');
  return check.fresh > 0 ? `Each ${frame} shows a picture of its own, and none is left out.` : 'Nothing in it is meant to move.';
}
