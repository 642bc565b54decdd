import {
  CLIP_FRAMES,
  frameAtOrAfter,
  frameAtOrBefore,
  pictureAfter,
  pictureAt,
  pictureCount,
  pictureFor,
  type Rate,
  type Timing,
} from '../time/index.js';
import { type Curve, curveParts, type Pin, pinBefore } from './curve.js';

/**
 * How a source's pictures are put on a timeline's frames. Keep time: the nearest before, a blend of both, or one made by motion. Keep
 * pictures: each picture once. Freeze: the in picture alone.
 */
export const FITS = ['nearest', 'blend', 'motion', 'pictures', 'freeze'] as const;
export type Fit = (typeof FITS)[number];

/** Whether a fit shows moments between two pictures. */
export function fitMakes(fit: Fit): boolean {
  return fit === 'blend' || fit === 'motion';
}

/** A run of output frames and the source pictures they are taken from. */
export interface Mapping {
  readonly timing: Timing;
  /** Output frames a second. */
  readonly timeline: Rate;
  readonly fit: Fit;
  /** The source picture the count begins at. */
  readonly inPicture: number;
  /** Output frames between the in point and the first frame: trimming a head moves this, never the cadence. May be negative. */
  readonly headTrim: number;
  /** Output frames. */
  readonly length: number;
  /** Pins that say which picture a frame shows, instead of the in picture; for fits that keep time. */
  readonly curve?: Curve | null | undefined;
  /** Frames, counted as the curve's, that show the nearer picture whole where another would be made, whatever the shutter does. */
  readonly whole?: ReadonlySet<number> | undefined;
  /** Frames, counted as the curve's, that are mixed where motion would make them. */
  readonly mixed?: ReadonlySet<number> | undefined;
  /** How long the shutter is open, 0 to SHUTTER_MAX; closed when left out. The step map tells where each frame opens. */
  readonly shutterDegrees?: number | undefined;
}

/** Shares of a following picture are counted in these parts of a whole, everywhere: nothing moves by a tenth of a pixel between two. */
export const SHARES = 65536;
/** A moment nearer to a picture than this, in SHARES, is that picture: real pictures stay untouched where rates almost match. */
const NEAR = SHARES / 256;

/** Which source picture each output frame shows. */
export interface StepMap {
  /** Source picture of each output frame (the earlier one of a blend). */
  readonly pictures: Int32Array;
  /** Share of the next picture in each output frame, 0 or NEAR to SHARES - NEAR; all zero unless the fit is blend or motion. */
  readonly nextShare: Uint16Array;
  /** Difference from the frame before; steps[0] is 0 and means nothing. */
  readonly steps: Int32Array;
  /** Output frames whose step is not the usual one, ascending. */
  readonly hitches: Int32Array;
  /** The most common step (with two equally common, the smaller). */
  readonly usualStep: number;
}

export interface Position {
  readonly picture: number;
  /** Share of the following picture in SHARES (or in the parts that were asked for), rounded down; 0 is the picture itself. */
  readonly nextShare: number;
  /** Where there is a share: the number of the following picture, if that is not simply the next. */
  readonly next?: number | undefined;
}

/**
 * The picture that output frame n (0 is the run's first) shows: inPicture + floor(n * S / T), and where others may be made the share of
 * the next one. Variable timing follows each picture's own timestamp, counted from the in picture's. What lies within NEAR of a
 * picture is that picture: this is the only place that decides so.
 */
export function positionAt(mapping: Mapping, n: number): Position {
  const position = snappedPosition(exactPositionAt(mapping, n, SHARES));
  return mapping.whole?.has(n + mapping.headTrim) ? nearer(position) : position;
}

/** A position, or the picture that it is within NEAR of. @param position in SHARES */
export function snappedPosition(position: Position): Position {
  const { picture, nextShare, next = picture + 1 } = position;
  if (nextShare === 0) return position;
  if (nextShare < NEAR) return { picture, nextShare: 0 };
  return nextShare > SHARES - NEAR ? { picture: next, nextShare: 0 } : position;
}

/** The nearer one of the two pictures that a position lies between. */
function nearer({ picture, nextShare, next = picture + 1 }: Position): Position {
  return { picture: nextShare * 2 >= SHARES ? next : picture, nextShare: 0 };
}

/**
 * Where output frame n lies in the source, exactly, however near to a picture; for what passes evenly, like sound or a drawn curve.
 * @param parts what shares are counted in
 */
export function exactPositionAt(mapping: Mapping, n: number, parts: number): Position {
  return passing(mapping, n, parts);
}

