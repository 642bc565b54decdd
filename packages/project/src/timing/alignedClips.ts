import { solveTies } from '@thawline/core/align';
import { pictureSeconds, rateToNumber } from '@thawline/core/time';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { clipEnd, type TimingOf, timingUnder } from './mapping.js';
import { actionSpeed } from './reading.js';
import { soundWay } from './soundSpeed.js';

/** The moment of a source that a clip's frame shows (or would, before and after it), in its own seconds. */
export function secondsAt(
  source: Source,
  clip: Clip,
  { timeline, frame, known }: { readonly timeline: Timeline; readonly frame: number; readonly known: TimingOf },
): number {
  const speed = rateToNumber(actionSpeed(source, clip, timeline)) / rateToNumber(timeline.rate);
  const from = pictureSeconds(timingUnder(source, null, known), clip.inPicture) + clip.slip / 1e6;
  return from + (frame - clip.start + clip.headTrim) * speed;
}

/** Sounds that lie so near to where their ties have them are aligned, in seconds. */
const ALIGNED = 0.001;

/**
 * Clips of a timeline that was carried to another rate, with aligned sounds still aligned. Every clip went to a frame of its own, up to
 * half a frame away: two recordings of one event would be heard apart by as much as a frame.
 * @param before the timeline they were carried from; clips have kept their ids
 */
export function keepAligned(project: Project, before: Timeline, after: Timeline, known: TimingOf): Clip[] {
  const there = new Map(after.clips.map((c) => [c.id, c]));
  const sounds = new Set(before.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  for (const { aId, bId, ties } of project.alignments) {
    const solution = solveTies(ties);
    const [a, b] = [aId, bId].map((id) => project.sources.find((s) => s.id === id));
    if (!solution || !a || !b) continue;
    /** Seconds by which b lies after its place beside a, at a frame of both. */
    const off = (timeline: Timeline, first: Clip, second: Clip): number => {
      const frame = Math.max(first.start, second.start);
      const asked = solution.offsetSeconds + rateToNumber(solution.ratio) * secondsAt(a, first, { timeline, frame, known });
      return secondsAt(b, second, { timeline, frame, known }) - asked;
    };
    const leads = before.clips.filter((c) => c.sourceId === aId && !c.curve && sounds.has(c.laneId));
    for (const clip of before.clips.filter((c) => c.sourceId === bId && !c.curve && sounds.has(c.laneId))) {
      const lead = leads.find((c) => overlap(c, clip) && Math.abs(off(before, c, clip)) < ALIGNED);
      const [first, second] = [lead && there.get(lead.id), there.get(clip.id)];
      if (!first || !second || soundWay(b, second) === 'own') continue;
      there.set(clip.id, { ...second, slip: second.slip - Math.round(off(after, first, second) * 1e6) });
    }
  }
  return after.clips.map((c) => there.get(c.id) as Clip);
}

function overlap(a: Clip, b: Clip): boolean {
  return a.start < clipEnd(b) && b.start < clipEnd(a);
}
