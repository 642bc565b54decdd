import { furthestRun } from '@thawline/core/cadence';
import { rateToNumber } from '@thawline/core/time';
import type { Clip, Source, Timeline } from '../document/document.js';
import { mappingOf, type TimingOf } from './mapping.js';
import { soundSpan, soundSpeed } from './soundSpeed.js';

/** How far a clip on a sound lane reaches: to its sound's end, or its pictures', whichever is later. */

export function isSoundClip(timeline: Timeline, clip: Pick<Clip, 'laneId'>): boolean {
  return timeline.lanes.some((l) => l.id === clip.laneId && l.kind === 'sound');
}

/** Seconds of a source's own time that a frame of a clip's sound takes. */
function secondsAFrame(source: Source, clip: Clip, timeline: Timeline): number {
  return rateToNumber(soundSpeed(source, clip, timeline)) / rateToNumber(timeline.rate);
}

/** The longest that a clip may be, in frames: as many as begin before its material ends. */
export function furthestLength(source: Source, clip: Clip, timeline: Timeline, known: TimingOf): number {
  const pictures = furthestRun(mappingOf(clip, source, timeline, known));
  if (!isSoundClip(timeline, clip) || !source.sound || clip.curve || clip.fit === 'freeze' || clip.fit === 'pictures')
    return pictures;
  const { from } = soundSpan(source, clip, timeline, known);
  const end = source.sound.startSeconds + source.sound.seconds;
  // A millionth of a frame is the arithmetic's.
  return Math.max(pictures, Math.ceil((end - from) / secondsAFrame(source, clip, timeline) - 1e-6));
}

/** Frames that as much of a clip's sound lasts after its speed has changed. */
export function lengthAtSpeed(source: Source, before: Clip, after: Clip, timeline: Timeline): number {
  const seconds = before.length * secondsAFrame(source, before, timeline);
  return Math.max(1, Math.round(seconds / secondsAFrame(source, after, timeline)));
}
