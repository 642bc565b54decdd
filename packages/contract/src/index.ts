export type { DeskSpec, FileFacts, Reason } from '@thawline/desk';
export { objections, reasonSentence } from '@thawline/desk';
export type { ErrorCode, ErrorReply } from './errors.js';
export { ERROR_CODES, errorSchema } from './errors.js';
export { openapi } from './openapi.js';
export type { Route, RouteName } from './routes.js';
export { address, routes } from './routes.js';
export type {
  AlignedReply,
  CacheReply,
  ChangeReply,
  CheckReply,
  CheckSummary,
  ComparisonReply,
  ComparisonSummary,
  FileState,
  FolderReply,
  HeldOutReply,
  JobReply,
  LoudnessReply,
  OpenEditReply,
  OutputsReply,
  PanReply,
  ProjectState,
  ReceiptReply,
  Region,
  ScanReply,
  ServerEvent,
  TrialReply,
} from './schemas.js';
export {
  addQuerySchema,
  changeSchema,
  checkSchema,
  checkSummarySchema,
  commandBodySchema,
  comparisonSchema,
  eventSchema,
  findBodySchema,
  frameRangeSchema,
  inPlaceBodySchema,
  JOB_KINDS,
  JOB_STATES,
  jobSchema,
  newProjectSchema,
  openEditBodySchema,
  projectStateSchema,
  projectSummarySchema,
  receiptSchema,
  revisionSchema,
  scanBodySchema,
  secondsRangeSchema,
  startJobSchema,
  timingSchema,
  uploadReplySchema,
  waveFormSchema,
} from './schemas.js';
