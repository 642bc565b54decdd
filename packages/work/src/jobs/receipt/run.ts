import { measureReceipt, type ReceiptRequest } from '../../receipt/measure.js';
import type { JobContext } from '../context.js';
import { withMotionThreads } from '../motionThreads.js';

export function run(context: JobContext, request: ReceiptRequest) {
  return measureReceipt(context, withMotionThreads(request));
}
