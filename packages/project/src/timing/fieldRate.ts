import { type Rate, rate, sameRate, times } from '@thawline/core/time';
import { isDraft } from 'immer';
import type { Clip, MovingClip, Timeline } from '../document/document.js';

const made = new WeakMap<Timeline, Timeline>();

/**
 * A timeline as its fields show it: twice the rate, each frame two. Frame 2n shows what frame n does, and 2n + 1 what lies half a frame later; clips still begin
 * and end on frames, never between the fields of one. A shutter is then one of a field. Where each picture fills a frame it fills both fields.
 */
export function atFieldRate(timeline: Timeline): Timeline {
  const known = made.get(timeline);
  if (known) return known;
  const { fields: _, ...whole } = timeline;
  const fields: Timeline = {
    ...whole,
    rate: times(timeline.rate, rate(2)),
    startFrame: 2 * timeline.startFrame,
    dropFrame: false,
    range: timeline.range && { from: 2 * timeline.range.from, to: 2 * timeline.range.to },
    marks: timeline.marks.map((mark) => ({ ...mark, frame: 2 * mark.frame, length: 2 * mark.length })),
    clips: timeline.clips.map(twice),
  };
  if (!isDraft(timeline)) made.set(timeline, fields);
  return fields;
}

/** A timeline whose frames are the moments that are seen: itself, or where its frames are of two fields, each of them. */
export function asSeen(timeline: Timeline): Timeline {
  return timeline.fields ? atFieldRate(timeline) : timeline;
}

/** How many moments a frame has. */
export function momentsAFrame({ fields }: Pick<Timeline, 'fields'>): 1 | 2 {
  return fields ? 2 : 1;
}

/** A clip of a timeline as it stands on `asSeen` of it; undefined where it is not there. */
export function clipAsSeen(timeline: Timeline, clip: Clip): Clip | undefined {
  return timeline.fields ? atFieldRate(timeline).clips[timeline.clips.indexOf(clip)] : clip;
}

function twice(clip: Clip): Clip {
  const { dissolve } = clip;
  const common = {
    start: 2 * clip.start,
    length: 2 * clip.length,
    headTrim: 2 * clip.headTrim,
    instead: clip.instead.flatMap(({ frame, as }) => [
      { frame: 2 * frame, as },
      { frame: 2 * frame + 1, as },
    ]),
    cut: null,
    ...(dissolve ? { dissolve: { ...dissolve, before: 2 * dissolve.before, after: 2 * dissolve.after } } : {}),
  };
  if (clip.fit === 'freeze') return { ...clip, ...common };
  if (clip.fit === 'pictures') return { ...clip, ...common, fit: 'nearest', curve: onePictureAFrame(clip) };
  const curve = clip.curve?.map((pin) => ({ ...pin, frame: 2 * pin.frame })) ?? null;
  return { ...clip, ...common, curve };
}

/** Frames beyond a clip's ends that a dissolve may show of it. */
const BEYOND = 10_000;

/** A straight line on which a picture passes in two fields. */
function onePictureAFrame({ inPicture, headTrim, length }: Clip): MovingClip['curve'] {
  const [first, end] = [headTrim - length - BEYOND, headTrim + 2 * length + BEYOND];
  return [first, end].map((frame) => ({ frame: 2 * frame, picture: inPicture + frame, way: 'even' as const }));
}

/** Rates of film, and those of the frames that its pictures fill when they stay two fields and three in turn. */
const SPREADS: readonly (readonly [film: Rate, frames: Rate])[] = [
  [rate(24000, 1001), rate(30000, 1001)],
  [rate(24), rate(30)],
];

/** The rate at which a timeline's frames are spread over fields by 2:3; null where they are no film, or of fields themselves. */
export function filmRate({ rate: own, fields }: Pick<Timeline, 'rate' | 'fields'>): Rate | null {
  return fields ? null : (SPREADS.find(([film]) => sameRate(film, own))?.[1] ?? null);
}
