export type { Curve, CurveFault, Handles, Pin, PinWay } from './curve.js';
export { curveFault, curveParts, EASE, eased, HANDLE_REACH, PIN_WAYS, slowPins } from './curve.js';
export { refreshesOf, refreshPattern, SCREEN_RATES } from './display.js';
export type { CadenceFacts } from './measures.js';
export { cadenceFacts } from './measures.js';
export type { Exposed } from './shutter.js';
export { exposures, pictureAlone, SHUTTER_MAX } from './shutter.js';
export type { Fit, Mapping, Position, StepMap } from './stepmap.js';
export { earliestHead, FITS, fitMakes, furthestRun, longestRun, positionAt, stepMap, stepMapOf } from './stepmap.js';
