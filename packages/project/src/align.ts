import { byWayOf, type Relation, relationOf, type Solution, solveTies, type Tie, tieFault } from '@thawline/core/align';
import { longestRun } from '@thawline/core/cadence';
import { over, rateToNumber, times } from '@thawline/core/time';
import { secondsAt } from './aligned.js';
import { findTimeline, Refused } from './checks.js';
import type { Command } from './commands.js';
import type { Alignment, Clip, Project, Source, Timeline } from './document.js';
import { placeClips } from './editing.js';
import { mappingOf, type TimingOf, timelineLength } from './mapping.js';
import { clipsFor, plainClip } from './place.js';
import { actionSpeed, readingSpeed } from './reading.js';
import { addTimeline, freeLane } from './timelines.js';

/** Two recordings of one event: the ties a person settled on, and placing the second one by them. */

type Of<T extends Command['type']> = Extract<Command, { type: T }>;

/** The ties of two sources, in this order; undefined where there are none. */
export function alignmentOf(project: Project, aId: string, bId: string): Alignment | undefined {
  return project.alignments.find((x) => x.aId === aId && x.bId === bId);
}

export function setTies(draft: Project, { aId, bId, ties }: Of<'setTies'>): void {
  const [a, b] = [recordingOf(draft, aId), recordingOf(draft, bId)];
  if (aId === bId) throw new Refused('id-taken', { id: aId });
  checkTies(a, b, ties);
  draft.alignments = draft.alignments.filter((x) => x.aId !== aId || x.bId !== bId);
  if (ties.length > 0) draft.alignments.push({ aId, bId, ties: [...ties].sort((p, q) => p.a - q.a) });
}

/** A file's source: a timeline standing as one is no recording. */
function recordingOf(draft: Project, id: string): Source {
  const source = draft.sources.find((s) => s.id === id);
  if (!source) throw new Refused('unknown-source', { id });
  return source;
}

function checkTies(a: Source, b: Source, ties: readonly Tie[]): void {
  for (const [source, side] of [
    [a, 'a'],
    [b, 'b'],
  ] as const) {
    const end = recordedSeconds(source) * 1e6;
    if (ties.some((t) => t[side] > end)) throw new Refused('tie-outside', { source: source.name, seconds: end / 1e6 });
  }
  const fault = tieFault(ties);
  if (fault) throw new Refused(fault, { a: a.name, b: b.name });
}

/** How long a recording runs, picture or sound, in seconds of its own. */
export function recordedSeconds(source: Source): number {
  const sound = source.sound ? source.sound.seconds + source.sound.startSeconds : 0;
  return Math.max(source.seconds ?? 0, sound);
}

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

export function placeAligned(draft: Project, command: Of<'placeAligned'>, known: TimingOf): void {
  const steps: Step[] = [command, ...command.more];
  for (const step of steps) if (step.ties.length > 0) setTies(draft, { ...step, type: 'setTies', ties: [...step.ties] });
  const solutions = steps.map((step) => solutionOf(draft, step));
  if (command.timeline) addTimeline(draft, { ...command.timeline, id: command.timelineId, startFrame: 0, dropFrame: false });
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
}

function solutionOf(draft: Project, { aId, bId }: Step): Solution {
  const solution = solveTies(alignmentOf(draft, aId, bId)?.ties ?? []);
  if (!solution) throw new Refused('no-ties', { a: recordingOf(draft, aId).name, b: recordingOf(draft, bId).name });
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
  const [a, b] = [recordingOf(draft, aId), recordingOf(draft, bId)];
  const anchor = anchorOf(draft, a, before, placing);
  const speed = times(solution.ratio, actionSpeed(a, anchor, timeline));
  // Seconds of b at a frame of the timeline.
  const at = (frame: number): number =>
    solution.offsetSeconds + rateToNumber(solution.ratio) * secondsAt(a, anchor, timeline, frame, known);
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
    const laneId = freeLane(timeline, kind, lanes[Math.max(0, from)]?.id ?? '', from < 0 ? 0 : 1, [clip], newId());
    return { ...clip, laneId };
  });
  placeClips(draft, timeline, clips, known);
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
  placeClips(draft, timeline, clips, known);
  return clips[0] as Clip;
}
