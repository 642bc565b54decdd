import { allowsFields, type FieldOrder, framesOfFilm } from '@thawline/core/fields';
import { frameAtOrAfter, type Rate, sameRate } from '@thawline/core/time';
import type { Clip, MovingClip, Project, Timeline } from '../document/document.js';
import { timelineAsSource } from '../resolve/sources.js';
import { carryStart } from '../timelines/carry.js';
import { clipsFor } from '../timelines/place.js';
import { filmRate } from '../timing/fieldRate.js';
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
  { rate, way, fields }: Pick<RenderForm, 'rate' | 'way'> & Partial<Pick<RenderForm, 'fields'>>,
  range: { readonly from: number; readonly to: number } | null = null,
): Rendered {
  const whole = range ?? { from: 0, to: timelineLength(timeline) };
  const film = fields && fields !== 'whole' && fields.pulldown ? filmRate(timeline) : null;
  if (film && fields && fields !== 'whole') return spread(project, timeline, { rate: film, order: fields.order, film: whole });
  if (!rate || sameRate(rate, timeline.rate)) return { project, timeline, range: whole };
  const { fields: own } = timeline;
  const empty = emptyAt(timeline, rate, own && allowsFields(rate) ? own : undefined);
  const clips = clipsFor({ timeline: empty, source: timelineAsSource(project, timeline), fit: way, newId: counting() }, noTiming);
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

function counting(): () => string {
  let made = 0;
  return () => `at-rate-${made++}`;
}

/** The same timeline at another rate, without its edit. */
function emptyAt(timeline: Timeline, perSecond: Rate, order: FieldOrder | undefined): Timeline {
  const { fields: _, ...frames } = timeline;
  return {
    ...frames,
    ...(order ? { fields: order } : {}),
    id: AT_RATE,
    rate: perSecond,
    startFrame: carryStart(timeline.startFrame, timeline.rate, perSecond),
    dropFrame: false,
    lanes: [
      { id: 'pictures', kind: 'picture', name: 'Pictures', kept: null },
      { id: 'sound', kind: 'sound', name: 'Sound', kept: null },
    ],
    clips: [],
    marks: [],
    range: null,
  };
}

/**
 * Film spread over fields by 2:3: one beat from the first frame that is written to the last, whatever is cut in it. Field f shows frame
 * floor((2 f + 1) / 5), a straight line that passes frame 1 at field 2.
 */
function spread(
  project: Project,
  timeline: Timeline,
  { rate, order, film }: { readonly rate: Rate; readonly order: FieldOrder; readonly film: Rendered['range'] },
): Rendered {
  const empty = emptyAt(timeline, rate, order);
  const frames = Math.max(1, framesOfFilm(film.to - film.from));
  const turns = Math.ceil(frames / 5) + 1;
  const pins = [0, turns].map((turn) => ({
    frame: 1 + 5 * turn,
    picture: film.from + 1 + 4 * turn,
    way: 'even' as const,
  }));
  const placed = clipsFor(
    { timeline: empty, source: timelineAsSource(project, timeline), fit: 'nearest', newId: counting() },
    noTiming,
  );
  const clips = placed.map((clip): Clip => {
    const run = { ...clip, length: frames, inPicture: film.from } as MovingClip;
    return clip.laneId === 'sound' ? run : { ...run, curve: pins };
  });
  const outer: Timeline = { ...empty, startFrame: carryStart(timeline.startFrame + film.from, timeline.rate, rate), clips };
  return {
    project: { ...project, timelines: [...project.timelines, outer] },
    timeline: outer,
    range: { from: 0, to: frames },
  };
}

/** Whether a rate is another one than the timeline's. */
export function otherRate(timeline: Timeline, rate: Rate | null): rate is Rate {
  return rate !== null && !sameRate(rate, timeline.rate);
}
