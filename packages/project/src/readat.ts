import { furthestRun, longestRun, type Mapping, positionAt } from '@thawline/core/cadence';
import {
  averageRate,
  frameAtOrAfter,
  over,
  type Rate,
  rate,
  rateToNumber,
  sameRate,
  spedUp,
  type Timing,
  times,
} from '@thawline/core/time';
import type { Command, Uses } from './commands.js';
import type { Clip, Project, Reading, Source, Timeline } from './document.js';
import { clipEnd, type Run, type TimingOf, timingUnder } from './mapping.js';
import { picturesRead, sameReading, sameTiming, tidyReading } from './reading.js';
import { soundSpeed } from './sound.js';
import { furthestLength, isSoundClip } from './soundMaterial.js';

type ReadAt = Extract<Command, { type: 'readAt' }>;

/**
 * Reads sources at other rates, in place. Every clip of theirs stays on its pictures; what else gives way is the command's
 * choice. Sources must be known and have a rate: the caller sees to that.
 */
export function readAt(draft: Project, command: ReadAt, known: TimingOf): void {
  const sources = new Map(draft.sources.map((s) => [s.id, s]));
  const was = new Map<string, Reading | null>();
  for (const { sourceId, reading } of command.readings) {
    const source = sources.get(sourceId);
    const tidy = source && tidyReading(source, reading);
    if (!source || tidy === undefined || sameReading(tidy, source.readAt)) continue;
    if (!was.has(sourceId)) was.set(sourceId, source.readAt);
    source.readAt = tidy;
  }
  const choices = new Map(command.except.map((e) => [e.clipId, e.uses]));
  for (const timeline of draft.timelines) {
    const before = timeline.clips.map((clip) => ({
      clip,
      lane: clip.laneId,
      start: clip.start,
      end: clipEnd(clip),
      pulls: true,
    }));
    let changed = false;
    for (const entry of before) {
      const { clip } = entry;
      const source = sources.get(clip.sourceId);
      const reading = was.get(clip.sourceId);
      // Where each picture fills a frame, the reading rate does not count.
      if (!source || reading === undefined || sameTiming(reading, source.readAt)) continue;
      // Pins name pictures, not moments: a curve stays as it is.
      if (clip.fit === 'pictures' || clip.curve) continue;
      const uses = choiceFor(timeline, clip, choices) ?? command.uses;
      const long = soundBeyond(clip, { ...source, readAt: reading }, timeline, known);
      follow(clip, source, reading, timeline.rate, uses, known);
      if (long) keepSound(clip, source, long, uses, timeline, known);
      entry.pulls = uses === 'move';
      changed = true;
    }
    if (changed) moveFollowers(before);
  }
}

/** A clip on a sound lane that goes on after its pictures end, as it was; null for any other. */
function soundBeyond(
  clip: Clip,
  source: Source,
  timeline: Timeline,
  known: TimingOf,
): { readonly clip: Clip; readonly source: Source } | null {
  if (!isSoundClip(timeline, clip) || !source.sound) return null;
  const pictures = furthestRun(run(clip, timingUnder(source, source.readAt, known), timeline.rate));
  return clip.length > pictures ? { clip: { ...clip }, source } : null;
}

/** Sound that is longer than its pictures keeps what it sounded: they do not end it. */
function keepSound(
  clip: Clip,
  source: Source,
  was: { readonly clip: Clip; readonly source: Source },
  uses: Uses,
  timeline: Timeline,
  known: TimingOf,
): void {
  const seconds =
    (was.clip.length * rateToNumber(soundSpeed(was.source, was.clip, timeline))) /
    rateToNumber(soundSpeed(source, clip, timeline));
  const wanted = uses === 'move' ? Math.max(1, Math.round(seconds)) : was.clip.length;
  clip.length = Math.max(1, Math.min(wanted, furthestLength(source, clip, timeline, known)));
}

function choiceFor(timeline: Timeline, clip: Clip, choices: ReadonlyMap<string, Uses>): Uses | undefined {
  if (choices.size === 0) return undefined;
  const kin = clip.link === null ? [clip] : timeline.clips.filter((c) => c.link === clip.link);
  return kin.map((c) => choices.get(c.id)).find((u) => u !== undefined);
}

/** The picture that shows what this one shows: where new pictures only are read, a held one gives way to the one it repeats. */
function shownAs(reading: Reading | null, picture: number): number {
  if (!reading?.held) return picture;
  const held = new Set(reading.held);
  let shown = picture;
  while (shown > 0 && held.has(shown)) shown--;
  return shown;
}

