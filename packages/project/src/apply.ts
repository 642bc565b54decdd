import { earliestHead, longestRun } from '@thawline/core/cadence';
import { type LabelledSource, labelledRun } from '@thawline/core/exchange';
import {
  allowsDropFrame,
  CLIP_FRAMES,
  formatTimecode,
  frameAtOrBefore,
  nominalRate,
  over,
  parseTimecode,
  type Rate,
  rate,
  sameRate,
  times,
} from '@thawline/core/time';
import { applyPatches, enablePatches, type Patch, produceWithPatches, setAutoFreeze } from 'immer';
import { placeAligned, setTies } from './align.js';
import { findClip, findTimeline, Refused, withLinked } from './checks.js';
import type { Command, Refusal } from './commands.js';
import { setDissolve } from './dissolves.js';
import type { Clip, Project, Source, Timeline } from './document.js';
import { closeGaps, linkClips, moveClips, placeClips, setFit, slipClips, splitClips, trimClip } from './editing.js';
import { followMarks } from './followMarks.js';
import { mappingOf, noTiming, type TimingOf } from './mapping.js';
import { judgePicture, markFrames, markPicture } from './notes.js';
import { readAt } from './readat.js';
import { ownRate, tidyReading } from './reading.js';
import { chooseFrames, retimeClip } from './retime.js';
import { addTimeline, carry, duplicateTimeline, openEdit, removeTimeline, setFormat, setLanes, unpackClip } from './timelines.js';

enablePatches();

/**
 * Leaves documents unfrozen from now on. immer freezes what it has not seen before, all of it: for a large document that was just read that
 * takes longer than the change. Documents are never changed, only replaced, and the tests run with them frozen.
 */
export function leaveUnfrozen(): void {
  setAutoFreeze(false);
}

/** The difference a command made, and the one that takes it back. JSON, as immer's patches. */
export interface Difference {
  readonly forward: Patch[];
  readonly backward: Patch[];
}

export type Applied = { readonly ok: true; readonly project: Project; readonly difference: Difference } | Refusal;

/**
 * Applies a command. Pure: the given project is not changed; a refused command changes nothing.
 * @param known timing of variable sources, where the caller has it
 */
export function apply(project: Project, command: Command, known: TimingOf = noTiming): Applied {
  try {
    const [next, forward, backward] =
      command.type === 'openEdit'
        ? opened(project, command)
        : produceWithPatches(project, (draft) => {
            change(draft, command, known);
            followMarks(project, draft, command.type, known);
          });
    boundLengths(project, next);
    return { ok: true, project: next, difference: { forward, backward } };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, code: error.code, facts: error.facts };
    throw error;
  }
}

/** Slow enough, or of a timeline with a clip far out, a clip would be longer than its step map can be. Those that were so before stay. */
function boundLengths(before: Project, { timelines, sources }: Project): void {
  for (const timeline of timelines) {
    if (before.timelines.includes(timeline)) continue;
    const stood = before.timelines.find((t) => t.id === timeline.id)?.clips ?? [];
    const wasSo = ({ id, length }: Clip): boolean => stood.some((c) => c.id === id && c.length >= length);
    const long = timeline.clips.find((c) => c.length > CLIP_FRAMES && !wasSo(c));
    if (!long) continue;
    const clip = [...sources, ...timelines].find((s) => s.id === long.sourceId)?.name ?? long.id;
    throw new Refused('too-long', { clip, frames: long.length, most: CLIP_FRAMES });
  }
}

/** Applies one side of a stored difference. */
export function applyDifference(project: Project, patches: readonly Patch[]): Project {
  return applyPatches(project, patches as Patch[]);
}

/** What an edit file brings, with the patches that immer would have found. */
function opened(project: Project, command: Extract<Command, { type: 'openEdit' }>): [Project, Patch[], Patch[]] {
  const { next, added, widened } = openEdit(project, command);
  const wider = widened.map(({ index, source }): Patch => ({ op: 'replace', path: ['sources', index], value: source }));
  const narrower = widened.map(({ index, before }): Patch => ({ op: 'replace', path: ['sources', index], value: before }));
  const forward = [...wider, ...added.map(({ path, value }): Patch => ({ op: 'add', path, value }))];
  const shorter = (['sources', 'timelines'] as const)
    .filter((list) => next[list].length > project[list].length)
    .map((list): Patch => ({ op: 'replace', path: [list, 'length'], value: project[list].length }));
  return [next, forward, [...shorter, ...narrower]];
}

