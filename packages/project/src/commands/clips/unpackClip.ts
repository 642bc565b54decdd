import { frameNearest, type Rate, times } from '@thawline/core/time';
import { z } from 'zod';
import { type Clip, idSchema, type Project, type Timeline } from '../../document/document.js';
import { checkRoom, findClip, findTimeline, Refused, withLinked } from '../../refusals/guards.js';
import { nestedOf, sourceOf } from '../../resolve/sources.js';
import { carryClip, carryCuts } from '../../timelines/carry.js';
import { clipEnd, type TimingOf } from '../../timing/mapping.js';
import { passingRate } from '../../timing/reading.js';
import { defineCommand } from '../define.js';
import { seedSchema } from '../schemas.js';
import { freeLane } from '../timelines/lanes.js';

/**
 * Puts a placed timeline's own clips where it stood, its picture lanes from the clip's lane upward, its sound from the linked
 * sound's lane on; lanes are added where those are taken. Everything stays at its moment, at the speed it was placed with.
 */
export const unpackClip = defineCommand({
  schema: z.object({ type: z.literal('unpackClip'), timelineId: idSchema, clipId: idSchema, seed: seedSchema }),
  change(draft, command, known) {
    const timeline = findTimeline(draft, command.timelineId);
    const parts = withLinked(timeline, [findClip(timeline, command.clipId).id]);
    const seen = new Map<string, string>();
    timeline.clips = timeline.clips.filter((c) => !parts.includes(c));
    let made = 0;
    for (const part of parts) {
      const inner = nestedOf(draft, part.sourceId);
      const source = sourceOf(draft, part.sourceId);
      if (!inner || !source) throw new Refused('not-a-timeline', {});
      if (part.fit === 'freeze') throw new Refused('frozen', { clip: inner.name });
      if (part.pose || part.opacity !== undefined) throw new Refused('laid-by-hand', { clip: inner.name });
      const kind = timeline.lanes.find((l) => l.id === part.laneId)?.kind ?? 'picture';
      const passing = part.fit === 'pictures' ? timeline.rate : (passingRate(source, part) ?? inner.rate);
      for (const [index, lane] of inner.lanes.filter((l) => l.kind === kind).entries()) {
        const clips = unpacked(draft, { timeline, part, inner, laneId: lane.id, passing, known }).map((clip) => {
          const link =
            clip.link && `${command.seed}-l${seen.get(clip.link) ?? seen.set(clip.link, String(seen.size)).get(clip.link)}`;
          return { ...clip, id: `${command.seed}-${made++}`, link };
        });
        if (clips.length === 0) continue;
        const laneId = freeLane(timeline, { kind, laneId: part.laneId, by: index, clips, newId: `${command.seed}-n${made}` });
        timeline.clips.push(...clips.map((clip) => ({ ...clip, laneId })));
      }
    }
    checkRoom(timeline, timeline.clips);
  },
  label: (command, names) =>
    `Unpacked ${names.clips(command.timelineId, [command.clipId])} on ${names.timeline(command.timelineId)}`,
});

/** The clips of an inner lane that the placed range shows, on the outer timeline's frames. `passing`: inner frames a second of the outer. */
function unpacked(
  draft: Project,
  {
    timeline,
    part,
    inner,
    laneId,
    passing,
    known,
  }: {
    readonly timeline: Timeline;
    readonly part: Clip;
    readonly inner: Timeline;
    readonly laneId: string;
    readonly passing: Rate;
    readonly known: TimingOf;
  },
): Clip[] {
  // Inner frame k stands at outer frame start - headTrim + nearest((k - inPicture) of `passing`).
  const place = (frame: number): number =>
    part.start - part.headTrim + frameNearest(frame - part.inPicture, passing, timeline.rate);
  const own = inner.clips.filter((c) => c.laneId === laneId);
  const origin = Math.min(0, ...own.map((c) => place(c.start)));
  const spans = own.map((c) => ({ start: place(c.start) - origin, end: place(clipEnd(c)) - origin }));
  const cuts = carryCuts(spans, timeline.rate, timeline.rate);
  const speed = times(passing, { num: inner.rate.den, den: inner.rate.num });
  return own.flatMap((clip, i) => {
    const span = spans[i] as (typeof spans)[number];
    const start = (cuts.get(span.start) ?? 0) + origin;
    const length = (cuts.get(span.end) ?? 0) + origin - start;
    const carried = carryClip(
      { ...clip, speed: clip.fit === 'pictures' ? clip.speed : times(clip.speed, speed) },
      { source: sourceOf(draft, clip.sourceId), from: passing, to: timeline.rate, place: { start, length }, known },
    );
    const from = Math.max(start, part.start);
    const to = Math.min(start + length, part.start + part.length);
    if (to <= from) return [];
    // What it came in over is not there any more.
    if (from > start) delete carried.dissolve;
    return [{ ...carried, start: from, length: to - from, headTrim: carried.headTrim + from - start }];
  });
}
