import { isSphere } from '@thawline/project';
import type { PanRequest } from '../../analyse/pan.js';
import type { ParamsOf, RequestOf } from '../define.js';
import {
  type BeginningJob,
  fileSpecification,
  movingSourceHere,
  type NewJob,
  type SpecificationContext,
  type StartContext,
} from '../starting.js';
import type { pan } from './definition.js';

export async function start({ sourceId }: RequestOf<typeof pan>, { document }: StartContext): Promise<readonly NewJob[]> {
  const source = movingSourceHere(document, sourceId);
  return [{ kind: 'pan', label: source.name, subject: source.mediaId, params: { sphere: isSphere(source) } }];
}

export async function specification(job: BeginningJob<ParamsOf<typeof pan>>, context: SpecificationContext): Promise<PanRequest> {
  return { ...(await fileSpecification(job, context)), sphere: job.params.sphere };
}