function change(draft: Project, command: Exclude<Command, { type: 'openEdit' }>, known: TimingOf): void {
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
      for (const id of command.sourceIds) fileSource(draft, id).claimed = command.claimed;
      return;
    case 'markPicture':
      markPicture(fileSource(draft, command.sourceId), command.picture, command.note);
      return;
    case 'markFrames':
      for (const mark of command.marks) markFrames(findTimeline(draft, mark.timelineId), mark);
      return;
    case 'judgePicture':
      judgePicture(fileSource(draft, command.sourceId), command.picture, command.as);
      return;
    case 'readAt':
      for (const { sourceId, reading } of command.readings) {
        const source = fileSource(draft, sourceId);
        const none = reading ? tidyReading(source, reading) === null && !source.measured : !source.measured;
        if (none) throw new Refused('no-rate', { source: source.name, kind: source.kind });
      }
      readAt(draft, command, known);
      return;
    case 'rebuildSource':
      rebuildSource(draft, command, known);
      return;
    case 'replaceSource':
      replaceSource(draft, command, known);
      return;
    case 'renewSource':
      renewSource(draft, command.source, known);
      return;
    case 'addTimeline':
      addTimeline(draft, command.timeline);
      return;
    case 'duplicateTimeline':
      duplicateTimeline(draft, command);
      return;
    case 'carryTimeline':
      carry(draft, command, known);
      return;
    case 'removeTimeline':
      removeTimeline(draft, command.timelineId);
      return;
    case 'unpackClip':
      unpackClip(draft, command, known);
      return;
    case 'setTies':
      setTies(draft, command);
      return;
    case 'placeAligned':
      placeAligned(draft, command, known);
      return;
    default:
      changeTimeline(draft, findTimeline(draft, command.timelineId), command, known);
  }
}

type TimelineCommand = Exclude<
  Extract<Command, { timelineId: string }>,
  { type: 'duplicateTimeline' | 'carryTimeline' | 'removeTimeline' | 'unpackClip' | 'placeAligned' }
>;

