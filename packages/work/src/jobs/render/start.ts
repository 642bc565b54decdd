import type { Project } from '@thawline/project';
import type { RenderRequest } from '../../render/renderTimeline.js';
import type { RequestOf } from '../define.js';
import { type BeginningJob, type NewJob, type SpecificationContext, type StartContext } from '../starting.js';
import type { render } from './definition.js';
import { fileStem, formFor, type RenderParams, renderInput, typedFileName, wantedEdit, wantedPath } from './edit.js';

export async function start(request: RequestOf<typeof render>, context: StartContext): Promise<readonly NewJob[]> {
  if (request.kind === 'rerender') return again(request, context);
  const { timeline, ...edit } = wantedEdit(context.document, request);
  const form = formFor(request.form, timeline);
  const number = (await context.count('render', timeline.id)) + 1;
  const params: RenderParams = {
    ...edit,
    timelineId: timeline.id,
    form,
    anew: request.anew,
    folder: context.renderFolder(request.folder),
    file: typedFileName(request.name) ?? `${fileStem(timeline.name)}-${number}`,
  };
  return [{ kind: 'render', label: `${timeline.name}, render ${number}`, subject: timeline.id, params }];
}

/** The same render once more: its edit as it was then, some of its parts written anew. */
async function again(
  { jobId, anew }: Extract<RequestOf<typeof render>, { kind: 'rerender' }>,
  context: StartContext,
): Promise<readonly NewJob[]> {
  const was = await context.writtenRender<RenderParams>(jobId);
  const number = (await context.count('render', was.subject)) + 1;
  const { timelines } = was.params.project as Project;
  const name = timelines.find((t) => t.id === was.params.timelineId)?.name ?? 'Timeline';
  return [{ kind: 'render', label: `${name}, render ${number}`, subject: was.subject, params: { ...was.params, anew } }];
}

export async function specification(
  { params }: BeginningJob<RenderParams>,
  context: SpecificationContext,
): Promise<RenderRequest> {
  return {
    input: await renderInput(params, context),
    form: params.form,
    path: wantedPath(params, context.firstRenderFolder),
    work: context.workFolder,
    cache: context.cacheFolder,
    ...(params.anew ? { anew: params.anew } : {}),
  };
}
