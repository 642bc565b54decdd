import type { Clip, Project, Timeline } from '../document/document.js';
import { cadenceOf } from '../resolve/plan.js';
import { sourceOf } from '../resolve/sources.js';
import type { TimingOf } from '../timing/mapping.js';

/** A clip that shows pictures which others show, too. */
export interface Reuse {
  readonly timelineId: string;
  readonly clipId: string;
  /** The timeline's frame at which the stretch is first seen, or would be were nothing above it. */
  readonly frame: number;
}

/** A stretch of a source's pictures that is used more than once. */
export interface ReusedStretch {
  readonly sourceId: string;
  readonly from: number;
  /** Not included. */
  readonly to: number;
  /** At least two, in the order of timelines and their clips. */
  readonly uses: readonly Reuse[];
}

interface Span {
  readonly timeline: Timeline;
  readonly clip: Clip;
  readonly from: number;
  readonly to: number;
}

/**
 * The same pictures in several places: of each source the stretches that two or more picture clips show, in the order of
 * sources and pictures. Stills are left out: they are one picture, meant to be shown again. A placed timeline counts as a source.
 */
export function reusedStretches(project: Project, known: TimingOf): ReusedStretch[] {
  const spans = new Map<string, Span[]>();
  for (const timeline of project.timelines) {
    const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
    for (const clip of timeline.clips) {
      const source = lanes.has(clip.laneId) ? sourceOf(project, clip.sourceId) : null;
      if (!source || source.kind === 'still' || clip.fit === 'freeze') continue;
      const pictures = cadenceOf(project, timeline, clip, known)?.map.pictures;
      if (!pictures || pictures.length === 0) continue;
      const [a, b] = [pictures[0] as number, pictures[pictures.length - 1] as number];
      const own = spans.get(clip.sourceId) ?? [];
      own.push({ timeline, clip, from: Math.min(a, b), to: Math.max(a, b) + 1 });
      spans.set(clip.sourceId, own);
    }
  }
  const ids = [...project.sources.map((s) => s.id), ...project.timelines.map((t) => t.id)];
  return ids.flatMap((id) => overlaps(project, id, spans.get(id) ?? [], known));
}

/** Between two neighbouring edges the same clips show the pictures; stretches with the same clips are one. */
function overlaps(project: Project, sourceId: string, spans: readonly Span[], known: TimingOf): ReusedStretch[] {
  const edges = [...new Set(spans.flatMap((s) => [s.from, s.to]))].sort((a, b) => a - b);
  const found: ReusedStretch[] = [];
  for (let i = 0; i + 1 < edges.length; i++) {
    const [from, to] = [edges[i] as number, edges[i + 1] as number];
    const within = spans.filter((s) => s.from <= from && s.to >= to);
    if (within.length < 2) continue;
    const uses = within.map(({ timeline, clip }) => ({
      timelineId: timeline.id,
      clipId: clip.id,
      frame: clip.start + firstFrame(cadenceOf(project, timeline, clip, known)?.map.pictures, from),
    }));
    found.push({ sourceId, from, to, uses });
  }
  return found;
}

function firstFrame(pictures: Int32Array | undefined, from: number): number {
  return Math.max(0, pictures?.findIndex((p) => p >= from) ?? 0);
}
