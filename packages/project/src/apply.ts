import { earliestHead, longestRun, positionAt } from '@thawline/core/cadence';
import { applyPatches, enablePatches, type Patch, produceWithPatches } from 'immer';
import type { Command, Facts, Refusal, RefusalCode } from './commands.js';
import { type Clip, firstLanes, type Project, type Source, type Timeline, timelineSchema } from './document.js';
import { clipEnd, mappingOf, noTiming, type TimingOf } from './mapping.js';
import { readAt } from './readat.js';
import { tidyReading } from './reading.js';

enablePatches();

/** The difference a command made, and the one that takes it back. JSON, as immer's patches. */
export interface Difference {
  readonly forward: Patch[];
  readonly backward: Patch[];
}

export type Applied = { readonly ok: true; readonly project: Project; readonly difference: Difference } | Refusal;

class Refused extends Error {
  constructor(
    readonly code: RefusalCode,
    readonly facts: Facts = {},
  ) {
    super(code);
  }
}

/**
 * Applies a command. Pure: the given project is not changed; a refused command changes nothing.
 * @param known timing of variable sources, where the caller has it
 */
export function apply(project: Project, command: Command, known: TimingOf = noTiming): Applied {
  try {
    const [next, forward, backward] = produceWithPatches(project, (draft) => change(draft, command, known));
    return { ok: true, project: next, difference: { forward, backward } };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, code: error.code, facts: error.facts };
    throw error;
  }
}

/** Applies one side of a stored difference. */
export function applyDifference(project: Project, patches: readonly Patch[]): Project {
  return applyPatches(project, patches as Patch[]);
}

function change(draft: Project, command: Command, known: TimingOf): void {
  switch (command.type) {
    case 'renameProject':
      draft.name = command.name;
      return;
    case 'addSources':
      for (const source of command.sources) {
        if (draft.sources.some((s) => s.id === source.id)) throw new Refused('id-taken', { id: source.id });
        draft.sources.push(source);
      }
      return;
    case 'removeSources':
      removeSources(draft, command);
      return;
    case 'setClaim':
      for (const id of command.sourceIds) findSource(draft, id).claimed = command.claimed;
      return;
    case 'readAt':
      for (const { sourceId, reading } of command.readings) {
        const source = findSource(draft, sourceId);
        const none = reading ? tidyReading(source, reading) === null && !source.measured : !source.measured;
        if (none) throw new Refused('no-rate', { source: source.name, kind: source.kind });
      }
      readAt(draft, command, known);
      return;
    case 'renewSource':
      renewSource(draft, command.source, known);
      return;
    case 'addTimeline': {
      const { timeline } = command;
      if (draft.timelines.some((t) => t.id === timeline.id)) throw new Refused('id-taken', { id: timeline.id });
      draft.timelines.push({ ...timeline, lanes: firstLanes(), clips: [] });
      return;
    }
    case 'renameTimeline':
      findTimeline(draft, command.timelineId).name = command.name;
      return;
    case 'setTimelineFormat':
      setFormat(findTimeline(draft, command.timelineId), command);
      return;
    case 'removeTimeline': {
      const timeline = findTimeline(draft, command.timelineId);
      draft.timelines.splice(draft.timelines.indexOf(timeline), 1);
      return;
    }
    case 'placeClips':
      placeClips(draft, findTimeline(draft, command.timelineId), command.clips, known);
      return;
    case 'moveClips':
      moveClips(findTimeline(draft, command.timelineId), command);
      return;
    case 'trimClip':
      trimClip(draft, findTimeline(draft, command.timelineId), command, known);
      return;
    case 'setFit':
      setFit(draft, findTimeline(draft, command.timelineId), command.clipIds, command.fit, known);
      return;
    case 'removeClips': {
      const timeline = findTimeline(draft, command.timelineId);
      const gone = new Set(withLinked(timeline, command.clipIds).map((c) => c.id));
      timeline.clips = timeline.clips.filter((c) => !gone.has(c.id));
      return;
    }
    default:
      command satisfies never;
  }
}

