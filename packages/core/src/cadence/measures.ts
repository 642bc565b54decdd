import { averageRate, pictureSeconds, type Rate, rateToNumber, secondsOf } from '../time/index.js';
import { frameState } from './frame.js';
import { fitMakes, type Mapping, SHARES, type StepMap } from './stepmap.js';

/** What a person wants to know of a step map before choosing a fit. */
export interface CadenceFacts {
  /** Output frames. */
  readonly frames: number;
  readonly seconds: number;
  /** Speed of the action: 1 is real time. */
  readonly speed: number;
  /** Pitch of sound that goes with the pictures, in semitones: 12 * log2(speed). */
  readonly semitones: number;
  readonly hitches: number;
  readonly hitchesPerSecond: number;
  /** Frames that repeat the one before. */
  readonly held: number;
  /** Source pictures inside the range that no frame shows. */
  readonly skipped: number;
  /** Frames mixed from two pictures. */
  readonly blended: number;
  /** Frames made by motion between two pictures. */
  readonly made: number;
  /** Root mean square of (time of the picture shown - ideal time - their mean), in ms. */
  readonly unevennessMs: number;
}

/** @param own the rate the pictures were taken at, against which speed is told; the mapping's own when left out, null for a still */
export function cadenceFacts(mapping: Mapping, map: StepMap, own: Rate | null = averageRate(mapping.timing)): CadenceFacts {
  const seconds = secondsOf(mapping.length, mapping.timeline);
  const speed = own ? speedOf(mapping, map, own) : 1;
  const states = { real: 0, held: 0, blended: 0, made: 0 };
  let skipped = 0;
  for (let n = 0; n < map.pictures.length; n++) {
    states[frameState(mapping, map, n)]++;
    const step = map.steps[n] as number;
    if (step > 1 && !fitMakes(mapping.fit)) skipped += step - 1;
  }
  return {
    frames: mapping.length,
    seconds,
    speed,
    semitones: 12 * Math.log2(Math.abs(speed) || 1),
    hitches: map.hitches.length,
    hitchesPerSecond: seconds > 0 ? map.hitches.length / seconds : 0,
    skipped,
    held: states.held,
    blended: states.blended,
    made: states.made,
    unevennessMs: unevenness(mapping, map),
  };
}

/** Pictures a second as they pass on the timeline, against those they were taken at; of a curve the average. */
function speedOf(mapping: Mapping, map: StepMap, own: Rate): number {
  const { timeline, curve, length } = mapping;
  if (curve?.length && length > 1) {
    const at = (n: number): number => (map.pictures[n] as number) + (map.nextShare[n] as number) / SHARES;
    return ((at(length - 1) - at(0)) / (length - 1)) * (rateToNumber(timeline) / rateToNumber(own));
  }
  const passing = mapping.fit === 'pictures' ? timeline : averageRate(mapping.timing);
  return passing ? rateToNumber(passing) / rateToNumber(own) : 1;
}

/**
 * Root mean square of how far pictures are from their ideal times. Where pictures are kept, or follow a
 * curve, the ideal is that itself, so it is 0.
 */
function unevenness(mapping: Mapping, map: StepMap): number {
  const { timing, timeline } = mapping;
  const own = mapping.fit === 'pictures' || mapping.fit === 'freeze' || Boolean(mapping.curve?.length);
  if (own || timing.kind === 'still' || map.pictures.length < 2) return 0;
  const errors = new Float64Array(map.pictures.length);
  let mean = 0;
  for (let n = 0; n < errors.length; n++) {
    const picture = map.pictures[n] as number;
    const share = (map.nextShare[n] as number) / SHARES;
    const shown = timeOfPicture(timing, picture, share);
    errors[n] = shown - secondsOf(n, timeline);
    mean += (errors[n] as number) / errors.length;
  }
  let sum = 0;
  for (const error of errors) sum += (error - mean) ** 2;
  return Math.sqrt(sum / errors.length) * 1000;
}

function timeOfPicture(timing: Mapping['timing'], picture: number, share: number): number {
  const at = pictureSeconds(timing, picture);
  return share === 0 ? at : at + (pictureSeconds(timing, picture + 1) - at) * share;
}
