import { renderWithReceipt } from '../../receipt/renderWithReceipt.js';
import type { RenderRequest } from '../../render/renderTimeline.js';
import type { JobContext } from '../context.js';
import { withMotionThreads } from '../motionThreads.js';

export function run(context: JobContext, request: RenderRequest) {
  return renderWithReceipt(context, withMotionThreads(request));
}
