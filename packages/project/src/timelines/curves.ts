import { type Curve, longestRun, type Mapping, type Pin, positionAt, slowPins } from '@thawline/core/cadence';
import { averageRate, CLIP_FRAMES, over, type Rate, rate, rateToNumber, times } from '@thawline/core/time';
import type { Clip, Source, Timeline } from '../document/document.js';
import { mappingOf, type TimingOf, timingOf } from '../timing/mapping.js';
import { ownRate } from '../timing/reading.js';

/** Time curves of clips: the pins that make what a person asks for. */

/** The pictures of a source that a clip is made of, first and last: to the source's end where it is as long as that allows. */
export function stretchOf(
  clip: Clip,
  source: Source,
  timeline: Timeline,
  known: TimingOf,
): { first: number; last: number; whole: boolean } {
  const mapping = mappingOf(clip, source, timeline, known);
  const first = positionAt(mapping, 0).picture;
  const whole = !clip.curve && clip.fit !== 'freeze' && clip.length >= longestRun(mapping);
  const last = whole ? source.pictures - 1 : positionAt(mapping, clip.length - 1).picture;
  return { first, last: Math.max(first, last), whole };
}

/** The speed of the action at which a clip's pictures last so many frames, exactly; null where that is no number of frames. */
export function lengthSpeed(
  clip: Clip,
  source: Source,
  { timeline, frames, known }: { readonly timeline: Timeline; readonly frames: number; readonly known: TimingOf },
): Rate | null {
  const own = ownRate(source);
  if (!own || !Number.isInteger(frames) || frames < 1 || frames > CLIP_FRAMES) return null;
  const { first, last } = stretchOf(clip, source, timeline, known);
  return times(rate(last - first + 1, frames), over(timeline.rate, own));
}

/** Pins that say what a clip shows now: its curve, or where it has none its first and last frame. */
export function curveOf(mapping: Mapping): Curve {
  if (mapping.curve?.length) return mapping.curve;
  const end = Math.max(1, mapping.length - 1);
  const pin = (n: number): Pin => ({ frame: n + mapping.headTrim, picture: positionAt(mapping, n).picture, way: 'even' });
  return [pin(0), pin(end)];
}

/** The clip's stretch of pictures run the other way: it begins on its last one. */
export function reversed(mapping: Mapping): Curve {
  const end = Math.max(1, mapping.length - 1);
  if (!mapping.curve?.length) {
    const [a, b] = curveOf(mapping) as [Pin, Pin];
    return [
      { ...a, picture: b.picture },
      { ...b, picture: a.picture },
    ];
  }
  // Every pin at the frame as far from the other end; a stretch's way belongs to its other pin then, handles turned about.
  const ends = [0, end].map((n): Pin => {
    const frame = n + mapping.headTrim;
    const own = mapping.curve?.find((p) => p.frame === frame);
    return own ?? { frame, picture: positionAt(mapping, n).picture, way: 'even' };
  });
  const inside = mapping.curve.filter((p) => p.frame > mapping.headTrim && p.frame < end + mapping.headTrim);
  const pins = [ends[0] as Pin, ...inside, ends[1] as Pin];
  return pins.toReversed().map((pin, i): Pin => {
    const { way, handles } = pins[pins.length - 2 - i] ?? pin;
    const [x1, y1, x2, y2] = handles ?? [0, 0, 0, 0];
    const turned = handles ? { handles: [1 - x2, 1 - y2, 1 - x1, 1 - y1] as const } : {};
    return { frame: 2 * mapping.headTrim + end - pin.frame, picture: pin.picture, way, ...turned };
  });
}

/** Inserts a freeze of the given frames at frame n; later pins move by as much. */
export function frozen(mapping: Mapping, n: number, frames: number): Curve {
  const frame = n + mapping.headTrim;
  const { picture } = positionAt(mapping, n);
  return inserted(
    mapping.curve ?? [],
    [
      { frame, picture, way: 'held' },
      { frame: frame + frames, picture, way: 'even' },
    ],
    frames,
  );
}

/**
 * Slow at frame n: within `ramp` frames down to a share of the normal speed, `slow` frames there, and up again; pins after it move by
 * what that takes longer.
 */
export function slowed(
  mapping: Mapping,
  source: Source,
  {
    n,
    speed,
    ramp,
    slow,
    known,
  }: { readonly n: number; readonly speed: number; readonly ramp: number; readonly slow: number; readonly known: TimingOf },
): Curve {
  const passing = averageRate(mapping.timing) ?? averageRate(timingOf(source, known));
  const normal = passing ? rateToNumber(passing) / rateToNumber(mapping.timeline) : 1;
  const pins = slowPins({ frame: n + mapping.headTrim, picture: positionAt(mapping, n).picture, normal, speed, ramp, slow });
  const [first, last] = [pins[0] as Pin, pins[3] as Pin];
  return inserted(mapping.curve ?? [], pins, last.frame - first.frame - Math.round((last.picture - first.picture) / normal));
}

/** Puts pins among others: those they pass over go, those after them move by so many frames. */
function inserted(curve: Curve, pins: readonly Pin[], by: number): Curve {
  const [first, last] = [pins[0] as Pin, pins.at(-1) as Pin];
  const earlier = curve.filter((p) => p.frame < first.frame);
  const later = curve
    .map((p) => ({ ...p, frame: p.frame + by }))
    .filter((p) => p.frame > last.frame && p.picture >= last.picture);
  return [...earlier, ...pins, ...later.filter((p) => p.frame - by >= first.frame)];
}
