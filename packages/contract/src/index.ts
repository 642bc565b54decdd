export type { ErrorCode, ErrorReply } from './errors.js';
export { ERROR_CODES, errorSchema } from './errors.js';
export { openapi } from './openapi.js';
export type { Route, RouteName } from './routes.js';
export { address, routes } from './routes.js';
export type {
  ChangeReply,
  CheckReply,
  CheckSummary,
  ComparisonReply,
  ComparisonSummary,
  FileState,
  FolderReply,
  HeldOutReply,
  JobReply,
  OpenEditReply,
  PanReply,
  ProjectState,
  ReceiptReply,
  Region,
  ScanReply,
  ServerEvent,
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
  JOB_STATES,
  jobSchema,
  newProjectSchema,
  openEditBodySchema,
  projectStateSchema,
  projectSummarySchema,
  receiptSchema,
  revisionSchema,
  scanBodySchema,
  startJobSchema,
  timingSchema,
  uploadReplySchema,
} from './schemas.js';
