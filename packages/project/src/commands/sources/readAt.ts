import { furthestRun, longestRun, type Mapping, positionAt } from '@thawline/core/cadence';
import {
  averageRate,
  formatRate,
  over,
  type Rate,
  rate,
  rateToNumber,
  sameRate,
  spedUp,
  type Timing,
  times,
} from '@thawline/core/time';
import { z } from 'zod';
import {
  type Clip,
  idSchema,
  type Project,
  type Reading,
  readingSchema,
  type Source,
  type Timeline,
} from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { framesThrough, moveFollowers } from '../../timelines/moveFollowers.js';
import { clipEnd, type Run, type TimingOf, timingUnder } from '../../timing/mapping.js';
import { picturesRead, readAs, sameReading, sameTiming, tidyReading } from '../../timing/reading.js';
import { furthestLength, isSoundClip } from '../../timing/soundLength.js';
import { soundSpeed } from '../../timing/soundSpeed.js';
import { defineCommand } from '../define.js';
import { counted, type Names } from '../names.js';

/**
 * What a clip does when its source is read at another rate. move: its length changes and what follows moves. length: it
 * keeps place and length and shows fewer or more pictures. time: it goes on showing the same pictures at the same frames, sped up or slowed.
 */
export const USES = ['move', 'length', 'time'] as const;
export type Uses = (typeof USES)[number];

const schema = z.object({
  type: z.literal('readAt'),
  readings: z
    .array(z.object({ sourceId: idSchema, reading: readingSchema.nullable() }))
    .min(1)
    .max(10_000),
  uses: z.enum(USES),
  except: z
    .array(z.object({ clipId: idSchema, uses: z.enum(USES) }))
    .max(10_000)
    .default([]),
});

/**
 * The same pictures at another rate; a null reading is the file's own timing. Clips on timelines stay on their pictures:
 * `uses` says what gives way, `except` says otherwise for single clips (and what is linked with them).
 */
export const readAt = defineCommand({
  schema,
  change(draft, command, known) {
    for (const { sourceId, reading } of command.readings) {
      const source = findFileSource(draft, sourceId);
      const none = reading ? tidyReading(source, reading) === null && !source.measured : !source.measured;
      if (none) throw new Refused('no-rate', { source: source.name, kind: source.kind });
    }
    readSources(draft, command, known);
  },
  label: (command, names) => describeReadAt(command, names),
});

type ReadAt = z.output<typeof schema>;

/**
 * Reads sources at other rates, in place. Every clip of theirs stays on its pictures; what else gives way is the command's
 * choice. Sources must be known and have a rate: the caller sees to that.
 */
export function readSources(draft: Project, command: ReadAt, known: TimingOf): void {
  const sources = new Map(draft.sources.map((s) => [s.id, s]));
  const was = new Map<string, Reading | null>();
  for (const { sourceId, reading } of command.readings) {
    const source = sources.get(sourceId);
    const tidy = source && tidyReading(source, reading);
    if (!source || tidy === undefined || sameReading(tidy, source.readAt)) continue;
    if (!was.has(sourceId)) was.set(sourceId, source.readAt);
    if (source.kind === 'film') source.readAt = tidy;
    // Numbered pictures have no rate but the one they are read at.
    if (source.kind === 'sequence' && tidy) source.readAt = tidy;
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
      const long = soundBeyond(clip, readAs(source, reading), timeline, known);
      follow(clip, { source, was: reading, timeline: timeline.rate, uses, known });
      if (long) keepSound(clip, { source, was: long, uses, timeline, known });
      entry.pulls = uses === 'move';
      changed = true;
    }
    if (changed) moveFollowers(before);
  }
}

/** The original of a sound-lane clip that extends past its pictures; null for any other. */
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
  {
    source,
    was,
    uses,
    timeline,
    known,
  }: {
    readonly source: Source;
    readonly was: { readonly clip: Clip; readonly source: Source };
    readonly uses: Uses;
    readonly timeline: Timeline;
    readonly known: TimingOf;
  },
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
function follow(
  clip: Clip,
  {
    source,
    was,
    timeline,
    uses,
    known,
  }: {
    readonly source: Source;
    readonly was: Reading | null;
    readonly timeline: Rate;
    readonly uses: Uses;
    readonly known: TimingOf;
  },
): void {
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

const ORIGINS = {
  typed: '',
  stored: 'their stored rates',
  sound: "their sound's rates",
  true: 'their true rates',
  timeline: "a timeline's rate",
} as const;

/** "Read 26 sources at 24", "Read phone-thaw evenly at 30", "Read 3 sources at their stored rates". Counts those that change. */
function describeReadAt(command: ReadAt, names: Names): string {
  const now = new Map(names.before.sources.map((s) => [s.id, s.readAt]));
  const changing = command.readings.filter((r) => !sameReading(r.reading, now.get(r.sourceId) ?? null));
  const told = changing.length > 0 ? changing : command.readings;
  const what = told.length === 1 ? names.source(told[0]?.sourceId ?? '') : counted(told.length, 'source');
  const first = told[0]?.reading;
  if (!first) return `Read ${what} as measured`;
  const alike = told.every((r) => r.reading && formatRate(r.reading.rate) === formatRate(first.rate));
  if (told.every((r) => r.reading?.pictures === 'new')) return `Keep the new pictures of ${what} only`;
  if (told.every((r) => r.reading?.pictures === 'rebuilt')) return `Rebuilt the held pictures of ${what} with motion`;
  if (alike) return `Read ${what} ${first.pictures === 'even' ? 'evenly ' : ''}at ${formatRate(first.rate)}`;
  return `Read ${what} at ${ORIGINS[first.from] || 'different rates'}`;
}
