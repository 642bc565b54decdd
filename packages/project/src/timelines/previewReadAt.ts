import { positionAt } from '@thawline/core/cadence';
import type { Rate } from '@thawline/core/time';
import { apply } from '../commands/apply.js';
import type { Command } from '../commands/registry.js';
import type { Uses } from '../commands/sources/readAt.js';
import type { Clip, Project, Reading, Source, Timeline } from '../document/document.js';
import { sourceOf } from '../resolve/sources.js';
import { mappingOf, type TimingOf, timelineLength } from '../timing/mapping.js';
import { readingSpeed, readSeconds, sameReading, semitones, tidyReading } from '../timing/reading.js';
import { isSilent, soundOf, soundSpan } from '../timing/soundSpeed.js';

/** The effect of reading a source at another rate. */
export interface SourceChange {
  readonly source: Source;
  readonly reading: Reading | null;
  /** Running time before and after, in seconds. */
  readonly secondsBefore: number;
  readonly seconds: number;
  /** R / S. */
  readonly speed: Rate;
  /** What sound that goes along moves by. */
  readonly semitones: number;
}

/** What happens to one use on a timeline. Frames are the timeline's. */
export interface UseChange {
  readonly timeline: Timeline;
  readonly source: Source;
  readonly before: Clip;
  readonly after: Clip;
  readonly uses: Uses;
  /** Frames the clip would be longer (shorter: negative) if its length simply changed: an overlap with what follows, or a gap. */
  readonly natural: number;
  /** Frames between its new end and the next clip of its lane, less those before: a gap that comes. */
  readonly gap: number;
  /** Frames at its end in which its sound has run out, that had some before. */
  readonly silent: number;
  /** First and last picture shown, before and after. */
  readonly range: { readonly before: readonly [number, number]; readonly after: readonly [number, number] };
}

/** A timeline in which another one stands that changes its length. */
export interface HoldingTimeline {
  readonly timeline: Timeline;
  readonly inner: Timeline;
  /** Frames of the inner one that are not shown at its end (positive), or that are wanted and no longer there (negative). */
  readonly lacks: number;
}

export interface ReadAtPreview {
  readonly changes: readonly SourceChange[];
  /** Sources that are read so already. */
  readonly matching: number;
  readonly touched: readonly UseChange[];
  /** Clips of other sources that move along. */
  readonly moved: number;
  /** Timelines that hold one which becomes longer or shorter, and would not show all of it, or black behind it. */
  readonly holding: readonly HoldingTimeline[];
  /** Uses that show each picture once, or follow a time curve, and therefore stay as they are. */
  readonly untouched: number;
}

type ReadAt = Extract<Command, { type: 'readAt' }>;