function passing(mapping: Mapping, n: number, parts: number): Position {
  const { timing, timeline, fit, inPicture } = mapping;
  if (timing.kind === 'still') return { picture: 0, nextShare: 0 };
  if (curved(mapping)) return curvedPosition(mapping, mapping.curve, n, parts);
  const frame = n + mapping.headTrim;
  const last = pictureCount(timing) - 1;
  const held = (picture: number): Position => ({ picture: Math.min(Math.max(picture, 0), last), nextShare: 0 });
  if (fit === 'freeze') return held(inPicture);
  if (fit === 'pictures') return held(inPicture + frame);
  if (timing.kind === 'variable') return variablePosition(mapping, { timing, frame, last, parts });
  const base = frameAtOrBefore(frame, timeline, timing.rate);
  const picture = inPicture + base;
  if (!fitMakes(fit) || picture >= last || picture < 0) return held(picture);
  // Parts of a picture past `base`, exactly: floor(frame * parts S / T) - parts * base.
  const share = frameAtOrBefore(frame, timeline, { num: timing.rate.num * parts, den: timing.rate.den }) - base * parts;
  return { picture, nextShare: share };
}

type Curved = Mapping & { readonly curve: Curve };

function curved(mapping: Mapping): mapping is Curved;
function curved(mapping: Omit<Mapping, 'length'>): mapping is Omit<Curved, 'length'>;
function curved({ curve, fit, timing }: Omit<Mapping, 'length'>): boolean {
  return Boolean(curve?.length) && fit !== 'freeze' && fit !== 'pictures' && timing.kind !== 'still';
}

/** The mapping without its curve, as pictures pass from a pin on (or up to it). */
function beyond<M extends Omit<Mapping, 'length'>>(mapping: M, pin: Pin): M {
  return { ...mapping, curve: null, inPicture: pin.picture, headTrim: mapping.headTrim - pin.frame };
}

function curvedPosition(mapping: Mapping, curve: Curve, n: number, parts: number): Position {
  const frame = n + mapping.headTrim;
  const at = pinBefore(curve, frame);
  const [a, b] = [curve[at], curve[at + 1]];
  if (!a || !b) return passing(beyond(mapping, (a ?? b) as Pin), n, parts);
  const last = pictureCount(mapping.timing) - 1;
  const position = Math.min(Math.max(curveParts(a, b, frame, parts), 0), last * parts);
  const number = Math.floor(position / parts);
  const share = fitMakes(mapping.fit) ? position - number * parts : 0;
  if (mapping.timing.kind !== 'variable') return { picture: number, nextShare: share };
  // A number that has no time of its own lies between the pictures around it that have.
  const picture = pictureFor(mapping.timing, number);
  const next = pictureAfter(mapping.timing, picture);
  if (next === picture + 1 || !fitMakes(mapping.fit)) return { picture, nextShare: share };
  return between(picture, next, shareOf(position - picture * parts, (next - picture) * parts, parts));
}

function between(picture: number, next: number, nextShare: number): Position {
  return nextShare > 0 && next !== picture + 1 ? { picture, nextShare, next } : { picture, nextShare };
}

function variablePosition(
  mapping: Mapping,
  {
    timing,
    frame,
    last,
    parts,
  }: { readonly timing: Timing & { kind: 'variable' }; readonly frame: number; readonly last: number; readonly parts: number },
): Position {
  const start = timing.ticks[Math.min(Math.max(mapping.inPicture, 0), last)] as number;
  const tick = start + frameAtOrBefore(frame, mapping.timeline, timing.timeBase);
  // A frame grid of one tick: pictureAt then searches the timestamps themselves.
  const picture = pictureAt(timing, tick, timing.timeBase);
  if (!fitMakes(mapping.fit) || picture >= last) return { picture, nextShare: 0 };
  const from = timing.ticks[picture] as number;
  const share = shareOf(tick - from, (timing.ticks[picture + 1] as number) - from, parts);
  return between(picture, pictureAfter(timing, picture), share);
}

