import { allowsDropFrame, frameNearest, type Rate, sameRate, times } from '@thawline/core/time';
import { carryClip, carryCuts, carryStart, carryTimeline } from './carry.js';
import { checkRoom, findClip, findTimeline, Refused, withLinked } from './checks.js';
import type { Command } from './commands.js';
import { type Clip, firstLanes, type Lane, type Project, type Source, type Timeline, timelineSchema } from './document.js';
import { clipEnd, type TimingOf } from './mapping.js';
import { passingRate } from './reading.js';
import { nestedOf, placedIn, sourceOf } from './sources.js';

/** What commands do to timelines as wholes. */

type Of<T extends Command['type']> = Extract<Command, { type: T }>;

export function addTimeline(draft: Project, timeline: Of<'addTimeline'>['timeline']): void {
  freeId(draft, timeline.id);
  const { dropFrame, startFrame } = timeline;
  checkFormat({ ...timeline, dropFrame, startFrame });
  draft.timelines.push({ ...timeline, range: null, lanes: firstLanes(), clips: [], marks: [], kept: null });
}

function freeId(draft: Project, id: string): void {
  if (draft.timelines.some((t) => t.id === id) || draft.sources.some((s) => s.id === id)) throw new Refused('id-taken', { id });
}

/** Size, start and drop-frame change at any time; the rate of a timeline with clips does not: its edit is carried to another. */
export function setFormat(timeline: Timeline, format: Of<'setTimelineFormat'>): void {
  const next = {
    rate: format.rate,
    width: format.width,
    height: format.height,
    // The label stays, not the count: 01:00:00:00 is 01:00:00:00 at any rate.
    startFrame: format.startFrame ?? carryStart(timeline.startFrame, timeline.rate, format.rate),
    dropFrame: format.dropFrame ?? (timeline.dropFrame && allowsDropFrame(format.rate)),
  };
  if (!sameRate(timeline.rate, next.rate) && timeline.clips.length > 0)
    throw new Refused('timeline-has-clips', { timeline: timeline.name });
  checkFormat(next);
  Object.assign(timeline, next);
}

function checkFormat(format: Pick<Timeline, 'rate' | 'width' | 'height' | 'startFrame' | 'dropFrame'>): void {
  const { width, height } = format;
  if (!timelineSchema.pick({ width: true, height: true }).safeParse({ width, height }).success)
    throw new Refused('bad-size', { width, height });
  if (format.dropFrame && !allowsDropFrame(format.rate)) throw new Refused('no-drop-frame', {});
}

export function duplicateTimeline(draft: Project, command: Of<'duplicateTimeline'>): void {
  freeId(draft, command.newId);
  const timeline = findTimeline(draft, command.timelineId);
  beside(draft, timeline, { ...timeline, id: command.newId, name: command.name });
}

/** A new timeline beside the old one, at another rate; the old one stays. */
export function carry(draft: Project, command: Of<'carryTimeline'>, known: TimingOf): void {
  freeId(draft, command.newId);
  const timeline = findTimeline(draft, command.timelineId);
  beside(draft, timeline, carryTimeline(draft, timeline, { id: command.newId, name: command.name, rate: command.rate }, known));
}

function beside(draft: Project, timeline: Timeline, made: Timeline): void {
  draft.timelines.splice(draft.timelines.indexOf(timeline) + 1, 0, JSON.parse(JSON.stringify(made)) as Timeline);
}

export function removeTimeline(draft: Project, timelineId: string): void {
  const timeline = findTimeline(draft, timelineId);
  const uses = placedIn(draft, timelineId).map((t) => t.name);
  if (uses.length > 0) throw new Refused('timeline-in-use', { timeline: timeline.name, timelines: uses });
  draft.timelines.splice(draft.timelines.indexOf(timeline), 1);
}

/** Lanes as they are to be; those with clips on them cannot go, and none changes its kind. */
export function setLanes(timeline: Timeline, lanes: readonly Lane[]): void {
  const ids = new Set(lanes.map((l) => l.id));
  if (ids.size !== lanes.length) throw new Refused('id-taken', {});
  const kinds = new Map(lanes.map((l) => [l.id, l.kind]));
  for (const lane of timeline.lanes) {
    const used = timeline.clips.some((c) => c.laneId === lane.id);
    if (used && kinds.get(lane.id) !== lane.kind) throw new Refused('lane-in-use', { lane: lane.name });
  }
  if (!lanes.some((l) => l.kind === 'picture')) throw new Refused('no-lane-there', {});
  timeline.lanes = [...lanes.filter((l) => l.kind === 'picture'), ...lanes.filter((l) => l.kind === 'sound')];
}

/**
 * Sources and timelines of an edit file beside those that are there, as plain values: thousands of clips that nobody has seen before need
 * no record of their changes. A source that stands in for a file which is still to be found may be named again: it becomes as long as the
 * new uses want it, and gains sound where they have some.
 * @returns the project with them, and what came and changed
 */
