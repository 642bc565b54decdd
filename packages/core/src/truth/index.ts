export type { Change } from './change.js';
export { CHECK_WIDTH, ChangeMeter, checkSize } from './change.js';
export type { ClaimVerdict } from './claim.js';
export { judgeClaim } from './claim.js';
export type { Stretch, Verdict, VerdictKind } from './verdict.js';
export { judge, VERDICT_KINDS } from './verdict.js';
