export { gcd, mulDivFloor } from './exact.js';
export type { SoundGap } from './gap.js';
export { soundGap } from './gap.js';
export type { Rate, Snapped } from './rate.js';
export {
  formatDecimalRate,
  formatExact,
  formatRate,
  frameAtOrAfter,
  frameAtOrBefore,
  parseRate,
  ppmBetween,
  RATE_MAX,
  RATE_MIN,
  rate,
  rateToNumber,
  SNAP_TOLERANCE_PPM,
  STANDARD_RATES,
  sameRate,
  secondsOf,
  snapRate,
} from './rate.js';
export { allowsDropFrame, formatTimecode, nominalRate, parseTimecode } from './timecode.js';
export type { Timing } from './timing.js';
export { constantTiming, measureTiming, pictureAt, timingLength } from './timing.js';
