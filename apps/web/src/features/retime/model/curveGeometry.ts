import { type Curve, EASE, HANDLE_REACH, type Handles, type Pin } from '@thawline/core/cadence';

/** Where frames and pictures are in the drawing of a time curve. Pure: sizes in CSS pixels, frames counted from the clip's first. */

/** Room that a pin's label takes. */
export const LABEL = 76;
export const MARGIN = { left: 52, right: 16, top: 16, bottom: 26 } as const;
/** Room above the highest pin, as a share of its height. */
const HEADROOM = 1.06;
/** A pin further right than this share writes its label to its left. */
const RIGHT_SHARE = 0.8;

export interface CurvePlace {
  readonly frame: number;
  readonly picture: number;
}

export interface CurveGeometry {
  /** Size of the plot. */
  readonly across: number;
  readonly up: number;
  /** Frame of the right edge, at least 1. */
  readonly span: number;
  /** Picture of the upper edge. */
  readonly top: number;
  readonly x: (frame: number) => number;
  readonly y: (picture: number) => number;
  /** The inverse, not rounded, for a point of the drawing. */
  readonly placeAt: (x: number, y: number) => CurvePlace;
}

/** @param positions the picture each frame shows, fractions between two */
export function curveGeometry(
  size: { readonly width: number; readonly height: number },
  pins: Curve,
  positions: ArrayLike<number>,
): CurveGeometry {
  const across = Math.max(1, size.width - MARGIN.left - MARGIN.right);
  const up = Math.max(1, size.height - MARGIN.top - MARGIN.bottom);
  const span = Math.max(1, positions.length - 1);
  let most = 1;
  for (const { picture } of pins) most = Math.max(most, picture);
  for (let k = 0; k < positions.length; k++) most = Math.max(most, positions[k] as number);
  const top = most * HEADROOM;
  return {
    across,
    up,
    span,
    top,
    x: (frame) => MARGIN.left + (frame / span) * across,
    y: (picture) => MARGIN.top + up - (picture / top) * up,
    placeAt: (x, y) => ({
      frame: ((x - MARGIN.left) / across) * span,
      picture: ((MARGIN.top + up - y) / up) * top,
    }),
  };
}

/** The line through the positions of frames from … to, a point a pixel at most, as an SVG path. */
export function linePath({ x, y, across }: CurveGeometry, positions: ArrayLike<number>, from: number, to: number): string {
  const step = Math.max(1, Math.floor((to - from) / across));
  const at = (k: number): string => `${x(k).toFixed(1)} ${y(positions[Math.min(k, positions.length - 1)] as number).toFixed(1)}`;
  const points: string[] = [];
  for (let k = from; k < to; k += step) points.push(at(k));
  return `M${[...points, at(to)].join('L')}`;
}

/** The curve with a pin moved to a place, between its neighbours at the most; pictures stay those of the source. */
export function movedPin(curve: Curve, index: number, to: CurvePlace, limits: { first: number; pictures: number }): Curve {
  const [before, after] = [curve[index - 1], curve[index + 1]];
  const least = before ? before.frame + 1 : limits.first;
  const frame = Math.max(least, Math.min(after ? after.frame - 1 : Number.MAX_SAFE_INTEGER, Math.round(to.frame)));
  const picture = Math.max(0, Math.min(limits.pictures - 1, Math.round(to.picture)));
  return curve.map((pin, i) => (i === index ? { ...pin, frame, picture } : pin));
}

/** A handle of an eased stretch: that of its beginning, or of its end. */
export type HandleIndex = 0 | 1;

/**
 * Handles with one of them put at a place, in shares of the stretch: across within it, up so far beyond its ends as it may run back.
 */
export function movedHandle(
  [x1, y1, x2, y2]: Handles,
  index: HandleIndex,
  to: { readonly x: number; readonly y: number },
  backward: boolean,
): Handles {
  const within = (value: number, by: number): number => Math.round(Math.max(0 - by, Math.min(1 + by, value)) * 1000) / 1000;
  const [x, y] = [within(to.x, 0), within(to.y, backward ? HANDLE_REACH : 0)];
  return index === 0 ? [x, y, x2, y2] : [x1, y1, x, y];
}

/** The curve with a handle of an eased pin moved by shares of its stretch. */
export function nudgedHandle(
  curve: Curve,
  pin: number,
  { index, x, y }: { readonly index: HandleIndex; readonly x: number; readonly y: number },
  backward: boolean,
): Curve {
  return curve.map((p, i) => {
    if (i !== pin) return p;
    const handles = p.handles ?? EASE;
    const [hx, hy] = index === 0 ? [handles[0], handles[1]] : [handles[2], handles[3]];
    return { ...p, handles: movedHandle(handles, index, { x: hx + x, y: hy + y }, backward) };
  });
}

/** A curve with a pin of its own at a frame where the curve shows a picture, in order. Frames count as the curve's. */
export function withPinAt(curve: Curve, frame: number, picture: number): Curve {
  const before = curve.findLastIndex((p) => p.frame < frame);
  return [...curve.slice(0, before + 1), { frame, picture, way: 'even' }, ...curve.slice(before + 1)];
}

/** How far an arrow key moves a pin; null for another key. */
export function nudgeOf(key: string, far: boolean): CurvePlace | null {
  const by = far ? 10 : 1;
  switch (key) {
    case 'ArrowLeft':
      return { frame: -by, picture: 0 };
    case 'ArrowRight':
      return { frame: by, picture: 0 };
    case 'ArrowUp':
      return { frame: 0, picture: by };
    case 'ArrowDown':
      return { frame: 0, picture: -by };
    default:
      return null;
  }
}

export interface PinLabel {
  readonly side: 'left' | 'right';
  readonly below: boolean;
}

/**
 * Where a pin's place is written; null where there is no room. The chosen pin's always is; another one's when it neither meets the next
 * pin nor the chosen one's. Labels avoid the line that comes from the left: below at the left, above at the right.
 * @param frames each pin's frame, counted from the clip's first
 */
export function pinLabel(
  { x, y, span, up }: CurveGeometry,
  pins: readonly Pin[],
  frames: readonly number[],
  { index, chosen }: { readonly index: number; readonly chosen: number },
): PinLabel | null {
  const [frame, next, other] = [frames[index] as number, frames[index + 1], frames[chosen]];
  const roomy = next === undefined || x(next) - x(frame) > LABEL;
  const apart = other === undefined || Math.abs(x(frame) - x(other)) > LABEL;
  if (index !== chosen && !(roomy && apart)) return null;
  const right = frame > span * RIGHT_SHARE;
  const at = y((pins[index] as Pin).picture);
  const below = right ? at < MARGIN.top + 18 : at < MARGIN.top + up - 26;
  return { side: right ? 'left' : 'right', below };
}