/** The most frames a mapping may run before it is past the source's last picture; 0 when it begins past it. */
export function longestRun(mapping: Omit<Mapping, 'length'>): number {
  if (curved(mapping))
    return Math.max(lastPin(mapping) - mapping.headTrim, longestRun(beyond(mapping, mapping.curve.at(-1) as Pin)));
  const { timing, timeline, fit, inPicture, headTrim } = mapping;
  if (timing.kind === 'still' || fit === 'freeze') return CLIP_FRAMES;
  const left = pictureCount(timing) - inPicture;
  if (fit === 'pictures') return Math.max(0, left - headTrim);
  const whole =
    timing.kind === 'constant'
      ? frameAtOrBefore(left, timing.rate, timeline)
      : frameAtOrBefore(timing.end - (timing.ticks[inPicture] ?? timing.end), timing.timeBase, timeline);
  // A run of one frame is allowed from any picture there is.
  return Math.max(left > 0 && headTrim <= 0 ? 1 : 0, whole - headTrim);
}

/** Frames that begin before the source's last picture ends: the longest a clip may be cut to. At most one more than longestRun. */
export function furthestRun(mapping: Omit<Mapping, 'length'>): number {
  if (curved(mapping))
    return Math.max(lastPin(mapping) - mapping.headTrim, furthestRun(beyond(mapping, mapping.curve.at(-1) as Pin)));
  const { timing, timeline, fit, inPicture, headTrim } = mapping;
  if (timing.kind === 'still' || fit === 'freeze') return CLIP_FRAMES;
  const left = pictureCount(timing) - inPicture;
  if (fit === 'pictures') return Math.max(0, left - headTrim);
  const frames =
    timing.kind === 'constant'
      ? frameAtOrAfter(left, timing.rate, timeline)
      : frameAtOrAfter(timing.end - (timing.ticks[inPicture] ?? timing.end), timing.timeBase, timeline);
  return Math.max(0, frames - headTrim);
}

function lastPin({ curve }: { readonly curve: Curve }): number {
  return (curve.at(-1) as Pin).frame;
}

/** How far the head may be pulled out: the smallest headTrim that still shows a picture of the source (never above 0). */
export function earliestHead(mapping: Omit<Mapping, 'length' | 'headTrim'>): number {
  const { timing, timeline, fit, inPicture, curve } = mapping;
  const [pin] = curved({ ...mapping, headTrim: 0 }) ? (curve as Curve) : [];
  if (pin) return Math.min(pin.frame, pin.frame + earliestHead({ ...mapping, curve: null, inPicture: pin.picture }));
  if (timing.kind === 'still' || fit === 'freeze') return -CLIP_FRAMES;
  if (fit === 'pictures') return -inPicture;
  if (timing.kind === 'constant') return -frameAtOrBefore(inPicture, timing.rate, timeline);
  return -frameAtOrBefore(timing.ticks[inPicture] ?? 0, timing.timeBase, timeline);
}

/** The step map of a run: positionAt for every frame. */
export function stepMap(mapping: Mapping): StepMap {
  const { length } = mapping;
  const pictures = new Int32Array(length);
  const nextShare = new Uint16Array(length);
  fill(mapping, pictures, nextShare);
  // Blended frames move evenly: their position has no hitch although its whole part has steps.
  // On a curve steps change by design, so none of them is a hitch.
  return stepMapOf(pictures, nextShare, fitMakes(mapping.fit) || mapping.fit === 'freeze' || curved(mapping));
}

/**
 * The step map of frames whose pictures are known already: a comparison's path, say.
 * @param even no hitches are looked for
 */
export function stepMapOf(pictures: Int32Array, nextShare: Uint16Array, even = false): StepMap {
  const steps = stepsOf(pictures);
  const usualStep = mostCommonStep(steps);
  const hitches = even ? new Int32Array(0) : findHitches(pictures, steps, usualStep);
  return { pictures, nextShare, steps, hitches, usualStep };
}

