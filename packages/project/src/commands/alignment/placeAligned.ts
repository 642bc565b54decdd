import { byWayOf, type Relation, relationOf, type Solution, solveTies, type Tie } from '@thawline/core/align';
import { longestRun } from '@thawline/core/cadence';
import { over, rateToNumber, times } from '@thawline/core/time';
import { z } from 'zod';
import {
  type Clip,
  idSchema,
  type Project,
  type Source,
  soundWaySchema,
  type Timeline,
  tieSchema,
  timelineSchema,
} from '../../document/document.js';
import { findFileSource, findTimeline, Refused } from '../../refusals/guards.js';
import { clipsFor, plainClip } from '../../timelines/place.js';
import { secondsAt } from '../../timing/alignedClips.js';
import { alignmentOf } from '../../timing/alignments.js';
import { mappingOf, type TimingOf, timelineLength } from '../../timing/mapping.js';
import { actionSpeed, readingSpeed } from '../../timing/reading.js';
import { putClips } from '../clips/placeClips.js';
import { defineCommand } from '../define.js';
import { nameSchema, seedSchema } from '../schemas.js';
import { freeLane } from '../timelines/lanes.js';
import { addEmptyTimeline } from '../timelines/newTimeline.js';
import { keepTies } from './setTies.js';

/**
 * Puts the second recording beside the first one, at the offset and speed that their ties give: where the first one stands on the
 * timeline, or at its end together with it. `timeline` makes that timeline first.
 */
export const placeAligned = defineCommand({
  schema: z.object({
    type: z.literal('placeAligned'),
    aId: idSchema,
    bId: idSchema,
    timelineId: idSchema,
    timeline: timelineSchema
      .pick({ width: true, height: true, rate: true })
      .extend({ name: nameSchema })
      .nullable()
      .default(null),
    way: soundWaySchema.nullable().default(null),
    /** These ties, taken in the same step; those that are kept already where left out. */
    ties: z.array(tieSchema).max(1000).default([]),
    /** More recordings of the event, each by one that is placed before it. */
    more: z
      .array(z.object({ aId: idSchema, bId: idSchema, ties: z.array(tieSchema).max(1000).default([]) }))
      .max(100)
      .default([]),
    seed: seedSchema,
  }),
  change(draft, command, known) {
    const steps: Step[] = [command, ...command.more];
    for (const step of steps) if (step.ties.length > 0) keepTies(draft, { ...step, ties: [...step.ties] });
    const solutions = steps.map((step) => solutionOf(draft, step));
    if (command.timeline)
      addEmptyTimeline(draft, { ...command.timeline, id: command.timelineId, startFrame: 0, dropFrame: false });
    let made = 0;
    const placing: Placing = {
      timeline: findTimeline(draft, command.timelineId),
      way: command.way,
      newId: () => `${command.seed}-${made++}`,
      known,
    };
    const before = secondsBefore(steps, solutions);
    steps.forEach((step, i) => {
      placeOne(draft, step, solutions[i] as Solution, before, placing);
    });
  },
  label: (command, names) =>
    `Placed ${names.source(command.bId)}${command.more.length > 0 ? ` and ${command.more.length} more` : ''} along ${names.source(command.aId)} on ${command.timeline?.name ?? names.timeline(command.timelineId)}`,
});

/** One recording that is placed by another. */
interface Step {
  readonly aId: string;
  readonly bId: string;
  readonly ties: readonly Tie[];
}

/** What placing needs at every step. */
interface Placing {
  readonly timeline: Timeline;
  readonly way: Clip['sound'];
  readonly newId: () => string;
  readonly known: TimingOf;
}

function solutionOf(draft: Project, { aId, bId }: Step): Solution {
  const solution = solveTies(alignmentOf(draft, aId, bId)?.ties ?? []);
  if (!solution) throw new Refused('no-ties', { a: findFileSource(draft, aId).name, b: findFileSource(draft, bId).name });
  return solution;
}

/** Seconds of the first recording that the earliest of the others began before it. */
function secondsBefore(steps: readonly Step[], solutions: readonly Solution[]): number {
  const first = steps[0] as Step;
  const places = new Map<string, Relation>([[first.aId, { offset: 0, ratio: 1 }]]);
  let before = 0;
  steps.forEach((step, i) => {
    const from = places.get(step.aId);
    if (!from) return;
    const there = byWayOf(from, relationOf(solutions[i] as Solution));
    places.set(step.bId, there);
    before = Math.max(before, there.offset / there.ratio);
  });
  return before;
}

function placeOne(draft: Project, { aId, bId }: Step, solution: Solution, before: number, placing: Placing): void {
  const { timeline, way, newId, known } = placing;
  const [a, b] = [findFileSource(draft, aId), findFileSource(draft, bId)];
  const anchor = anchorOf(draft, a, before, placing);
  const speed = times(solution.ratio, actionSpeed(a, anchor, timeline));
  // Seconds of b at a frame of the timeline.
  const at = (frame: number): number =>
    solution.offsetSeconds + rateToNumber(solution.ratio) * secondsAt(a, anchor, { timeline, frame, known });
  const perFrame = rateToNumber(speed) / rateToNumber(timeline.rate);
  const first = Math.round(-at(0) / perFrame);
  const base: Clip = {
    ...plainClip(b.id),
    start: Math.max(0, first),
    headTrim: Math.max(0, -first),
    speed: over(speed, readingSpeed(b)),
    sound: b.sound ? way : null,
    slip: Math.round(at(first) * 1e6),
  };
  const length = longestRun(mappingOf(base, b, timeline, known));
  if (length < 1) throw new Refused('past-source', { clip: b.name });
  const kinds = [...(b.kind === 'sound' ? [] : (['picture'] as const)), ...(b.sound ? (['sound'] as const) : [])];
  const link = kinds.length > 1 ? newId() : null;
  const clips = kinds.map((kind): Clip => {
    const clip = { ...base, id: newId(), link, length };
    const own = timeline.clips.filter((c) => c.sourceId === a.id).map((c) => c.laneId);
    const lanes = timeline.lanes.filter((l) => l.kind === kind);
    const from = lanes.findIndex((l) => own.includes(l.id));
    const laneId = freeLane(timeline, {
      kind,
      laneId: lanes[Math.max(0, from)]?.id ?? '',
      by: from < 0 ? 0 : 1,
      clips: [clip],
      newId: newId(),
    });
    return { ...clip, laneId };
  });
  putClips(draft, timeline, clips, known);
}

/**
 * The clip of a recording that another is placed by: one that is there, or one made at the timeline's end.
 * @param before seconds of room that are wanted before it
 */
function anchorOf(draft: Project, a: Source, before: number, { timeline, newId, known }: Placing): Clip {
  const there = timeline.clips.filter((c) => c.sourceId === a.id);
  const even = there.find((c) => !c.curve && c.fit !== 'freeze' && c.fit !== 'pictures');
  if (even) return even;
  if (there.length > 0) throw new Refused('uneven-anchor', { clip: a.name });
  const start = timelineLength(timeline) + Math.ceil(before * rateToNumber(timeline.rate));
  const clips = clipsFor({ timeline, source: a, fit: 'nearest', start, newId }, known);
  putClips(draft, timeline, clips, known);
  return clips[0] as Clip;
}
