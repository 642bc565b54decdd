export type { Applied, Difference } from './apply.js';
export { apply, applyDifference } from './apply.js';
export type { Command, CommandType, Facts, Refusal, RefusalCode } from './commands.js';
export { commandSchema, REFUSALS } from './commands.js';
export { describe } from './describe.js';
export type { Clip, Lane, Project, Source, Timeline } from './document.js';
export {
  clipSchema,
  documentSchema,
  emptyProject,
  idSchema,
  rateSchema,
  soundSchema,
  sourceSchema,
  timelineSchema,
} from './document.js';
export type { TimingOf } from './mapping.js';
export { clipEnd, mappingOf, noTiming, timelineLength, timingOf } from './mapping.js';
export type { Placement } from './place.js';
export { clipsFor, freeStart } from './place.js';
export type { ClipCadence, FrameTally, Segment, Shown } from './plan.js';
export { cadenceOf, segmentsOf, shownAt, tallyFrames } from './plan.js';
