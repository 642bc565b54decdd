import type { Project, Source } from '@thawline/project';
import type { FilePair } from '../../analyse/align.js';
import type { ParamsOf, RequestOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import { type BeginningJob, type NewJob, type SpecificationContext, type StartContext, sourceHere } from '../starting.js';
import { type align, alignSubject } from './definition.js';

export async function start({ a, b }: RequestOf<typeof align>, { document }: StartContext): Promise<readonly NewJob[]> {
  const [first, second] = [heardSource(document, a), heardSource(document, b)];
  if (first.mediaId === second.mediaId) throw new JobRefused('same-source', {}, 'Choose two different sources to align.');
  const params: ParamsOf<typeof align> = {
    mediaA: first.mediaId,
    mediaB: second.mediaId,
    names: { a: first.name, b: second.name },
  };
  const label = `${first.name} and ${second.name}`;
  return [{ kind: 'align', label, subject: alignSubject(first.mediaId, second.mediaId), params }];
}

function heardSource(document: Project, id: string): Source {
  const source = sourceHere(document, id);
  if (!source.sound)
    throw new JobRefused('no-sound', {}, `${source.name} has no sound. Tie moments of it by hand, by its pictures.`);
  return source;
}

export async function specification(
  { params }: BeginningJob<ParamsOf<typeof align>>,
  context: SpecificationContext,
): Promise<FilePair> {
  return { a: await context.open(params.mediaA), b: await context.open(params.mediaB) };
}
