import type { RequestOf } from '../define.js';
import { fileSpecification, movingSourceHere, type NewJob, type StartContext } from '../starting.js';
import type { heldOut } from './definition.js';

export async function start({ sourceId }: RequestOf<typeof heldOut>, { document }: StartContext): Promise<readonly NewJob[]> {
  const { name, mediaId } = movingSourceHere(document, sourceId);
  return [{ kind: 'heldout', label: name, subject: mediaId, params: {} }];
}

export const specification = fileSpecification;
