import { rate, times } from '@thawline/core/time';
import { isDraft } from 'immer';
import type { Clip, MovingClip, Project, Timeline } from '../document/document.js';
import { sourceOf } from '../resolve/sources.js';

const made = new WeakMap<Timeline, Timeline>();

/**
 * A timeline as its fields show it: twice the rate, each frame two. Frame 2n shows what frame n does, and 2n + 1 what lies half a frame later; clips still begin
 * and end on frames, never between the fields of one. A shutter is then one of a field. Where each picture fills a frame it fills both fields.
 */
export function atFieldRate(project: Pick<Project, 'sources' | 'timelines'>, timeline: Timeline): Timeline {
  const known = made.get(timeline);
  if (known) return known;
  const fields: Timeline = {
    ...timeline,
    rate: times(timeline.rate, rate(2)),
    startFrame: 2 * timeline.startFrame,
    dropFrame: false,
    range: timeline.range && { from: 2 * timeline.range.from, to: 2 * timeline.range.to },
    marks: timeline.marks.map((mark) => ({ ...mark, frame: 2 * mark.frame, length: 2 * mark.length })),
    clips: timeline.clips.map((clip) => twice(project, clip)),
  };
  if (!isDraft(timeline)) made.set(timeline, fields);
  return fields;
}

function twice(project: Pick<Project, 'sources' | 'timelines'>, clip: Clip): Clip {
  const { dissolve } = clip;
  const common = {
    start: 2 * clip.start,
    length: 2 * clip.length,
    headTrim: 2 * clip.headTrim,
    instead: clip.instead.flatMap(({ frame, as }) => [
      { frame: 2 * frame, as },
      { frame: 2 * frame + 1, as },
    ]),
    cut: null,
    ...(dissolve ? { dissolve: { ...dissolve, before: 2 * dissolve.before, after: 2 * dissolve.after } } : {}),
  };
  if (clip.fit === 'freeze') return { ...clip, ...common };
  if (clip.fit === 'pictures') return { ...clip, ...common, fit: 'nearest', curve: onePictureAFrame(project, clip) };
  const curve = clip.curve?.map((pin) => ({ ...pin, frame: 2 * pin.frame })) ?? null;
  return { ...clip, ...common, curve };
}

/** A straight line on which a picture passes in two fields. */
function onePictureAFrame(project: Pick<Project, 'sources' | 'timelines'>, { sourceId, inPicture }: Clip): MovingClip['curve'] {
  const last = (sourceOf(project as Project, sourceId)?.pictures ?? inPicture + 1) - 1;
  const from = { frame: 0, picture: inPicture, way: 'even' as const };
  return last > inPicture ? [from, { frame: 2 * (last - inPicture), picture: last, way: 'even' as const }] : [from];
}
