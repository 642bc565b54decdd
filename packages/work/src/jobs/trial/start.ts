import type { TrialRequest } from '../../estimate/estimate.js';
import type { RequestOf } from '../define.js';
import { fileStem, formFor, type RenderParams, renderInput, wantedEdit, wantedPath } from '../render/edit.js';
import type { BeginningJob, NewJob, SpecificationContext, StartContext } from '../starting.js';
import type { trial } from './definition.js';

/** A trial of a timeline takes the place of those before it. */
export async function start(request: RequestOf<typeof trial>, context: StartContext): Promise<readonly NewJob[]> {
  const { timeline, ...edit } = wantedEdit(context.document, request);
  const form = formFor(request.form, timeline);
  await context.drop('trial', timeline.id);
  const params: RenderParams = {
    ...edit,
    timelineId: timeline.id,
    form,
    folder: context.renderFolder(request.folder),
    file: fileStem(timeline.name),
  };
  return [{ kind: 'trial', label: timeline.name, subject: timeline.id, params }];
}

export async function specification(
  { params }: BeginningJob<RenderParams>,
  context: SpecificationContext,
): Promise<TrialRequest> {
  return {
    input: await renderInput(params, context),
    form: params.form,
    path: wantedPath(params, context.firstRenderFolder),
    work: context.workFolder,
    cache: context.cacheFolder,
  };
}
