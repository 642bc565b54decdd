import { rate } from '@thawline/core/time';
import {
  type Clip,
  type ClipCadence,
  cadenceOf,
  clipsFor,
  emptyProject,
  type Film,
  type MovingClip,
  noTiming,
  type Project,
} from '@thawline/project';
import { madeSource } from '@thawline/project/fixture';

/** A clip of 400 pictures at 100 on a timeline of 25, for tests of what its frames show. */
export const source: Film = { ...madeSource('icicles', rate(100), 400), id: 's', mediaId: 'm' };

/** The source on a timeline of 25, the clip changed. */
export function cadence(change: Partial<MovingClip> | Clip): ClipCadence {
  const timeline = {
    id: 't',
    name: 'Cut',
    rate: rate(25),
    width: 640,
    height: 360,
    startFrame: 0,
    dropFrame: false,
    range: null,
    lanes: [{ id: 'p1', kind: 'picture' as const, name: 'Picture 1', kept: null }],
    clips: [] as Clip[],
    marks: [],
    kept: null,
  };
  const project: Project = { ...emptyProject('Test'), sources: [source], timelines: [timeline] };
  const [clip] = clipsFor({ timeline, source, fit: 'motion', newId: () => 'c' }, noTiming);
  const found = cadenceOf(project, timeline, { ...(clip as MovingClip), ...change }, noTiming);
  if (!found) throw new Error('no cadence');
  return found;
}
