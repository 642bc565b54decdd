import { type Mapping, positionAt, type StepMap, stepMap } from '@thawline/core/cadence';
import { current, isDraft } from 'immer';
import type { Clip, Project, Timeline } from '../document/document.js';
import { segmentAt } from '../resolve/plan.js';
import { sourceOf } from '../resolve/sources.js';
import { clipEnd, mappingOf, type TimingOf } from '../timing/mapping.js';
import type { CommandType } from './registry.js';

/** Commands that move clips as a side effect: marks, in and out points follow their pictures. */
const MOVING: ReadonlySet<CommandType> = new Set(['readAt', 'readFields', 'retimeClip', 'closeGaps']);

/**
 * Puts a timeline's marks, in and out on the pictures that they stood on, wherever these are now.
 * @param before the project as it was; `draft` is changed
 */
export function followMarks(before: Project, draft: Project, type: CommandType, known: TimingOf): void {
  if (!MOVING.has(type)) return;
  for (const timeline of draft.timelines) {
    const was = before.timelines.find((t) => t.id === timeline.id);
    if (!was || (was.marks.length === 0 && !was.range)) continue;
    const now = isDraft(timeline) ? current(timeline) : timeline;
    if (now.clips === was.clips && now.rate === was.rate && before.sources === draft.sources) continue;
    const place = follower({ before, was, after: isDraft(draft) ? current(draft) : draft, now, known });
    const taken = new Set<string>();
    timeline.marks = was.marks
      .map((mark) => {
        const frame = place(mark.frame);
        const end = mark.length > 0 ? place(mark.frame + mark.length - 1) + 1 : frame;
        return { ...mark, frame, length: mark.length > 0 ? Math.max(1, end - frame) : 0, id: nameOf(mark, frame, taken) };
      })
      .sort((a, b) => a.frame - b.frame);
    if (!was.range) continue;
    const [from, to] = [place(was.range.from), place(was.range.to - 1) + 1];
    timeline.range = { from, to: Math.max(from + 1, to) };
  }
}

/** A mark that people made is named by its frame, so that one frame has one; others keep their names. */
function nameOf({ id, frame: was }: Timeline['marks'][number], frame: number, taken: Set<string>): string {
  let name = id === `mark-${was}` ? `mark-${frame}` : id;
  for (let more = 2; taken.has(name); more++) name = `${id}-${more}`;
  taken.add(name);
  return name;
}

/** Where a frame of the timeline as it was is now. */
function follower({
  before,
  was,
  after,
  now,
  known,
}: {
  readonly before: Project;
  readonly was: Timeline;
  readonly after: Project;
  readonly now: Timeline;
  readonly known: TimingOf;
}): (frame: number) => number {
  const clips = new Map(now.clips.map((c) => [c.id, c]));
  const maps = new Map<string, StepMap>();
  const inOrder = [...was.clips].sort((a, b) => a.start - b.start);
  const mapped = (project: Project, timeline: Timeline, clip: Clip): Mapping | null => {
    const source = sourceOf(project, clip.sourceId);
    return source ? mappingOf(clip, source, timeline, known) : null;
  };
  const within = (clip: Clip, moved: Clip, frame: number): number => {
    const [old, fresh] = [mapped(before, was, clip), mapped(after, now, moved)];
    const n = frame - clip.start;
    if (!old || !fresh) return moved.start + Math.min(n, moved.length - 1);
    const map = maps.get(moved.id) ?? stepMap(fresh);
    maps.set(moved.id, map);
    // The frame at the same place of the clip, where that still shows the same; else the one whose picture is nearest.
    const picture = positionAt(old, n).picture;
    if (map.pictures[n] === picture) return moved.start + n;
    let best = 0;
    for (let k = 1; k < map.pictures.length; k++)
      if (Math.abs((map.pictures[k] as number) - picture) < Math.abs((map.pictures[best] as number) - picture)) best = k;
    return moved.start + best;
  };
  return (frame) => {
    const under = segmentAt(was, frame)?.clip ?? inOrder.find((c) => frame >= c.start && frame < clipEnd(c));
    const moved = under && clips.get(under.id);
    if (under && moved) return within(under, moved, frame);
    // In a gap it goes along with what comes next, behind everything with what comes last.
    const next = inOrder.find((c) => c.start >= frame);
    const anchor = next ?? inOrder.at(-1);
    const anchored = anchor && clips.get(anchor.id);
    if (!anchor || !anchored) return frame;
    const shift = next ? anchored.start - anchor.start : clipEnd(anchored) - clipEnd(anchor);
    return Math.max(0, frame + shift);
  };
}