function removeSources(draft: Project, command: Extract<Command, { type: 'removeSources' }>): void {
  const gone = new Set(command.sourceIds);
  for (const id of gone) {
    const source = findSource(draft, id);
    const uses = draft.timelines.filter((t) => t.clips.some((c) => c.sourceId === id)).map((t) => t.name);
    if (uses.length > 0 && !command.withUses) throw new Refused('source-in-use', { source: source.name, timelines: uses });
  }
  for (const timeline of draft.timelines) {
    if (timeline.clips.some((c) => gone.has(c.sourceId))) timeline.clips = timeline.clips.filter((c) => !gone.has(c.sourceId));
  }
  draft.sources = draft.sources.filter((s) => !gone.has(s.id));
}

/** Takes over what the file is now. Clips keep their place; those that reach past its last picture end with it. */
function renewSource(draft: Project, now: Source, known: TimingOf): void {
  const source = findSource(draft, now.id);
  Object.assign(source, now, { name: source.name, claimed: source.claimed, readAt: tidyReading(now, source.readAt) });
  for (const timeline of draft.timelines) {
    for (const clip of timeline.clips.filter((c) => c.sourceId === now.id)) {
      clip.cut = null;
      if (clip.inPicture >= now.pictures) Object.assign(clip, { inPicture: now.pictures - 1, headTrim: 0 });
      const mapping = mappingOf(clip, source, timeline, known);
      clip.headTrim = Math.max(clip.headTrim, earliestHead(mapping));
      clip.length = Math.max(1, Math.min(clip.length, longestRun(mappingOf(clip, source, timeline, known))));
    }
  }
}

function setFormat(timeline: Timeline, format: Pick<Timeline, 'rate' | 'width' | 'height'>): void {
  const { rate, width, height } = format;
  const sameRate = timeline.rate.num === rate.num && timeline.rate.den === rate.den;
  if (!sameRate && timeline.clips.length > 0) throw new Refused('timeline-has-clips', { timeline: timeline.name });
  const size = timelineSchema.pick({ width: true, height: true }).safeParse({ width, height });
  if (!size.success) throw new Refused('bad-size', { width, height });
  Object.assign(timeline, { rate, width, height });
}

function placeClips(draft: Project, timeline: Timeline, clips: readonly Clip[], known: TimingOf): void {
  for (const clip of clips) {
    if (timeline.clips.some((c) => c.id === clip.id)) throw new Refused('id-taken', { id: clip.id });
    if (!timeline.lanes.some((l) => l.id === clip.laneId)) throw new Refused('unknown-lane', { lane: clip.laneId });
    checkMaterial(draft, timeline, clip, known);
    timeline.clips.push(clip);
  }
  checkRoom(timeline, clips);
}

function moveClips(timeline: Timeline, command: Extract<Command, { type: 'moveClips' }>): void {
  const moved = withLinked(timeline, command.clipIds);
  for (const clip of moved) {
    if (clip.start + command.byFrames < 0) throw new Refused('before-start', {});
    clip.start += command.byFrames;
    if (command.byLanes !== 0 && command.clipIds.includes(clip.id)) clip.laneId = laneBeside(timeline, clip, command.byLanes);
  }
  checkRoom(timeline, moved);
}

function laneBeside(timeline: Timeline, clip: Clip, by: number): string {
  const own = timeline.lanes.find((l) => l.id === clip.laneId);
  const sameKind = timeline.lanes.filter((l) => l.kind === own?.kind);
  const lane = sameKind[sameKind.findIndex((l) => l.id === clip.laneId) + by];
  if (!lane) throw new Refused('no-lane-there', {});
  return lane.id;
}

function trimClip(draft: Project, timeline: Timeline, command: Extract<Command, { type: 'trimClip' }>, known: TimingOf): void {
  const clip = findClip(timeline, command.clipId);
  const trimmed = withLinked(timeline, [clip.id]);
  const { start, end } = command;
  if (end <= start) throw new Refused('past-source', { clip: findSource(draft, clip.sourceId).name });
  for (const each of trimmed) {
    each.headTrim += start - each.start;
    each.start = start;
    each.length = end - start;
    each.cut = null;
    checkMaterial(draft, timeline, each, known);
  }
  checkRoom(timeline, trimmed);
}

