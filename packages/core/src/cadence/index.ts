export type { Curve, CurveFault, Handles, Pin, PinWay } from './curve.js';
export { curveFault, curveParts, EASE, eased, HANDLE_REACH, PIN_WAYS, slowPins } from './curve.js';
export { refreshesOf, refreshPattern, SCREEN_RATES } from './display.js';
export type { FrameContent, FrameState } from './frame.js';
export { FRAME_STATES, frameContent, frameState, picturesIn, repeats, standsStill } from './frame.js';
export type { CadenceFacts } from './measures.js';
export { cadenceFacts } from './measures.js';
export type { Exposed } from './shutter.js';
export { pictureAlone, SHUTTER_MAX } from './shutter.js';
export type { Fit, Mapping, Position, StepMap } from './stepmap.js';
export {
  earliestHead,
  exactPositionAt,
  FITS,
  fitMakes,
  furthestRun,
  longestRun,
  positionAt,
  SHARES,
  stepMap,
  stepMapOf,
} from './stepmap.js';
