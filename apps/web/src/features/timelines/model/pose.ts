import { areaOf, inverted, layPicture, PLAIN_POSE, type Point, type Pose, pointBy, type Size } from '@thawline/core/picture';
import {
  type Clip,
  framedBy,
  POSE_REACH,
  pictureSize,
  SCALE_LEAST,
  SCALE_MOST,
  type Source,
  type Timeline,
} from '@thawline/project';

/** How a clip's picture is laid by hand: plain computing, in pixels of the timeline's frame. */

const { atan2, hypot, max, min, PI, round } = Math;

export const poseOf = ({ pose }: Pick<Clip, 'pose'>): Pose => pose ?? PLAIN_POSE;

/** A clip's picture and the frame it is laid in. */
export interface Laying {
  readonly source: Pick<Source, 'width' | 'height'>;
  readonly frame: Size;
  readonly framing: Clip['framing'];
}

const within = (value: number, least: number, most: number): number => max(least, min(most, value));
/** Numbers are kept to a ten-thousandth: less than a pixel of any frame. */
const kept = (value: number): number => round(value * 10_000) / 10_000;
const reached = (value: number): number => within(kept(value), -POSE_REACH, POSE_REACH);
const sized = (value: number): number => within(kept(value), SCALE_LEAST, SCALE_MOST);

/** Moved by so many pixels. */
export function movedBy(pose: Pose, frame: Size, by: Point): Pose {
  return { ...pose, x: reached(pose.x + by.x / frame.width), y: reached(pose.y + by.y / frame.height) };
}

/** Where the anchor is, in pixels of the frame. */
export function anchorOf({ source, frame, framing }: Laying, pose: Pose): Point {
  const { raster, matrix } = layPicture(pictureSize(source), frame, { framing, pose });
  return pointBy(matrix, { x: pose.anchorX * raster.width, y: pose.anchorY * raster.height });
}

/** Another point as the anchor; the picture stays where it is. */
export function anchoredAt({ source, frame, framing }: Laying, pose: Pose, anchor: Point): Pose {
  const size = pictureSize(source);
  const { raster, matrix } = layPicture(size, frame, { framing, pose });
  const base = layPicture(size, frame, { framing }).bounds;
  const at = pointBy(matrix, { x: anchor.x * raster.width, y: anchor.y * raster.height });
  return {
    ...pose,
    anchorX: reached(anchor.x),
    anchorY: reached(anchor.y),
    x: reached((at.x - base.x - anchor.x * base.width) / frame.width),
    y: reached((at.y - base.y - anchor.y * base.height) / frame.height),
  };
}

/** The point of a picture, in shares of it, at a place of the frame. */
export function pictureAt({ source, frame, framing }: Laying, pose: Pose, place: Point): Point {
  const { raster, matrix } = layPicture(pictureSize(source), frame, { framing, pose });
  const { x, y } = pointBy(inverted(matrix), place);
  return { x: x / raster.width, y: y / raster.height };
}

/** Larger or smaller, its shape kept, as a corner is pulled from one place to another. */
export function scaledBy(laying: Laying, pose: Pose, from: Point, to: Point): Pose {
  const anchor = anchorOf(laying, pose);
  const before = hypot(from.x - anchor.x, from.y - anchor.y);
  const now = hypot(to.x - anchor.x, to.y - anchor.y);
  if (before < 1) return pose;
  const times = within(now / before, SCALE_LEAST / min(pose.scaleX, pose.scaleY), SCALE_MOST / max(pose.scaleX, pose.scaleY));
  return { ...pose, scaleX: sized(pose.scaleX * times), scaleY: sized(pose.scaleY * times) };
}

/** Degrees of a turn that quarters draw to themselves. */
const DRAWN_DEGREES = 2;

/** Turned about its anchor as a handle is pulled from one place to another; near a quarter it is one, unless it is to be free. */
export function turnedBy(laying: Laying, pose: Pose, { from, to, free }: { from: Point; to: Point; free: boolean }): Pose {
  const anchor = anchorOf(laying, pose);
  const angle = (p: Point): number => (atan2(p.y - anchor.y, p.x - anchor.x) * 180) / PI;
  const turn = inOneTurn(pose.turn + angle(to) - angle(from));
  const quarter = round(turn / 90) * 90;
  return { ...pose, turn: inOneTurn(!free && Math.abs(turn - quarter) < DRAWN_DEGREES ? quarter : round(turn * 10) / 10) };
}

/** The same turn, above -180 to 180 degrees. */
export function inOneTurn(degrees: number): number {
  const turn = ((degrees % 360) + 360) % 360;
  return turn > 180 ? turn - 360 : turn;
}

/** Share of the frame that a clip's picture leaves free, and of the picture that is not seen. */
export function leftBy(source: Source, timeline: Timeline, clip: Pick<Clip, 'framing' | 'pose'>) {
  const { matrix, seen } = framedBy(source, timeline, clip);
  const shown = areaOf(seen);
  const whole = Math.abs(matrix.a * matrix.d - matrix.b * matrix.c);
  return { free: 1 - shown, hidden: whole === 0 ? 0 : 1 - shown / whole };
}

/** What of a pose is another one, for a command; null where nothing is. */
export function changedPose(before: Pose, now: Pose): Partial<Pose> | null {
  const changed = (Object.keys(now) as (keyof Pose)[]).filter((key) => JSON.stringify(now[key]) !== JSON.stringify(before[key]));
  return changed.length === 0 ? null : Object.fromEntries(changed.map((key) => [key, now[key]]));
}

/** The same timeline with one clip laid otherwise: what is drawn while a handle is pulled. */
export function withPose(timeline: Timeline, { id }: Clip, pose: Pose): Timeline {
  return {
    ...timeline,
    clips: timeline.clips.map((c) => (c.id === id ? { ...c, pose: { ...pose, crop: { ...pose.crop } } } : c)),
  };
}
