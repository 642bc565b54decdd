export type { Edit, EditClip, EditLane, EditMark, EditMedia, Kept, Opened, Trouble, TroubleCode } from './edit.js';
export { TROUBLES, troubleSentence } from './edit.js';
export { readEdl } from './edl.js';
export { EDL_SOUNDS, edlHoldsRate, writeEdl } from './edlWrite.js';
export type { Moment } from './moment.js';
export { add, frameBefore, momentOf, sameMoment, scaled, secondsIn, subtract, ZERO } from './moment.js';
export { lastPart } from './names.js';
export { mediaKey, readOtio } from './otio.js';
export { writeOtio } from './otioWrite.js';
