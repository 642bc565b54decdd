import { estimateRender, type TrialRequest } from '../../estimate/estimate.js';
import type { JobContext } from '../context.js';
import { withMotionThreads } from '../motionThreads.js';

export function run(context: JobContext, request: TrialRequest) {
  return estimateRender(context, withMotionThreads(request));
}
