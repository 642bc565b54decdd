import { fitMakes, type Mapping } from '@thawline/core/cadence';
import { constantTiming, evenTiming, newOnlyTiming, type Rate, rebuiltTiming, spedUp, type Timing } from '@thawline/core/time';
import { isDraft } from 'immer';
import type { Clip, Reading, Source, Timeline } from '../document/document.js';

/** Timing of sources by media id, where it is variable: too long to travel with the document. */
export type TimingOf = (mediaId: string) => Timing | undefined;

/** No variable source's timing is at hand. */
export const noTiming: TimingOf = () => undefined;

/** Made-even timings, kept as long as the timing they were made from: a step map asks for them again and again. */
const evened = new WeakMap<Timing, Map<string, Timing>>();

function evenly(timing: Timing, to: Rate): Timing {
  const made = evened.get(timing) ?? new Map<string, Timing>();
  evened.set(timing, made);
  const key = `${to.num}/${to.den}`;
  const found = made.get(key) ?? evenTiming(timing, to);
  made.set(key, found);
  return found;
}

/** Timings of new pictures only, kept as long as their readings. */
const thinned = new WeakMap<Reading, Timing>();

function newOnly(reading: Reading, pictures: number): Timing {
  const found = thinned.get(reading) ?? newOnlyTiming(pictures, reading.held ?? [], reading.rate);
  thinned.set(reading, found);
  return found;
}

/** Rebuilt timings, kept as long as their readings. */
const rebuilt = new WeakMap<Reading, Timing>();

function rebuild(reading: Reading, timing: Timing): Timing {
  const found = rebuilt.get(reading) ?? rebuiltTiming(timing, reading.held ?? []);
  rebuilt.set(reading, found);
  return found;
}

/** What sound alone is counted in, a second: packages/media counts it so. */
export const SOUND_PARTS: Rate = { num: 1000, den: 1 };

/** How a source's pictures lie in time under a reading. Without its own timestamps a variable source counts as even at its average. */
export function timingUnder(source: Source, reading: Reading | null, known: TimingOf): Timing {
  if (source.kind === 'still') return { kind: 'still' };
  if (source.kind === 'sound') return constantTiming(SOUND_PARTS, source.pictures);
  const own = source.variable ? known(source.mediaId) : undefined;
  if (reading?.pictures === 'even' && own) return evenly(own, reading.rate);
  if (reading?.pictures === 'new') return newOnly(reading, source.pictures);
  const rate =
    reading && (reading.pictures === 'once' || reading.pictures === 'rebuilt' || !source.measured)
      ? reading.rate
      : source.measured?.rate;
  if (rate && reading?.pictures === 'rebuilt') return rebuild(reading, own ?? constantTiming(rate, source.pictures));
  if (!rate) throw new Error(`${source.name} has no rate: a sequence is always read at one`);
  return reading?.pictures === 'once' ? constantTiming(rate, source.pictures) : (own ?? constantTiming(rate, source.pictures));
}

/** How a source's pictures lie in time as the project reads them. */
export function timingOf(source: Source, known: TimingOf): Timing {
  return timingUnder(source, source.readAt, known);
}

/** What the step map is asked of a clip. */
export type Run = Pick<Clip, 'speed' | 'fit' | 'inPicture' | 'headTrim' | 'length' | 'curve' | 'instead'> &
  Partial<Pick<Clip, 'shutter'>>;

type Instead = Clip['instead'][number]['as'];
const chosen: Record<Instead, WeakMap<Clip['instead'], ReadonlySet<number>>> = { nearest: new WeakMap(), blend: new WeakMap() };

/** Frames for which a person chose this way, counted as the curve's; kept as long as the choices. */
function chosenFrames(instead: Clip['instead'], as: Instead): ReadonlySet<number> {
  const found = chosen[as].get(instead) ?? new Set(instead.filter((i) => i.as === as).map((i) => i.frame));
  // What is being changed is not kept.
  if (!isDraft(instead)) chosen[as].set(instead, found);
  return found;
}

function choices(instead: Clip['instead']): Pick<Mapping, 'whole' | 'mixed'> {
  return { whole: chosenFrames(instead, 'nearest'), mixed: chosenFrames(instead, 'blend') };
}

/** What core is asked of a clip: which picture each of its frames shows, and how. */
export function mappingOf(clip: Run, source: Source, timeline: Pick<Timeline, 'rate'>, known: TimingOf): Mapping {
  return {
    timing: spedUp(timingOf(source, known), clip.speed),
    timeline: timeline.rate,
    fit: clip.fit,
    inPicture: clip.inPicture,
    headTrim: clip.headTrim,
    length: clip.length,
    curve: clip.curve,
    ...(clip.instead.length > 0 && fitMakes(clip.fit) ? choices(clip.instead) : {}),
    ...(clip.shutter ? { shutterDegrees: clip.shutter } : {}),
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
