export type { CadenceFacts } from './measures.js';
export { cadenceFacts, speedOf } from './measures.js';
export type { Fit, Mapping, Position, StepMap } from './stepmap.js';
export { earliestHead, FITS, findHitches, longestRun, pictureCount, positionAt, stepMap, stepsOf } from './stepmap.js';
