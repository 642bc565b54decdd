export type { Desk, DeskCode, Sending, Started, Verdict } from './port.js';
export { DESK_CODES, DeskError, deskSentence, NOTHING_SENT } from './port.js';
export type { DeskSpec, FileFacts, FrameKind, Reason } from './spec.js';
export { deskSpecSchema, objections, REASONS, reasonSchema, reasonSentence, specWords } from './spec.js';
