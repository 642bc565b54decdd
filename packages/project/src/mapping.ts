import type { Mapping } from '@thawline/core/cadence';
import { constantTiming, type Timing } from '@thawline/core/time';
import type { Clip, Source, Timeline } from './document.js';

/** Timing of sources by media id, where it is variable: too long to travel with the document. */
export type TimingOf = (mediaId: string) => Timing | undefined;

/** No variable source's timing is at hand. */
export const noTiming: TimingOf = () => undefined;

/** How a source's pictures lie in time. Without its own timestamps a variable source counts as even at its average. */
export function timingOf(source: Source, known: TimingOf): Timing {
  return (source.variable ? known(source.mediaId) : undefined) ?? constantTiming(source.measured.rate, source.pictures);
}

/** The step map's question for a clip. */
export function mappingOf(clip: Clip, source: Source, timeline: Timeline, known: TimingOf): Mapping {
  return {
    timing: timingOf(source, known),
    timeline: timeline.rate,
    fit: clip.fit,
    inPicture: clip.inPicture,
    headTrim: clip.headTrim,
    length: clip.length,
  };
}

/** Frame after a clip's last. */
export function clipEnd(clip: Pick<Clip, 'start' | 'length'>): number {
  return clip.start + clip.length;
}

/** Frame after the timeline's last clip; 0 when empty. */
export function timelineLength(timeline: Timeline): number {
  return timeline.clips.reduce((end, clip) => Math.max(end, clipEnd(clip)), 0);
}
