import type { ReceiptRequest } from '../../receipt/measure.js';
import type { ParamsOf, RequestOf } from '../define.js';
import { type RenderParams, renderInput } from '../render/edit.js';
import type { BeginningJob, NewJob, SpecificationContext, StartContext } from '../starting.js';
import type { receipt } from './definition.js';

export async function start({ jobId }: RequestOf<typeof receipt>, context: StartContext): Promise<readonly NewJob[]> {
  const { id, label, paths } = await context.writtenRender(jobId);
  const params: ParamsOf<typeof receipt> = { renderId: id, paths };
  return [{ kind: 'receipt', label, subject: id, params }];
}

export async function specification(
  { params }: BeginningJob<ParamsOf<typeof receipt>>,
  context: SpecificationContext,
): Promise<ReceiptRequest> {
  const was = await context.renderParams<RenderParams>(params.renderId);
  return { input: await renderInput(was, context), form: was.form, files: params.paths };
}