/** Walks the run with a whole part and a remainder, as exact as dividing anew at each frame and without the division. */
function fill(mapping: Mapping, pictures: Int32Array, nextShare: Uint16Array): void {
  const { timing, timeline, fit, length, headTrim } = mapping;
  const perTick = timing.kind === 'constant' ? timing.rate : timing.kind === 'variable' ? timing.timeBase : null;
  const up = perTick && timeline.den * perTick.num;
  const down = perTick && timeline.num * perTick.den;
  const plain = fit === 'freeze' || fit === 'pictures' || !perTick || curved(mapping) || Boolean(mapping.whole?.size);
  if (plain || up === null || down === null || !Number.isSafeInteger(up * SHARES) || !Number.isSafeInteger(down * SHARES)) {
    for (let n = 0; n < length; n++) {
      const position = positionAt(mapping, n);
      pictures[n] = position.picture;
      nextShare[n] = position.nextShare;
    }
    return;
  }
  const last = pictureCount(timing) - 1;
  const whole = Math.floor(up / down);
  const part = up - whole * down;
  let base = frameAtOrBefore(headTrim, timeline, perTick);
  let rest = Number(BigInt(headTrim) * BigInt(up) - BigInt(base) * BigInt(down));
  const ticks = timing.kind === 'variable' ? timing.ticks : null;
  const start = ticks ? (ticks[Math.min(Math.max(mapping.inPicture, 0), last)] as number) : 0;
  let at = 0;
  for (let n = 0; n < length; n++) {
    if (ticks) {
      const tick = start + base;
      while (at < last && (ticks[at + 1] as number) <= tick) at++;
      pictures[n] = at;
      if (fitMakes(fit) && at < last)
        nextShare[n] = shareOf(tick - (ticks[at] as number), (ticks[at + 1] as number) - (ticks[at] as number), SHARES);
    } else {
      const picture = mapping.inPicture + base;
      pictures[n] = picture < 0 ? 0 : Math.min(picture, last);
      if (fitMakes(fit) && picture >= 0 && picture < last) nextShare[n] = Math.floor((rest * SHARES) / down);
    }
    settleAt(pictures, nextShare, n);
    base += whole;
    rest += part;
    if (rest >= down) {
      rest -= down;
      base++;
    }
  }
}

/** What `settled` does, of a frame of the whole map. */
function settleAt(pictures: Int32Array, nextShare: Uint16Array, n: number): void {
  const share = nextShare[n] as number;
  if (share >= NEAR && share <= SHARES - NEAR) return;
  if (share > SHARES - NEAR) pictures[n] = (pictures[n] as number) + 1;
  nextShare[n] = 0;
}

/** Parts of the gap that have passed, 0 to parts - 1. */
function shareOf(passed: number, gap: number, parts: number): number {
  return gap > 0 ? Math.min(parts - 1, Math.max(0, Math.floor((passed * parts) / gap))) : 0;
}

/** Differences of consecutive pictures; the first is 0. */
function stepsOf(pictures: Int32Array): Int32Array {
  const steps = new Int32Array(pictures.length);
  for (let n = 1; n < pictures.length; n++) steps[n] = (pictures[n] as number) - (pictures[n - 1] as number);
  return steps;
}

/** The most common of the numbers after the first (with two equally common, the smaller); 1 when there are none. */
function mostCommonStep(steps: Int32Array): number {
  const small = new Int32Array(256);
  const large = new Map<number, number>();
  for (let n = 1; n < steps.length; n++) {
    const step = steps[n] as number;
    if (step >= 0 && step < 256) small[step] = (small[step] as number) + 1;
    else large.set(step, (large.get(step) ?? 0) + 1);
  }
  let usual = 1;
  let most = 0;
  const counts = [...[...small].map((count, step) => [step, count] as const), ...large];
  for (const [step, count] of counts) {
    if (count > most || (count === most && count > 0 && step < usual)) {
      usual = step;
      most = count;
    }
  }
  return usual;
}

/**
 * Frames whose step is not the usual one. Where pictures are mostly held (25 in 50, 24 in 60) every second step is a
 * hold by design; there a hitch is a picture held for another number of frames than usual, reported at its first frame.
 * Both rules agree wherever the usual step is 1.
 */
function findHitches(pictures: Int32Array, steps: Int32Array, usualStep: number): Int32Array {
  const found: number[] = [];
  let holds = 0;
  for (let n = 1; n < steps.length; n++) if (steps[n] === 0) holds++;
  if (holds * 2 + 1 >= steps.length - 1 && holds > 0 && holds < steps.length - 1) return unevenHolds(pictures);
  for (let n = 1; n < steps.length; n++) if (steps[n] !== usualStep) found.push(n);
  return Int32Array.from(found);
}

function unevenHolds(pictures: Int32Array): Int32Array {
  const starts = new Int32Array(pictures.length);
  let runs = 1;
  for (let n = 1; n < pictures.length; n++) if (pictures[n] !== pictures[n - 1]) starts[runs++] = n;
  // The first and the last run may be cut by the clip's ends and tell nothing.
  const lengths = new Int32Array(runs);
  for (let run = 1; run < runs - 1; run++) lengths[run] = (starts[run + 1] as number) - (starts[run] as number);
  const usual = mostCommonStep(lengths.subarray(0, Math.max(1, runs - 1)));
  const found: number[] = [];
  for (let run = 1; run < runs - 1; run++) if (lengths[run] !== usual) found.push(starts[run] as number);
  return Int32Array.from(found);
}