/**
 * Another fit keeps the clip's place and its first picture. A clip that was as long as its source stays so, if there is
 * room; one that is now longer than its material ends with it.
 */
function setFit(draft: Project, timeline: Timeline, clipIds: readonly string[], fit: Clip['fit'], known: TimingOf): void {
  const clips = withLinked(timeline, clipIds);
  for (const clip of clips) {
    const source = findSource(draft, clip.sourceId);
    const before = mappingOf(clip, source, timeline, known);
    const whole = clip.length >= longestRun(before);
    const retimed = (clip.fit === 'pictures') !== (fit === 'pictures');
    if (retimed && clip.headTrim !== 0) {
      clip.inPicture = Math.max(0, Math.min(source.pictures - 1, positionAt(before, 0).picture));
      clip.headTrim = 0;
    }
    clip.fit = fit;
    clip.cut = null;
    const longest = longestRun(mappingOf(clip, source, timeline, known));
    if (whole) clip.length = Math.min(longest, roomAfter(timeline, clip));
    clip.length = Math.max(1, Math.min(clip.length, longest));
  }
  checkRoom(timeline, clips);
}

/** Free frames from the clip's start to the next clip of its lane. */
function roomAfter(timeline: Timeline, clip: Clip): number {
  const starts = timeline.clips
    .filter((c) => c.laneId === clip.laneId && c.id !== clip.id && c.start >= clip.start)
    .map((c) => c.start);
  return Math.min(...starts, Number.MAX_SAFE_INTEGER) - clip.start;
}

/** A clip may not reach before its source's first or past its last picture. */
function checkMaterial(draft: Project, timeline: Timeline, clip: Clip, known: TimingOf): void {
  const source = findSource(draft, clip.sourceId);
  const mapping = mappingOf(clip, source, timeline, known);
  if (clip.inPicture >= source.pictures || clip.headTrim < earliestHead(mapping) || clip.length > longestRun(mapping)) {
    throw new Refused('past-source', { clip: source.name });
  }
}

/** Clips of one lane never overlap. */
function checkRoom(timeline: Timeline, touched: readonly Clip[]): void {
  const lanes = new Set(touched.map((c) => c.laneId));
  for (const laneId of lanes) {
    const onLane = timeline.clips.filter((c) => c.laneId === laneId).sort((a, b) => a.start - b.start);
    for (let i = 1; i < onLane.length; i++) {
      const before = onLane[i - 1] as Clip;
      const after = onLane[i] as Clip;
      if (clipEnd(before) > after.start) {
        const lane = timeline.lanes.find((l) => l.id === laneId)?.name ?? laneId;
        throw new Refused('overlap', { lane, frames: clipEnd(before) - after.start });
      }
    }
  }
}

/** The named clips and all that are linked with them, each once. Throws when one is unknown. */
function withLinked(timeline: Timeline, clipIds: readonly string[]): Clip[] {
  const named = clipIds.map((id) => findClip(timeline, id));
  const links = new Set(named.map((c) => c.link).filter((link) => link !== null));
  const ids = new Set(clipIds);
  return timeline.clips.filter((c) => ids.has(c.id) || (c.link !== null && links.has(c.link)));
}

function findSource(draft: Project, id: string): Source {
  const source = draft.sources.find((s) => s.id === id);
  if (!source) throw new Refused('unknown-source', { id });
  return source;
}

function findTimeline(draft: Project, id: string): Timeline {
  const timeline = draft.timelines.find((t) => t.id === id);
  if (!timeline) throw new Refused('unknown-timeline', { id });
  return timeline;
}

function findClip(timeline: Timeline, id: string): Clip {
  const clip = timeline.clips.find((c) => c.id === id);
  if (!clip) throw new Refused('unknown-clip', { id });
  return clip;
}
