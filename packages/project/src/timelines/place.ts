import { type Fit, longestRun } from '@thawline/core/cadence';
import { nominalRate, type Rate, rate, rateToNumber } from '@thawline/core/time';
import type { Clip, MovingClip, Source, Timeline } from '../document/document.js';
import { clipEnd, type TimingOf, timelineLength, timingOf } from '../timing/mapping.js';
import { readingSpeed } from '../timing/reading.js';

/** Seconds for which a still is placed; it can be trimmed to any length afterwards. */
const STILL_SECONDS = 5;

export interface Placement {
  readonly timeline: Timeline;
  readonly source: Source;
  readonly fit: Fit;
  /** Wanted first frame; the end of the lane when left out. */
  readonly start?: number | undefined;
  /** Wanted picture lane; the lowest when left out. */
  readonly laneId?: string | undefined;
  /** Its picture or its sound alone; both when left out. */
  readonly only?: 'picture' | 'sound' | undefined;
  /** Makes ids: two for a source with sound and one for their link. */
  readonly newId: () => string;
}

/**
 * The clips that placing a whole source makes: its picture, and its sound beneath, linked. When the place is taken they
 * go to the next free one at or after it.
 */
export function clipsFor(placement: Placement, known: TimingOf): Clip[] {
  const { timeline, source, fit, newId } = placement;
  const pictures = timeline.lanes.filter((l) => l.kind === 'picture');
  const sounds = timeline.lanes.filter((l) => l.kind === 'sound');
  const index = Math.max(
    0,
    pictures.findIndex((l) => l.id === placement.laneId),
  );
  const pictureLane = pictures[index];
  if (!pictureLane) return [];
  const sounding = sounds.find((l) => l.id === placement.laneId) ?? sounds[Math.min(index, sounds.length - 1)] ?? null;
  const timing = timingOf(source, known);
  const way = source.kind === 'sound' ? 'nearest' : fit;
  const longest = longestRun({ timing, timeline: timeline.rate, fit: way, inPicture: 0, headTrim: 0 });
  const still = source.kind === 'still' || way === 'freeze';
  const soundLane = source.sound && placement.only !== 'picture' ? sounding : null;
  const pictured = source.kind !== 'sound' && (placement.only !== 'sound' || !soundLane);
  // Sound without picture is placed in full, even where it is longer than its pictures.
  const heard = soundLane && !pictured ? wholeSound(source, timeline.rate) : 0;
  const length = Math.max(1, still ? STILL_SECONDS * nominalRate(timeline.rate) : Math.max(longest, heard));
  const lanes = [...(pictured ? [pictureLane.id] : []), ...(soundLane ? [soundLane.id] : [])];
  const start = freeStart(timeline, lanes, { wanted: placement.start ?? laneEnd(timeline, lanes), length });
  const link = lanes.length > 1 ? newId() : null;
  return lanes.map((laneId) => ({ ...plainClip(source.id), id: newId(), laneId, link, start, length, ...fitOf(way) }));
}

/** A fit as a plain clip has it. Both sides look alike and are of different members of the union: a freeze never has a curve. */
export function fitOf(fit: Fit): Pick<MovingClip, 'fit' | 'curve'> | { readonly fit: 'freeze'; readonly curve: null } {
  return fit === 'freeze' ? { fit, curve: null } : { fit, curve: null };
}

/** Whole frames that a source's sound lasts from its first picture on, as it is read. */
function wholeSound(source: Source, timeline: Rate): number {
  if (!source.sound || source.kind === 'sound') return 0;
  const seconds = source.sound.startSeconds + source.sound.seconds;
  const speed = (source.readAt?.sound ?? 'along') === 'own' ? 1 : rateToNumber(readingSpeed(source));
  return Math.floor((seconds * rateToNumber(timeline)) / speed + 1e-6);
}

/** A clip of a source from its first picture on, as all are before anything is done to them; its place is another's to fill in. */
export function plainClip(sourceId: string): MovingClip {
  return {
    id: '',
    sourceId,
    laneId: '',
    link: null,
    start: 0,
    length: 1,
    inPicture: 0,
    headTrim: 0,
    fit: 'nearest',
    speed: rate(1),
    cut: null,
    framing: 'inside',
    curve: null,
    mix: 'stored',
    shutter: 0,
    instead: [],
    keptAt: null,
    sound: null,
    level: 0,
    slip: 0,
    label: null,
    kept: null,
  };
}

function laneEnd(timeline: Timeline, lanes: readonly string[]): number {
  return timelineLength({ ...timeline, clips: timeline.clips.filter((c) => lanes.includes(c.laneId)) });
}

/** The first frame at or after `wanted` with `length` free frames on all the lanes. */
export function freeStart(
  timeline: Timeline,
  lanes: readonly string[],
  { wanted, length, ignore = [] }: { readonly wanted: number; readonly length: number; readonly ignore?: readonly string[] },
): number {
  const taken = timeline.clips
    .filter((c) => lanes.includes(c.laneId) && !ignore.includes(c.id))
    .sort((a, b) => a.start - b.start);
  let start = Math.max(0, wanted);
  for (const clip of taken) if (clip.start < start + length && clipEnd(clip) > start) start = clipEnd(clip);
  return start;
}
