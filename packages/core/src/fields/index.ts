export { openRebuilder } from './deepRebuild.js';
export type { FieldOrder, FieldPicture, FieldPlan, FieldRun, FieldWay, FilmBeat } from './reading.js';
export {
  beatFields,
  checkRuns,
  FIELD_ORDERS,
  FIELD_WAYS,
  FILM_BEATS,
  fieldTiming,
  filmShare,
  frameOfPicture,
  groupLengths,
  oneWay,
  pictureOfFrame,
  planFields,
} from './reading.js';
export type { FieldDoubts, FieldRebuilder, FieldWindow } from './rebuild.js';
export { FRAMES_BESIDE, ReferenceRebuilder } from './rebuild.js';
export { KernelRebuilder } from './rebuild.wasm.js';
export { fieldAlone, fieldDifference, unsureParts } from './show.js';
export type { LowPass } from './weave.js';
export { allowsFields, filmOfField, framesOfFilm, LOW_PASSES, weaveFields } from './weave.js';
