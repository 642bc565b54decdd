import { allowsFields } from '@thawline/core/fields';
import { frameAtOrAfter, type Rate, sameRate } from '@thawline/core/time';
import type { Project, Timeline } from '../document/document.js';
import { timelineAsSource } from '../resolve/sources.js';
import { carryStart } from '../timelines/carry.js';
import { clipsFor } from '../timelines/place.js';
import { noTiming, timelineLength } from '../timing/mapping.js';
import type { RenderForm } from './form.js';

/** What is written: a timeline of the project, and the frames of it. */
export interface Rendered {
  readonly project: Project;
  readonly timeline: Timeline;
  /** Frames of `timeline`, `to` not included. */
  readonly range: { readonly from: number; readonly to: number };
}

/** The id of a timeline that stands for another one at a render's rate. */
export const AT_RATE = 'at-rate';

/**
 * A timeline as a form wants it: itself, or where another rate is asked for, a timeline of that rate that holds it as a single clip; what
 * its frames show is then the step map's to say, as everywhere. A range follows: it begins and ends within what was asked for.
 */
export function renderedAt(
  project: Project,
  timeline: Timeline,
  { rate, way }: Pick<RenderForm, 'rate' | 'way'>,
  range: { readonly from: number; readonly to: number } | null = null,
): Rendered {
  const whole = range ?? { from: 0, to: timelineLength(timeline) };
  if (!rate || sameRate(rate, timeline.rate)) return { project, timeline, range: whole };
  const { fields, ...frames } = timeline;
  const empty: Timeline = {
    ...frames,
    ...(fields && allowsFields(rate) ? { fields } : {}),
    id: AT_RATE,
    rate,
    startFrame: carryStart(timeline.startFrame, timeline.rate, rate),
    dropFrame: false,
    lanes: [
      { id: 'pictures', kind: 'picture', name: 'Pictures', kept: null },
      { id: 'sound', kind: 'sound', name: 'Sound', kept: null },
    ],
    clips: [],
    marks: [],
    range: null,
  };
  let made = 0;
  const source = timelineAsSource(project, timeline);
  const newId = (): string => `at-rate-${made++}`;
  const clips = clipsFor({ timeline: empty, source, fit: way, newId }, noTiming);
  const outer: Timeline = { ...empty, clips };
  const last = timelineLength(outer);
  const at = (frame: number): number => Math.min(last, frameAtOrAfter(frame, timeline.rate, rate));
  const from = at(whole.from);
  const to = whole.to >= timelineLength(timeline) ? last : at(whole.to);
  return {
    project: { ...project, timelines: [...project.timelines, outer] },
    timeline: outer,
    range: { from, to: Math.max(to, Math.min(last, from + 1)) },
  };
}

/** Whether a rate is another one than the timeline's. */
export function otherRate(timeline: Timeline, rate: Rate | null): rate is Rate {
  return rate !== null && !sameRate(rate, timeline.rate);
}
