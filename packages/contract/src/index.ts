export type { ErrorCode, ErrorReply } from './errors.js';
export { ERROR_CODES, errorSchema } from './errors.js';
export { openapi } from './openapi.js';
export type { Route, RouteName } from './routes.js';
export { address, routes } from './routes.js';
export type { ChangeReply, CheckReply, CheckSummary, JobReply, ProjectState, ReceiptReply, ServerEvent } from './schemas.js';
export {
  changeSchema,
  checkSchema,
  checkSummarySchema,
  commandBodySchema,
  eventSchema,
  JOB_STATES,
  jobSchema,
  newProjectSchema,
  projectStateSchema,
  projectSummarySchema,
  receiptSchema,
  revisionSchema,
  startJobSchema,
  timingSchema,
  uploadReplySchema,
} from './schemas.js';
