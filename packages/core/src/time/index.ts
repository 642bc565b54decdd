export { gcd, gcdBig, mulDivFloor } from './exact.js';
export type { SoundGap } from './gap.js';
export { soundGap } from './gap.js';
export type { Clock, PlaceKind, TypedPlace } from './place.js';
export { clockTimecode, placeWords, readLength, readPlace } from './place.js';
export type { Rate, RateTrouble, Snapped } from './rate.js';
export {
  countsFields,
  formatDecimalRate,
  formatExact,
  formatRate,
  frameAtOrAfter,
  frameAtOrBefore,
  frameNearest,
  over,
  PICTURES_MAX,
  parseRate,
  ppmBetween,
  RATE_MAX,
  RATE_MIN,
  rate,
  rateToNumber,
  rateTrouble,
  SNAP_TOLERANCE_PPM,
  STANDARD_RATES,
  sameRate,
  secondsOf,
  snapRate,
  times,
} from './rate.js';
export { parseSpeed, SPEED_MAX, SPEED_MIN } from './speed.js';
export { allowsDropFrame, formatTimecode, nominalRate, parseTimecode } from './timecode.js';
export type { Timing } from './timing.js';
export {
  averageRate,
  CLIP_FRAMES,
  constantTiming,
  evenTiming,
  type MovedPicture,
  measureTiming,
  movedByEven,
  newOnlyTiming,
  pictureAfter,
  pictureAt,
  pictureCount,
  pictureFor,
  pictureSeconds,
  rebuiltTiming,
  spedUp,
  timingLength,
  timingSeconds,
  usualRate,
} from './timing.js';
