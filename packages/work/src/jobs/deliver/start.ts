import { join } from 'node:path';
import { FORMS } from '@thawline/project';
import type { DeliverRequest } from '../../deliver/deliver.js';
import type { ParamsOf, RequestOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import type { RenderParams } from '../render/edit.js';
import type { BeginningJob, NewJob, SpecificationContext, StartContext } from '../starting.js';
import type { deliver } from './definition.js';

export async function start({ jobId }: RequestOf<typeof deliver>, context: StartContext): Promise<readonly NewJob[]> {
  const { desk } = context;
  if (desk === null) throw new JobRefused('no-desk');
  const { id, label, params: was, paths } = await context.writtenRender<RenderParams>(jobId);
  if (FORMS[was.form.kind].sound === 'beside')
    throw new JobRefused('bad-request', {}, 'A desk takes one file: render it as MP4, WebM or Matroska.');
  const params: ParamsOf<typeof deliver> = { desk, path: paths[0] ?? '' };
  return [{ kind: 'deliver', label, subject: id, params }];
}

export async function specification(
  { params }: BeginningJob<ParamsOf<typeof deliver>>,
  { workFolder }: SpecificationContext,
): Promise<DeliverRequest> {
  return { ...params, notes: join(workFolder, 'sent.json') };
}
