import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { timelineLength } from '../timing/mapping.js';
import { isClear } from './clear.js';
import { framedBy } from './laid.js';
import { segmentsOf } from './plan.js';
import { beneath, nestedOf, sourceOf } from './sources.js';

/** Whether a source's pictures are of all around, equirectangular: by what a person says, else by its file. */
export function isSphere(source: Source): boolean {
  if (source.kind === 'sound' || source.kind === 'timeline') return false;
  return (source.projection ?? source.looks?.projection) === 'equirectangular';
}

/** Timelines within timelines that are followed. */
const DEPTH_MOST = 12;

/** Whether each frame of a timeline (or a range of it) is a picture of all around: beneath whatever lies on it one fills the frame, whole and unturned. */
export function showsSphere(project: Project, timeline: Timeline, range: Timeline['range'] = null, depth = 0): boolean {
  const [from, to] = [range?.from ?? 0, range?.to ?? timelineLength(timeline)];
  if (to <= from || depth > DEPTH_MOST) return false;
  const within = segmentsOf(timeline).filter((s) => s.from < to && s.to > from);
  const last = within.at(-1);
  if (!last || last.to < to) return false;
  return within.every(({ clip, dissolve, ...segment }) => {
    const part = { from: Math.max(from, segment.from), to: Math.min(to, segment.to) };
    const shown = dissolve ? [dissolve.out, dissolve.into] : [clip];
    return shown.every((one) => one !== null && clipShows(project, timeline, { clip: one, part, depth }));
  });
}

function clipShows(
  project: Project,
  timeline: Timeline,
  { clip, part, depth }: { readonly clip: Clip; readonly part: NonNullable<Timeline['range']>; readonly depth: number },
): boolean {
  const source = sourceOf(project, clip.sourceId);
  if (!source) return false;
  const { a, b, c, d, e, f } = framedBy(source, timeline, clip).matrix;
  const isWhole = [a - 1, b, c, d - 1, e, f].every((n) => Math.abs(n) < 1e-6) && !clip.pose;
  const inner = nestedOf(project, source.id);
  if (isWhole && (inner ? showsSphere(project, inner, null, depth + 1) : isSphere(source))) return true;
  return isClear(project, timeline, clip, source) && showsSphere(project, beneath(timeline, clip), part, depth + 1);
}
