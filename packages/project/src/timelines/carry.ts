import { furthestRun, type Mapping, positionAt } from '@thawline/core/cadence';
import { allowsFields } from '@thawline/core/fields';
import {
  allowsDropFrame,
  frameNearest,
  nominalRate,
  over,
  type Rate,
  rateToNumber,
  sameRate,
  secondsOf,
} from '@thawline/core/time';
import type { Clip, Dissolve, MovingClip, Project, Source, Timeline } from '../document/document.js';
import { cadenceAsSeen } from '../resolve/plan.js';
import { sourceOf } from '../resolve/sources.js';
import { keepAligned } from '../timing/alignedClips.js';
import { clipEnd, mappingOf, type TimingOf } from '../timing/mapping.js';
import { passingRate } from '../timing/reading.js';

/**
 * Where each cut of an edit goes: to the nearest frame of the other rate. What met still meets, on every lane, since one cut
 * goes to one place; what would vanish keeps a frame, and what follows makes room for it.
 * @param spans clips with their first frame and the frame after their last
 */
export function carryCuts(spans: readonly { start: number; end: number }[], from: Rate, to: Rate): Map<number, number> {
  const endings = new Map<number, number[]>();
  for (const { start, end } of spans) endings.set(end, [...(endings.get(end) ?? []), start]);
  const cuts = [...new Set(spans.flatMap((s) => [s.start, s.end]))].sort((a, b) => a - b);
  const places = new Map<number, number>();
  let last = 0;
  for (const cut of cuts) {
    const least = (endings.get(cut) ?? []).map((start) => (places.get(start) ?? 0) + 1);
    last = Math.max(last, frameNearest(cut, from, to), ...least);
    places.set(cut, last);
  }
  return places;
}

/** A clip of one rate on a timeline of another: the same pictures at the same moments. Its place and length are given. */
export function carryClip(
  clip: Clip,
  {
    source,
    from,
    to,
    place,
    known,
  }: {
    readonly source: Source | undefined;
    readonly from: Rate;
    readonly to: Rate;
    readonly place: { start: number; length: number };
    readonly known: TimingOf;
  },
): Clip {
  // A choice is for a frame: at another rate there are others.
  const changed = {
    ...place,
    cut: null,
    instead: sameRate(from, to) ? clip.instead : [],
    ...(clip.dissolve ? { dissolve: carriedDissolve(clip.dissolve, from, to) } : {}),
  };
  if (!source || source.kind === 'still' || clip.fit === 'freeze') return { ...clip, ...changed };
  const carried: MovingClip = { ...clip, ...changed };
  const before = mappingOf(clip, source, { rate: from }, known);
  const passing = passingRate(source, clip);
  if (clip.keptAt && passing && clip.fit === 'nearest' && sameRate(clip.keptAt.rate, to) && sameRate(passing, to)) {
    Object.assign(carried, { fit: 'pictures', speed: clip.keptAt.speed, keptAt: null });
  } else if (clip.fit === 'pictures' && before.timing.kind === 'constant' && passing) {
    // Each picture filled a frame: so many pictures a second go on passing, whatever the frames.
    const speed = over(from, over(passing, clip.speed));
    Object.assign(carried, { fit: 'nearest', speed, keptAt: { rate: from, speed: clip.speed } });
  }
  if (clip.curve) return { ...carried, ...carriedCurve(clip, from, to) };
  const first = positionAt(before, 0).picture;
  const after = mappingOf({ ...carried, headTrim: 0 }, source, { rate: to }, known);
  const headTrim = headFor(after, { first, headTrim: clip.headTrim, from, to });
  return headTrim === null ? { ...carried, inPicture: first, headTrim: 0 } : { ...carried, headTrim };
}

/** As long in time, a frame at least. */
function carriedDissolve({ before, after, ...rest }: Dissolve, from: Rate, to: Rate): Dissolve {
  const [b, a] = [frameNearest(before, from, to), frameNearest(after, from, to)];
  return { ...rest, before: b, after: a + b > 0 ? a : 1 };
}

/** Pins on the frames nearest to their moments; of two that fall on one frame the first stays. */
function carriedCurve(clip: Clip, from: Rate, to: Rate): Pick<Clip, 'curve' | 'headTrim'> {
  const pins = (clip.curve ?? []).map((pin) => ({ ...pin, frame: frameNearest(pin.frame, from, to) }));
  const curve = pins.filter((pin, i) => i === 0 || pin.frame > (pins[i - 1]?.frame ?? 0));
  return { curve, headTrim: frameNearest(clip.headTrim, from, to) };
}

/** The head trim nearest to the old one's time that begins on the same picture; null when no frame of the rate begins in it. */
function headFor(
  after: Mapping,
  { first, headTrim, from, to }: { readonly first: number; readonly headTrim: number; readonly from: Rate; readonly to: Rate },
): number | null {
  const near = frameNearest(headTrim, from, to);
  const reach = Math.max(1, Math.ceil(rateToNumber(to) / rateToNumber(from)));
  for (let by = 0; by <= reach; by++)
    for (const candidate of [near - by, near + by])
      if (positionAt({ ...after, headTrim: candidate }, 0).picture === first) return candidate;
  return null;
}