function changeTimeline(draft: Project, timeline: Timeline, command: TimelineCommand, known: TimingOf): void {
  switch (command.type) {
    case 'renameTimeline':
      timeline.name = command.name;
      return;
    case 'setTimelineFormat':
      setFormat(timeline, command);
      return;
    case 'setRange':
      timeline.range = command.range;
      return;
    case 'switchClips':
      for (const clip of withLinked(timeline, command.clipIds)) {
        if (command.off) clip.off = true;
        else delete clip.off;
      }
      return;
    case 'setDissolve':
      setDissolve(draft, timeline, command);
      return;
    case 'setLanes':
      setLanes(timeline, command.lanes);
      return;
    case 'placeClips':
      placeClips(draft, timeline, command.clips, known);
      return;
    case 'moveClips':
      moveClips(timeline, command);
      return;
    case 'trimClip':
      trimClip(draft, timeline, command, known);
      return;
    case 'slipClips':
      slipClips(draft, timeline, command, known);
      return;
    case 'splitClips':
      splitClips(timeline, command);
      return;
    case 'closeGaps':
      closeGaps(timeline, command);
      return;
    case 'linkClips':
      linkClips(timeline, command);
      return;
    case 'setFit':
      setFit(draft, timeline, command.clipIds, command.fit, known);
      return;
    case 'retimeClip':
      retimeClip(draft, timeline, command, known);
      return;
    case 'setShutter':
      for (const id of command.clipIds) findClip(timeline, id).shutter = command.degrees;
      return;
    case 'setMix':
      for (const id of command.clipIds) findClip(timeline, id).mix = command.mix;
      return;
    case 'chooseFrames':
      chooseFrames(findClip(timeline, command.clipId), command);
      return;
    case 'setSound':
      for (const id of command.clipIds) {
        const clip = findClip(timeline, id);
        if (command.way !== undefined) clip.sound = command.way;
        if (command.level !== undefined) clip.level = command.level;
      }
      return;
    case 'setFraming':
      for (const id of command.clipIds) findClip(timeline, id).framing = command.framing;
      return;
    case 'removeClips': {
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
    const source = fileSource(draft, id);
    const uses = draft.timelines.filter((t) => t.clips.some((c) => c.sourceId === id)).map((t) => t.name);
    if (uses.length > 0 && !command.withUses) throw new Refused('source-in-use', { source: source.name, timelines: uses });
  }
  for (const timeline of draft.timelines) {
    if (timeline.clips.some((c) => gone.has(c.sourceId))) timeline.clips = timeline.clips.filter((c) => !gone.has(c.sourceId));
  }
  draft.sources = draft.sources.filter((s) => !gone.has(s.id));
  draft.alignments = draft.alignments.filter((x) => !gone.has(x.aId) && !gone.has(x.bId));
}

function rebuildSource(draft: Project, { sourceId, held }: Extract<Command, { type: 'rebuildSource' }>, known: TimingOf): void {
  const source = fileSource(draft, sourceId);
  const own = source.readAt?.rate ?? ownRate(source);
  if (!own) throw new Refused('no-rate', { source: source.name, kind: source.kind });
  if (held.some((k, i) => k < 1 || k >= source.pictures || (i > 0 && k <= (held[i - 1] as number))))
    throw new Refused('past-source', { clip: source.name });
  const reading = {
    rate: own,
    pictures: 'rebuilt' as const,
    held,
    from: source.readAt?.from ?? ('stored' as const),
    sound: source.readAt?.sound ?? ('along' as const),
  };
  readAt(draft, { type: 'readAt', readings: [{ sourceId, reading }], uses: 'length', except: [] }, known);
  for (const timeline of draft.timelines)
    for (const clip of timeline.clips)
      if (clip.sourceId === sourceId && (clip.fit === 'nearest' || clip.fit === 'blend')) clip.fit = 'motion';
}

/**
 * Every clip of one source shows another's pictures at the same moments of the file; the first one goes. What an edit named
 * by timecode counts from the other's own, where it has one.
 */
function replaceSource(draft: Project, command: Extract<Command, { type: 'replaceSource' }>, known: TimingOf): void {
  const source = fileSource(draft, command.sourceId);
  const by = fileSource(draft, command.byId);
  if (source.id === by.id) throw new Refused('id-taken', { id: by.id });
  const seen = new Set(draft.timelines.flatMap((t) => t.lanes.filter((l) => l.kind === 'picture').map((l) => `${t.id} ${l.id}`)));
  const pictured = draft.timelines.some((t) => t.clips.some((c) => c.sourceId === source.id && seen.has(`${t.id} ${c.laneId}`)));
  if (by.kind === 'sound' && pictured) throw new Refused('no-pictures', { clip: by.name });
  const [from, to] = [ownRate(source), ownRate(by)];
  const labels = source.lost?.labels;
  const start = source.lost && !source.timecode && by.timecode && to ? (parseTimecode(by.timecode, to) ?? 0) : 0;
  for (const timeline of draft.timelines)
    for (const clip of timeline.clips.filter((c) => c.sourceId === source.id)) {
      const there = (picture: number): number => {
        const same = from && to && !sameRate(from, to) ? frameAtOrBefore(picture, from, to) : picture;
        if (labels && from && to)
          return clamped(relabelled(picture, from, labels === 'drop', { rate: to, start: by.timecode }), by);
        // Only what counts from midnight lies past the start of the file's own timecode.
        return clamped(same >= start ? same - start : same, by);
      };
      clip.inPicture = there(clip.inPicture);
      for (const pin of clip.curve ?? []) pin.picture = there(pin.picture);
      // A list counts frames: as many pictures pass in each as the source counts more in a second.
      if (labels && from && to && !clip.curve)
        clip.speed = times(clip.speed, over(times(from, rate(nominalRate(to), nominalRate(from))), to));
      clip.sourceId = by.id;
      clip.cut = null;
      clip.headTrim = Math.max(clip.headTrim, earliestHead(mappingOf(clip, by, timeline, known)));
    }
  draft.alignments = draft.alignments.filter((x) => x.aId !== source.id && x.bId !== source.id);
  draft.sources = draft.sources.filter((s) => s.id !== source.id);
}

function clamped(picture: number, { pictures }: Source): number {
  return Math.max(0, Math.min(pictures - 1, picture));
}

/** The picture of a source that bears the label which a count from midnight at a list's rate is. */
function relabelled(frames: number, list: Rate, dropFrame: boolean, source: LabelledSource): number {
  const label = formatTimecode(frames, list, { dropFrame: dropFrame && allowsDropFrame(list) });
  const length = nominalRate(list);
  return labelledRun({ from: label, to: label, speed: 0, dropFrame }, list, length, source)?.picture ?? frames;
}

/** Takes over what the file is now. Clips keep their place; those that reach past its last picture end with it. */
function renewSource(draft: Project, now: Source, known: TimingOf): void {
  const source = fileSource(draft, now.id);
  Object.assign(source, now, { name: source.name, claimed: source.claimed, lost: null, readAt: tidyReading(now, source.readAt) });
  for (const timeline of draft.timelines) {
    for (const clip of timeline.clips.filter((c) => c.sourceId === now.id)) {
      clip.cut = null;
      for (const pin of clip.curve ?? []) pin.picture = Math.min(pin.picture, now.pictures - 1);
      if (clip.inPicture >= now.pictures) Object.assign(clip, { inPicture: now.pictures - 1, headTrim: 0 });
      const mapping = mappingOf(clip, source, timeline, known);
      clip.headTrim = Math.max(clip.headTrim, earliestHead(mapping));
      clip.length = Math.max(1, Math.min(clip.length, longestRun(mappingOf(clip, source, timeline, known))));
    }
  }
}

/** A source of the project itself: a timeline standing as one is not read, claimed or removed. */
function fileSource(draft: Project, id: string): Source {
  const source = draft.sources.find((s) => s.id === id);
  if (!source) throw new Refused('unknown-source', { id });
  return source;
}
