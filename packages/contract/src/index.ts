export type { DeskSpec, FileFacts, Reason } from '@thawline/desk';
export { objections, reasonSentence } from '@thawline/desk';
export {
  JOB_KINDS,
  type JobKind,
  jobOf,
  type Region,
  type StaleQuery,
  type StartJob,
  startJobSchema,
} from '@thawline/work/definitions';
export type { ErrorCode, ErrorReply } from './errors.js';
export { ERROR_CODES, ERROR_SENTENCES, errorSchema } from './errors.js';
export { openapi } from './openapi.js';
export type { Route, RouteName } from './routes.js';
export { address, routes } from './routes.js';
export type { CheckReply, CheckSummary, ComparisonReply, ComparisonSummary } from './schemas/checks.js';
export { checkSchema, checkSummarySchema, comparisonSchema, timingSchema } from './schemas/checks.js';
export type { FieldView, FileState, FolderReply, ScanReply } from './schemas/files.js';
export {
  addQuerySchema,
  FIELD_VIEWS,
  fieldPictureQuerySchema,
  findBodySchema,
  inPlaceBodySchema,
  readFieldsBodySchema,
  scanBodySchema,
  uploadReplySchema,
  uploadsBodySchema,
} from './schemas/files.js';
export type { JobReply, ServerEvent } from './schemas/jobs.js';
export { eventSchema, JOB_STATES, jobSchema } from './schemas/jobs.js';
export type { AlignedReply, HeldOutReply, LoudnessReply, PanReply } from './schemas/measures.js';
export { secondsRangeSchema, waveFormSchema } from './schemas/measures.js';
export type { Asker, ChangeReply, EditPreviewReply, OpenEditReply, ProjectState, ProjectSummary } from './schemas/projects.js';
export {
  askerSchema,
  changeSchema,
  commandBodySchema,
  frameRangeSchema,
  newProjectSchema,
  openEditBodySchema,
  projectStateSchema,
  projectSummarySchema,
  revisionSchema,
} from './schemas/projects.js';
export type { CacheReply, OutputsReply, ReceiptReply, TrialReply } from './schemas/renders.js';
export { receiptSchema } from './schemas/renders.js';
export type { BackupProject, BackupReply, FreeKind, ImportedReply, RestoredReply, StorageReply } from './schemas/storage.js';