export function openEdit(
  project: Project,
  command: Of<'openEdit'>,
): { readonly next: Project; readonly added: readonly Added[]; readonly widened: readonly Widened[] } {
  const ids = new Set([...project.sources, ...project.timelines].map((s) => s.id));
  const widened = widenedBy(project, command.sources);
  const fresh = command.sources.filter((s) => !widened.some((w) => w.source.id === s.id));
  for (const { id } of [...fresh, ...command.timelines]) {
    if (ids.has(id)) throw new Refused('id-taken', { id });
    ids.add(id);
  }
  for (const timeline of command.timelines) {
    checkFormat(timeline);
    const lanes = new Set(timeline.lanes.map((l) => l.id));
    for (const clip of timeline.clips) {
      if (!ids.has(clip.sourceId)) throw new Refused('unknown-source', { id: clip.sourceId });
      if (!lanes.has(clip.laneId)) throw new Refused('unknown-lane', { lane: clip.laneId });
    }
    checkRoom(timeline, timeline.clips);
  }
  const { sources, timelines } = project;
  return {
    next: {
      ...project,
      sources: [...sources.map((s) => widened.find((w) => w.source.id === s.id)?.source ?? s), ...fresh],
      timelines: [...timelines, ...command.timelines],
    },
    widened,
    added: [
      ...fresh.map((value, i): Added => ({ path: ['sources', sources.length + i], value })),
      ...command.timelines.map((value, i): Added => ({ path: ['timelines', timelines.length + i], value })),
    ],
  };
}

interface Widened {
  readonly index: number;
  readonly before: Source;
  readonly source: Source;
}

function widenedBy(project: Project, named: readonly Source[]): Widened[] {
  return named.flatMap((source) => {
    const index = project.sources.findIndex((s) => s.id === source.id);
    const before = project.sources[index];
    if (!before?.lost || !source.lost) return [];
    const longer = source.pictures > before.pictures ? { pictures: source.pictures, seconds: source.seconds } : {};
    return [
      {
        index,
        before,
        source: {
          ...before,
          ...longer,
          sound: before.sound && source.sound ? longest(before.sound, source.sound) : (before.sound ?? source.sound),
        },
      },
    ];
  });
}

function longest<S extends { readonly seconds: number }>(a: S, b: S): S {
  return a.seconds >= b.seconds ? a : b;
}

interface Added {
  readonly path: ['sources' | 'timelines', number];
  readonly value: Source | Timeline;
}

/**
 * Puts a placed timeline's own clips where it stood, its picture lanes from the clip's lane upward, its sound from the linked
 * sound's lane on; lanes are added where those are taken. Everything stays at its moment, at the speed it was placed with.
 */
export function unpackClip(draft: Project, command: Of<'unpackClip'>, known: TimingOf): void {
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
    const kind = timeline.lanes.find((l) => l.id === part.laneId)?.kind ?? 'picture';
    const passing = part.fit === 'pictures' ? timeline.rate : (passingRate(source, part) ?? inner.rate);
    for (const [index, lane] of inner.lanes.filter((l) => l.kind === kind).entries()) {
      const clips = unpacked(draft, timeline, part, inner, lane.id, passing, known).map((clip) => {
        const link =
          clip.link && `${command.seed}-l${seen.get(clip.link) ?? seen.set(clip.link, String(seen.size)).get(clip.link)}`;
        return { ...clip, id: `${command.seed}-${made++}`, link };
      });
      if (clips.length === 0) continue;
      const laneId = freeLane(timeline, kind, part.laneId, index, clips, `${command.seed}-n${made}`);
      timeline.clips.push(...clips.map((clip) => ({ ...clip, laneId })));
    }
  }
  checkRoom(timeline, timeline.clips);
}

/** The clips of an inner lane that the placed range shows, on the outer timeline's frames. `passing`: inner frames a second of the outer. */
function unpacked(
  draft: Project,
  timeline: Timeline,
  part: Clip,
  inner: Timeline,
  laneId: string,
  passing: Rate,
  known: TimingOf,
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
      sourceOf(draft, clip.sourceId),
      passing,
      timeline.rate,
      { start, length },
      known,
    );
    const from = Math.max(start, part.start);
    const to = Math.min(start + length, part.start + part.length);
    if (to <= from) return [];
    // What it came in over is not there any more.
    if (from > start) delete carried.dissolve;
    return [{ ...carried, start: from, length: to - from, headTrim: carried.headTrim + from - start }];
  });
}

/** The lane so many above (for sound: below) the wanted one if it has room there, else a new one. */
export function freeLane(
  timeline: Timeline,
  kind: Lane['kind'],
  laneId: string,
  by: number,
  clips: readonly Clip[],
  newId: string,
): string {
  const kin = timeline.lanes.filter((l) => l.kind === kind);
  for (const lane of kin.slice(
    Math.max(
      0,
      kin.findIndex((l) => l.id === laneId),
    ) + by,
  )) {
    const taken = timeline.clips.filter((c) => c.laneId === lane.id);
    if (clips.every((c) => taken.every((t) => clipEnd(t) <= c.start || t.start >= clipEnd(c)))) return lane.id;
  }
  const name = `${kind === 'picture' ? 'Picture' : 'Sound'} ${kin.length + 1}`;
  setLanes(timeline, [...timeline.lanes, { id: newId, kind, name, kept: null }]);
  return newId;
}