/** What a Read at will do, from doing it to a copy. The command has to be one that is applied. */
export function previewReadAt(project: Project, command: ReadAt, known: TimingOf): ReadAtPreview {
  const sources = new Map(project.sources.map((s) => [s.id, s]));
  const changes: SourceChange[] = [];
  let matching = 0;
  for (const { sourceId, reading } of command.readings) {
    const source = sources.get(sourceId);
    if (!source) continue;
    const tidy = tidyReading(source, reading);
    if (sameReading(tidy, source.readAt)) {
      matching++;
      continue;
    }
    const speed = readingSpeed(source, tidy);
    changes.push({
      source,
      reading: tidy,
      secondsBefore: readSeconds(source) ?? 0,
      seconds: readSeconds(source, tidy) ?? 0,
      speed,
      semitones: semitones(speed),
    });
  }
  const changing = new Set(changes.map((c) => c.source.id));
  const after = applied(project, command, known);
  const natural = applied(project, { ...command, uses: 'move', except: [] }, known);
  const touched: UseChange[] = [];
  let moved = 0;
  let untouched = 0;
  project.timelines.forEach((timeline, t) => {
    const then = new Map(after.timelines[t]?.clips.map((c) => [c.id, c]));
    const free = new Map(natural.timelines[t]?.clips.map((c) => [c.id, c]));
    const sounds = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
    for (const clip of timeline.clips) {
      const now = then.get(clip.id);
      const source = sources.get(clip.sourceId);
      if (!now || !source || (sounds.has(clip.laneId) && clip.link !== null)) continue;
      if (!changing.has(clip.sourceId)) {
        if (now.start !== clip.start) moved++;
        continue;
      }
      if (clip.fit === 'pictures' || clip.curve) {
        untouched++;
        continue;
      }
      const changed = after.sources.find((s) => s.id === source.id) ?? source;
      touched.push({
        timeline,
        source,
        before: clip,
        after: now,
        uses: usesOf(command, timeline, clip),
        natural: (free.get(clip.id)?.length ?? clip.length) - clip.length,
        gap: gapAfter(after.timelines[t] ?? timeline, now) - gapAfter(timeline, clip),
        silent:
          silentTail(after, after.timelines[t] ?? timeline, { source: changed, clip: now, known }) -
          silentTail(project, timeline, { source, clip, known }),
        range: { before: shown(clip, source, timeline, known), after: shown(now, changed, timeline, known) },
      });
    }
  });
  return { changes, matching, touched, moved, holding: holdingTimelines(project, after), untouched };
}

/** Frames at a clip's end in which the sound that is linked with it has run out. */
function silentTail(
  project: Project,
  timeline: Timeline,
  { source, clip, known }: { readonly source: Source; readonly clip: Clip; readonly known: TimingOf },
): number {
  const sounding = soundOf(timeline, clip).find((c) => c.sourceId === clip.sourceId);
  if (!sounding || !source.sound || isSilent(source, sounding) || !sourceOf(project, source.id)) return 0;
  const { from, to } = soundSpan(source, sounding, timeline, known);
  const end = source.sound.startSeconds + source.sound.seconds;
  if (to <= from || to <= end) return 0;
  return Math.max(0, Math.floor((sounding.length * (to - Math.max(from, end))) / (to - from)));
}

function holdingTimelines(before: Project, after: Project): HoldingTimeline[] {
  return before.timelines.flatMap((timeline) => {
    const inside = new Map(timeline.clips.map((c) => [c.sourceId, c]));
    return [...inside].flatMap(([id, clip]) => {
      const [inner, now] = [before, after].map((p) => p.timelines.find((t) => t.id === id));
      if (!inner || !now || clip.curve || clip.fit === 'freeze') return [];
      const change = timelineLength(now) - timelineLength(inner);
      // What was trimmed before says nothing of the end.
      const whole = clip.inPicture === 0 && clip.headTrim <= 0;
      return change === 0 || !whole ? [] : [{ timeline, inner, lacks: change }];
    });
  });
}

function applied(project: Project, command: ReadAt, known: TimingOf): Project {
  const result = apply(project, command, known);
  return result.ok ? result.project : project;
}

function usesOf(command: ReadAt, timeline: Timeline, clip: Clip): Uses {
  const kin = timeline.clips.filter((c) => c.id === clip.id || (clip.link !== null && c.link === clip.link)).map((c) => c.id);
  return command.except.find((e) => kin.includes(e.clipId))?.uses ?? command.uses;
}

/** Free frames after a clip on its lane; 0 when nothing follows. */
function gapAfter(timeline: Timeline, clip: Clip): number {
  const end = clip.start + clip.length;
  const starts = timeline.clips.filter((c) => c.laneId === clip.laneId && c.start >= end).map((c) => c.start);
  return starts.length === 0 ? 0 : Math.min(...starts) - end;
}

function shown(clip: Clip, source: Source, timeline: Timeline, known: TimingOf): [number, number] {
  const mapping = mappingOf(clip, source, timeline, known);
  return [positionAt(mapping, 0).picture, positionAt(mapping, clip.length - 1).picture];
}
