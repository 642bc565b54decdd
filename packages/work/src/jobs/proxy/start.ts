import type { Source } from '@thawline/project';
import type { SourceFile } from '../../compose/input.js';
import type { RequestOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import { type BeginningJob, fileSpecification, type NewJob, type SpecificationContext, type StartContext } from '../starting.js';
import type { proxy } from './definition.js';

/** A file, and the folder that what is made of it goes to. */
export interface FolderSpecification extends SourceFile {
  readonly folder: string;
}

/** What is made of every source without being asked for: small pictures, and of its sound waveform and loudness. Lost ones are left out. */
export async function start({ sourceIds }: RequestOf<typeof proxy>, { document }: StartContext): Promise<readonly NewJob[]> {
  const sources = sourceIds.map((id) => {
    const source = document.sources.find((s) => s.id === id);
    if (!source) throw new JobRefused('unknown-source', { id });
    return source;
  });
  return sources.filter((s) => !s.lost).flatMap(background);
}

function background({ kind, name, mediaId, sound }: Source): NewJob[] {
  const job = { label: name, subject: mediaId, params: {} };
  return [
    ...(kind === 'sound' ? [] : [{ kind: 'proxy' as const, ...job }]),
    ...(sound ? [{ kind: 'sound' as const, ...job }] : []),
  ];
}

export async function specification(job: BeginningJob<unknown>, context: SpecificationContext): Promise<FolderSpecification> {
  return { ...(await fileSpecification(job, context)), folder: context.mediaFolder(job.subject) };
}