/** Puts a clip onto the same pictures under its source's new reading. */
function follow(clip: Clip, source: Source, was: Reading | null, timeline: Rate, uses: Uses, known: TimingOf): void {
  if (uses === 'time') {
    const speed = times(clip.speed, over(pace(source, was, known), pace(source, source.readAt, known)));
    const before = run(clip, timingUnder(source, was, known), timeline);
    const after = { ...before, timing: spedUp(timingUnder(source, source.readAt, known), speed) };
    clip.speed = speed;
    // Even before and after: exactly the same pictures at the same frames. Else as near as even pictures come.
    if (sameEven(before.timing, after.timing)) return;
    settle(clip, { ...after, inPicture: shownAs(source.readAt, positionAt(before, 0).picture), headTrim: 0 }, clip.length);
    return;
  }
  if (uses === 'length') {
    const before = run(clip, timingUnder(source, was, known), timeline);
    const timing = spedUp(timingUnder(source, source.readAt, known), clip.speed);
    settle(
      clip,
      { ...before, timing, inPicture: shownAs(source.readAt, positionAt(before, 0).picture), headTrim: 0 },
      clip.length,
    );
    clip.cut = null;
    return;
  }
  const { inPicture, headTrim, length, speed } = clip;
  const cut = clip.cut ?? { readAt: was, speed, inPicture, headTrim, length };
  if (sameTiming(cut.readAt, source.readAt)) {
    Object.assign(clip, { inPicture: cut.inPicture, headTrim: cut.headTrim, length: cut.length, speed: cut.speed, cut: null });
    return;
  }
  const made = run({ ...cut, fit: clip.fit }, timingUnder(source, cut.readAt, known), timeline);
  const first = shownAs(source.readAt, positionAt(made, 0).picture);
  const last = shownAs(source.readAt, positionAt(made, made.length - 1).picture);
  const timing = spedUp(timingUnder(source, source.readAt, known), clip.speed);
  const whole = made.length >= longestRun(made);
  const wanted = whole ? Number.MAX_SAFE_INTEGER : framesThrough(timing, first, last, timeline);
  settle(clip, { ...made, timing, inPicture: first, headTrim: 0 }, wanted);
  clip.cut = cut;
}

/** Takes over a mapping's in point, and as much of the wanted length as there are pictures for. Its frames are others then: choices for single ones go. */
function settle(clip: Clip, mapping: Omit<Mapping, 'length'>, wanted: number): void {
  clip.inPicture = mapping.inPicture;
  clip.headTrim = mapping.headTrim;
  clip.instead = [];
  clip.length = Math.max(1, Math.min(wanted, longestRun(mapping)));
}

function run(clip: Omit<Run, 'curve' | 'instead'>, timing: Timing, timeline: Rate): Mapping {
  const { speed, fit, inPicture, headTrim, length } = clip;
  return { timing: spedUp(timing, speed), timeline, fit, inPicture, headTrim, length };
}

/** Pictures a second of a reading: its rate, or where pictures keep their own time, that. */
function pace(source: Source, reading: Reading | null, known: TimingOf): Rate {
  if (reading?.pictures === 'once' || (reading?.pictures === 'rebuilt' && !source.variable)) return reading.rate;
  if (reading?.pictures === 'new') return times(reading.rate, rate(source.pictures, picturesRead(source, reading)));
  return averageRate(timingUnder(source, null, known)) ?? rate(1);
}

function sameEven(a: Timing, b: Timing): boolean {
  return a.kind === 'constant' && b.kind === 'constant' && sameRate(a.rate, b.rate);
}

/** Frames from the start of picture `first` that show no picture after `last`. */
export function framesThrough(timing: Timing, first: number, last: number, timeline: Rate): number {
  if (timing.kind === 'still') return 1;
  if (timing.kind === 'constant') return frameAtOrAfter(last + 1 - first, timing.rate, timeline);
  const end = timing.ticks[last + 1] ?? timing.end;
  return frameAtOrAfter(end - (timing.ticks[first] as number), timing.timeBase, timeline);
}

/** A clip as it stood before a change of lengths. */
export interface Before {
  readonly clip: Clip;
  readonly lane: string;
  readonly start: number;
  readonly end: number;
  /** Its new end moves what follows. */
  readonly pulls: boolean;
}

/**
 * Moves each clip as far as the end of the clip before it (on any lane, the one that ended last) has moved, so that what met
 * still meets and what ran side by side stays so; never over a clip of its own lane, never before frame 0. Linked clips that run beside each
 * other move as one.
 */
export function moveFollowers(before: readonly Before[]): void {
  const inOrder = movedAsOne(before).sort((a, b) => startOf(a) - startOf(b));
  const done: { end: number; lane: string; newEnd: number; shift: number }[] = [];
  for (const group of inOrder) {
    const start = startOf(group);
    let anchor: (typeof done)[number] | null = null;
    let least = -start;
    for (const earlier of done) {
      const ended = earlier.end <= start;
      if (ended && (!anchor || earlier.end > anchor.end || (earlier.end === anchor.end && earlier.shift > anchor.shift)))
        anchor = earlier;
      for (const member of group)
        if (member.lane === earlier.lane && earlier.end <= member.start) least = Math.max(least, earlier.newEnd - member.start);
    }
    const shift = Math.max(anchor?.shift ?? 0, least);
    for (const { clip, lane, start: was, end, pulls } of group) {
      clip.start = was + shift;
      const newEnd = pulls ? clipEnd(clip) : Math.max(end + shift, clipEnd(clip));
      done.push({ end, lane, newEnd, shift: newEnd - end });
    }
  }
}

/** Clips by themselves, or with those of their link that run beside them: one that follows another may have to give way to it. */
function movedAsOne(before: readonly Before[]): Before[][] {
  const groups: { link: string | null; end: number; members: Before[] }[] = [];
  for (const entry of before.toSorted((a, b) => a.start - b.start)) {
    const { link } = entry.clip;
    const beside = link === null ? undefined : groups.findLast((g) => g.link === link);
    if (beside && entry.start < beside.end) {
      beside.members.push(entry);
      beside.end = Math.max(beside.end, entry.end);
    } else groups.push({ link, end: entry.end, members: [entry] });
  }
  return groups.map((g) => g.members);
}

function startOf(group: readonly Before[]): number {
  return Math.min(...group.map((e) => e.start));
}
