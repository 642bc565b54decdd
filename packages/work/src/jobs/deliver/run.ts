import { DeskError } from '@thawline/desk';
import { httpDesk } from '@thawline/desk/http';
import { type DeliverRequest, deliver } from '../../deliver/deliver.js';
import type { JobContext } from '../context.js';
import { JobError } from '../errors.js';

export async function run(context: JobContext, request: DeliverRequest) {
  try {
    return await deliver(context, httpDesk(request.desk), request);
  } catch (error) {
    throw error instanceof DeskError ? new JobError(error.code, error.detail) : error;
  }
}
