/** A source picture tied to a frame of a clip. Both count from 0; frames from where the clip's count begins (see Mapping.headTrim). */
export interface Pin {
  readonly frame: number;
  readonly picture: number;
  /** How the curve continues to the next pin: at one speed, eased by the handles, or held on this picture. Ignored for the last pin. */
  readonly way: PinWay;
  /** Where eased: the two handles, x and y in shares of the way to the next pin. */
  readonly handles?: Handles | undefined;
}

export const PIN_WAYS = ['even', 'eased', 'held'] as const;
export type PinWay = (typeof PIN_WAYS)[number];

/** Two inner control points of a cubic Bézier from (0, 0) to (1, 1): x1, y1, x2, y2. */
export type Handles = readonly [number, number, number, number];

/** Starts and ends slowly, at a third of the way. */
export const EASE: Handles = [1 / 3, 0, 2 / 3, 1];

/**
 * Pins in the order of their frames, each on a frame of its own, at least one. Before the first and after the last one pictures pass
 * as they would without a curve.
 */
export type Curve = readonly Pin[];

/** How far handles may leave the way between two pins where running backward is asked for. */
export const HANDLE_REACH = 2;

/** What is wrong with pins, in order of looking; null when they make a curve. */
export type CurveFault = 'no-pins' | 'two-on-a-frame' | 'past-source' | 'bad-handles';

/**
 * @param pictures of the source
 * @param backward whether eased stretches may run back on themselves
 */
export function curveFault(pins: Curve, pictures: number, backward = false): CurveFault | null {
  if (pins.length === 0) return 'no-pins';
  for (const [i, pin] of pins.entries()) {
    const before = pins[i - 1];
    if (before && pin.frame <= before.frame) return 'two-on-a-frame';
    if (pin.picture < 0 || pin.picture >= pictures) return 'past-source';
    const reach = backward ? HANDLE_REACH : 0;
    const within = (value: number, by: number): boolean => value >= -by && value <= 1 + by;
    // With both heights between those of the pins the curve never turns: its slope, a quadratic, has no two roots then.
    for (const [at, value] of (pin.handles ?? []).entries()) if (!within(value, at % 2 === 1 ? reach : 0)) return 'bad-handles';
  }
  return null;
}

/** The stretch a frame lies in: the last pin at or before it, -1 before the first. */
export function pinBefore(curve: Curve, frame: number): number {
  let low = -1;
  let high = curve.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((curve[middle] as Pin).frame <= frame) low = middle;
    else high = middle - 1;
  }
  return low;
}

/**
 * Source position between two pins in parts of a picture, rounded down: exact where the way is even.
 * @param frame from a's on, before b's
 */
export function curveParts(a: Pin, b: Pin, frame: number, parts: number): number {
  if (a.way === 'held') return a.picture * parts;
  const gone = frame - a.frame;
  const [frames, pictures] = [b.frame - a.frame, b.picture - a.picture];
  if (a.way === 'eased') return Math.floor((a.picture + pictures * eased(a.handles ?? EASE, gone / frames)) * parts + 1e-7);
  const product = gone * pictures * parts;
  if (Number.isSafeInteger(product)) return a.picture * parts + Math.floor(product / frames);
  const exact = BigInt(gone) * BigInt(pictures) * BigInt(parts);
  const whole = exact / BigInt(frames);
  return a.picture * parts + Number(exact < 0n && whole * BigInt(frames) !== exact ? whole - 1n : whole);
}

/** Height of the Bézier above a share of its width, both from 0 to 1. Newton steps, and halving where these leave the way. */
export function eased([x1, y1, x2, y2]: Handles, x: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  let [low, high] = [0, 1];
  let t = x;
  for (let i = 0; i < 60; i++) {
    const off = bezier(x1, x2, t) - x;
    if (Math.abs(off) < 1e-12) break;
    if (off > 0) high = t;
    else low = t;
    const slope = 3 * ((1 - t) ** 2 * x1 + 2 * t * (1 - t) * (x2 - x1) + t ** 2 * (1 - x2));
    const next = t - off / slope;
    t = slope > 1e-9 && next > low && next < high ? next : (low + high) / 2;
  }
  return bezier(y1, y2, t);
}

function bezier(a: number, b: number, t: number): number {
  return 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t ** 2 * b + t ** 3;
}

/**
 * The four pins of normal, slow, normal: from `frame` on the speed goes down within `ramp` frames, stays for `slow` frames and comes up
 * again within `ramp`; evenly, so that speed has no step (a Bézier with these handles is a parabola).
 * @param picture the picture at `frame`
 * @param normal pictures a frame before and after
 * @param speed share of it while slow
 */
export function slowPins({
  frame,
  picture,
  normal,
  speed,
  ramp,
  slow,
}: {
  readonly frame: number;
  readonly picture: number;
  readonly normal: number;
  readonly speed: number;
  readonly ramp: number;
  readonly slow: number;
}): Pin[] {
  const down = Math.round((ramp * normal * (1 + speed)) / 2);
  const through = Math.max(1, Math.round(slow * normal * speed));
  const [first, second] = [picture + down, picture + down + through];
  return [
    { frame, picture, way: 'eased', handles: between(1, speed) },
    { frame: frame + ramp, picture: first, way: 'even' },
    { frame: frame + ramp + slow, picture: second, way: 'eased', handles: between(speed, 1) },
    { frame: frame + 2 * ramp + slow, picture: second + down, way: 'even' },
  ];
}

/** Handles of a stretch that goes from one speed to another, any unit. */
function between(from: number, to: number): Handles {
  const sum = 1.5 * (from + to);
  return [1 / 3, from / sum, 2 / 3, 1 - to / sum];
}
