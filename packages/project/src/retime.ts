import {
  type Curve,
  curveFault,
  furthestRun,
  longestRun,
  type Mapping,
  type Pin,
  positionAt,
  slowPins,
} from '@thawline/core/cadence';
import { averageRate, CLIP_FRAMES, over, type Rate, rate, rateToNumber, times } from '@thawline/core/time';
import { checkRoom, findClip, findSource, Refused, withLinked } from './checks.js';
import type { Command } from './commands.js';
import { type Clip, type Project, rateSchema, type Source, type Timeline } from './document.js';
import { clipEnd, mappingOf, type TimingOf, timingOf } from './mapping.js';
import { framesThrough, moveFollowers } from './readat.js';
import { actionSpeed, ownRate, readingSpeed } from './reading.js';
import { furthestLength, isSoundClip, lengthAtSpeed } from './soundMaterial.js';

/** Speeds and time curves of clips: what commands do, and the pins that make what a person asks for. */

type Of<T extends Command['type']> = Extract<Command, { type: T }>;

export function retimeClip(draft: Project, timeline: Timeline, command: Of<'retimeClip'>, known: TimingOf): void {
  const clip = findClip(timeline, command.clipId);
  const before = timeline.clips.map((c) => ({ clip: c, lane: c.laneId, start: c.start, end: clipEnd(c), pulls: true }));
  for (const part of command.alone ? [clip] : withLinked(timeline, [clip.id]))
    retime(part, findSource(draft, part.sourceId), timeline, command, known);
  if (command.follow === 'move') moveFollowers(before);
  checkRoom(timeline, timeline.clips);
}

function retime(clip: Clip, source: Source, timeline: Timeline, command: Of<'retimeClip'>, known: TimingOf): void {
  if (source.kind === 'still') throw new Refused('no-time', { clip: source.name });
  const { speed, pins, follow } = command;
  const was = { ...clip };
  const { first, last, whole } = stretchOf(clip, source, timeline, known);
  const plain = speed !== undefined || pins === null || clip.fit === 'freeze' || clip.fit === 'pictures';
  if (speed) clip.speed = over(speed, readingSpeed(source));
  // Each picture once is a speed, too: the one that other ways of keeping time go on from.
  else if (clip.fit === 'pictures') clip.speed = over(actionSpeed(source, clip, timeline), readingSpeed(source));
  // Read slowly already, or very fast, it may come to what no clip holds.
  if (!rateSchema.safeParse(clip.speed).success) throw new Refused('bad-speed', { clip: source.name });
  if (clip.fit === 'pictures' || clip.fit === 'freeze') clip.fit = 'nearest';
  if (plain) Object.assign(clip, { curve: null, inPicture: first, headTrim: 0 });
  Object.assign(clip, { cut: null, keptAt: null, instead: [] });
  if (pins) {
    const fault = curveFault(pins, source.pictures, command.backward);
    if (fault) throw new Refused('bad-curve', { fault, clip: source.name, pictures: source.pictures });
    clip.curve = pins;
  }
  if (speed && isSoundClip(timeline, clip) && (command.alone || clip.link === null)) {
    // Sound by itself has no last picture to end on: as much of it lasts longer or shorter.
    clip.inPicture = was.inPicture;
    clip.headTrim = trimmedAt(was, clip);
    const long = command.length ?? (follow === 'keep' ? clip.length : lengthAtSpeed(source, was, clip, timeline));
    clip.length = Math.max(1, Math.min(long, furthestLength(source, clip, timeline, known)));
    return;
  }
  const after = mappingOf(clip, source, timeline, known);
  const wanted =
    command.length ?? (follow === 'keep' ? clip.length : whole && !pins ? longestRun(after) : endOn(after, last, timeline.rate));
  clip.length = Math.max(1, Math.min(wanted, furthestRun(after)));
}

/** Frames of trimmed head that stand for the same stretch of source at another speed. */
function trimmedAt(before: Clip, after: Clip): number {
  const { num, den } = over(before.speed, after.speed);
  return Math.round((before.headTrim * num) / den);
}

/** The pictures of a source that a clip is made of, first and last: to the source's end where it is as long as that allows. */
function stretchOf(
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

/** Frames until a run has shown a picture: after its last pin, unless its pins came further before (and run back). */
function endOn(mapping: Mapping, last: number, timeline: Rate): number {
  const pin = mapping.curve?.at(-1);
  const from = pin ? pin.picture : mapping.inPicture;
  const at = (pin?.frame ?? 0) - mapping.headTrim;
  const further = last >= from && !mapping.curve?.some((p) => p.picture > from);
  return further ? at + framesThrough(mapping.timing, from, last, timeline) : at + 1;
}

export function chooseFrames(clip: Clip, { frames, as }: Of<'chooseFrames'>): void {
  const meant = new Set(frames.map((n) => n + clip.headTrim));
  const kept = clip.instead.filter((i) => !meant.has(i.frame));
  const chosen = as === null ? [] : [...meant].map((frame) => ({ frame, as }));
  clip.instead = [...kept, ...chosen].sort((a, b) => a.frame - b.frame);
}

/** The speed of the action at which a clip's pictures last so many frames, exactly; null where that is no number of frames. */
export function lengthSpeed(clip: Clip, source: Source, timeline: Timeline, frames: number, known: TimingOf): Rate | null {
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

/** Stands still at frame n for so many frames, then goes on; pins after it move by as much. */
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
  n: number,
  speed: number,
  ramp: number,
  slow: number,
  known: TimingOf,
): Curve {
  const passing = averageRate(mapping.timing) ?? averageRate(timingOf(source, known));
  const normal = passing ? rateToNumber(passing) / rateToNumber(mapping.timeline) : 1;
  const pins = slowPins(n + mapping.headTrim, positionAt(mapping, n).picture, normal, speed, ramp, slow);
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
