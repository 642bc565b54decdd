import { times } from '../time/index.js';
import { exactPositionAt, type Mapping, type Position, SHARES, snappedPosition } from './stepmap.js';

/** A part of a frame's light: a source position and how much of the whole it is. */
export interface Exposed extends Position {
  /** The parts of a frame sum up to 1. */
  readonly weight: number;
}

/** Moments that a shutter is sampled at where its pictures are too few to look like motion. */
const MOMENTS = 8;

/** A picture with less than this share of a frame's light is ignored, so that a frame this close to a picture's own moment shows it untouched. */
const LEAST_WEIGHT = 1 / 256;

/** Widest shutter, in degrees: open from a frame to the next. */
export const SHUTTER_MAX = 360;

/**
 * What a shutter sees that opens at frame n and stays open for shutterDegrees / 360 of a frame: the real pictures it covers, each
 * standing for the time until the next one, fractions weighted; or, where these are fewer than MOMENTS and motion may make others, MOMENTS
 * moments evenly in it. 180 degrees of a frame of 25 are two pictures of 100.
 * @param shutterDegrees above 0 to SHUTTER_MAX, whole
 */
export function exposures(mapping: Mapping, n: number, shutterDegrees: number): Exposed[] {
  const between = mapping.fit === 'motion';
  // Counted in degrees, opening and closing are whole frames of a finer timeline.
  const fine = (steps: number): Mapping => ({
    ...mapping,
    fit: 'blend',
    timeline: times(mapping.timeline, { num: steps, den: 1 }),
    headTrim: mapping.headTrim * steps,
    curve: mapping.curve?.map((pin) => ({ ...pin, frame: pin.frame * steps })),
  });
  const degrees = fine(SHUTTER_MAX);
  const ends = [n * SHUTTER_MAX, n * SHUTTER_MAX + shutterDegrees].map((degree) => exactPositionAt(degrees, degree, SHARES));
  // On a curve that runs backward it closes on an earlier picture than it opened on.
  const [opens, closes] = ends.sort((a, b) => a.picture - b.picture || a.nextShare - b.nextShare) as [Position, Position];
  const covered = closes.picture - opens.picture + (closes.nextShare - opens.nextShare) / SHARES;
  if (between && covered < MOMENTS) {
    const moments = fine(SHUTTER_MAX * MOMENTS * 2);
    const seen: Exposed[] = [];
    for (let i = 0; i < MOMENTS; i++) {
      const degree = n * SHUTTER_MAX * MOMENTS * 2 + shutterDegrees * (2 * i + 1);
      const one = snappedPosition(exactPositionAt(moments, degree, SHARES));
      const last = seen.at(-1);
      // Past the last picture nothing moves on: one moment, however often it is looked at.
      if (last?.picture === one.picture && last.nextShare === one.nextShare)
        seen[seen.length - 1] = { ...last, weight: last.weight + 1 / MOMENTS };
      else seen.push({ ...one, weight: 1 / MOMENTS });
    }
    return seen;
  }
  if (covered <= 0) return [{ picture: opens.picture, nextShare: 0, weight: 1 }];
  const { timing } = mapping;
  const lasts = (k: number): number =>
    timing.kind === 'variable' ? (timing.ticks[k + 1] ?? timing.end) - (timing.ticks[k] as number) : 1;
  const seen: Exposed[] = [];
  for (let picture = opens.picture; picture <= closes.picture; picture++) {
    const from = picture === opens.picture ? opens.nextShare / SHARES : 0;
    const to = picture === closes.picture ? closes.nextShare / SHARES : 1;
    if (to > from) seen.push({ picture, nextShare: 0, weight: (to - from) * lasts(picture) });
  }
  const clear = inFull(seen).filter((one) => one.weight >= LEAST_WEIGHT);
  return inFull(clear.length > 0 ? clear : seen);
}

/** The same with weights that sum up to 1. */
function inFull(seen: readonly Exposed[]): Exposed[] {
  const whole = seen.reduce((sum, { weight }) => sum + weight, 0);
  return seen.map((one) => ({ ...one, weight: one.weight / whole }));
}

/** The picture that a shutter sees alone and untouched; null where it sees several, or one that lies between two. */
export function pictureAlone(seen: readonly Exposed[]): number | null {
  const [first] = seen;
  return first && seen.length === 1 && first.nextShare === 0 ? first.picture : null;
}