/** The same label at another rate: hours, minutes and seconds stay, frames go to the nearest. */
export function carryStart(startFrame: number, from: Rate, to: Rate): number {
  const [was, is] = [nominalRate(from), nominalRate(to)];
  const seconds = Math.floor(startFrame / was);
  return seconds * is + Math.min(is - 1, Math.round(((startFrame % was) * is) / was));
}

/** A timeline at another rate, as a new one: a cut goes to the nearest frame by its time, pictures stay in real time. */
export function carriedTimeline(
  project: Project,
  timeline: Timeline,
  to: { id: string; name: string; rate: Rate },
  known: TimingOf,
): Timeline {
  const from = timeline.rate;
  const spans = timeline.clips.map((c) => ({ start: c.start, end: clipEnd(c) }));
  const cuts = carryCuts(spans, from, to.rate);
  const clips = timeline.clips.map((clip) => {
    const start = cuts.get(clip.start) ?? 0;
    const length = (cuts.get(clipEnd(clip)) ?? 0) - start;
    return carryClip(clip, { source: sourceOf(project, clip.sourceId), from, to: to.rate, place: { start, length }, known });
  });
  const near = (frame: number): number => frameNearest(frame, from, to.rate);
  const { range } = timeline;
  const { fields, ...whole } = timeline;
  const carried: Timeline = {
    ...whole,
    ...(fields && allowsFields(to.rate) ? { fields } : {}),
    ...to,
    dropFrame: timeline.dropFrame && allowsDropFrame(to.rate),
    startFrame: carryStart(timeline.startFrame, from, to.rate),
    range: range && { from: near(range.from), to: Math.max(near(range.from) + 1, near(range.to)) },
    clips,
    marks: timeline.marks.map((m) => ({ ...m, frame: near(m.frame), length: near(m.frame + m.length) - near(m.frame) })),
  };
  return { ...carried, clips: keepAligned(project, timeline, carried, known) };
}

/** A cut and how far it moves: later is positive. */
export interface CutMove {
  readonly frame: number;
  readonly to: number;
  readonly ms: number;
}

export interface ClipCarry {
  readonly before: Clip;
  readonly after: Clip;
  readonly source: Source;
  readonly hitchesBefore: number;
  readonly hitches: number;
  /** Frames at its end that begin after its source's last picture: they hold it. */
  readonly missing: number;
}

export interface CarryReport {
  readonly timeline: Timeline;
  readonly cuts: readonly CutMove[];
  /** Furthest move of a cut, in ms, either way; half a frame at most, unless a piece of under a frame was kept. */
  readonly furthestMs: number;
  readonly halfFrameMs: number;
  /** Cuts that moved further, to keep a piece that would have vanished. */
  readonly pushed: number;
  /** Picture clips. */
  readonly clips: readonly ClipCarry[];
}

/** The effect of carrying a timeline, found by doing it. */
export function reportCarry(project: Project, timeline: Timeline, rate: Rate, known: TimingOf): CarryReport {
  const carried = carriedTimeline(project, timeline, { id: timeline.id, name: timeline.name, rate }, known);
  const after = new Map(carried.clips.map((c) => [c.id, c]));
  const places = new Map<number, number>();
  const sounds = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  const clips: ClipCarry[] = [];
  const hitchesOf = (on: Timeline, clip: Clip): number => cadenceAsSeen(project, on, clip, known)?.map.hitches.length ?? 0;
  for (const clip of timeline.clips) {
    const now = after.get(clip.id);
    if (!now) continue;
    places.set(clip.start, now.start);
    places.set(clipEnd(clip), clipEnd(now));
    const source = sourceOf(project, clip.sourceId);
    if (!source || sounds.has(clip.laneId)) continue;
    const mapping = mappingOf(now, source, carried, known);
    clips.push({
      before: clip,
      after: now,
      source,
      hitchesBefore: hitchesOf(timeline, clip),
      hitches: hitchesOf(carried, now),
      missing: Math.max(0, now.length - furthestRun(mapping)),
    });
  }
  const halfFrameMs = 500 / rateToNumber(rate);
  const cuts = [...places]
    .sort((a, b) => a[0] - b[0])
    .map(([frame, to]) => ({ frame, to, ms: (secondsOf(to, rate) - secondsOf(frame, timeline.rate)) * 1000 }));
  const furthestMs = cuts.reduce((most, cut) => Math.max(most, Math.abs(cut.ms)), 0);
  const pushed = cuts.filter((cut) => cut.to !== frameNearest(cut.frame, timeline.rate, rate)).length;
  return { timeline: carried, cuts, furthestMs, halfFrameMs, pushed, clips };
}
