import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { AlignedReply, JobReply } from '@thawline/contract';
import type { Source } from '@thawline/project';
import { useEffect } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';

export interface Hearing {
  /** What the sounds said; null where they were not compared. */
  readonly found: AlignedReply | null;
  /** The job that compares them now. */
  readonly job: JobReply | undefined;
  readonly failed: JobReply['error'];
  readonly find: () => void;
}

/**
 * Two sources compared by their sounds. A pair that is opened for the first time is compared without being asked; one that was stopped
 * stays so.
 * @param tied whether a person tied them already
 */
export function useHearing(a: Source, b: Source, tied: boolean): Hearing {
  const { id } = useProject();
  const reply = useQuery({
    queryKey: ['aligned', id, a.id, b.id],
    queryFn: () => call('aligned', { parameters: { project: id, a: a.id, b: b.id } }),
  });
  const found = reply.data ?? null;
  const jobs = useJobs(id).filter((j) => j.kind === 'align' && j.subject === `${a.mediaId}+${b.mediaId}`);
  const find = (): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'align', a: a.id, b: b.id } }).catch(tellError);
  };
  const client = useQueryClient();
  const known = reply.isSuccess && client.getQueryData(['jobs', id]) !== undefined;
  const unheard = known && !found && !tied && jobs.length === 0 && a.sound !== null && b.sound !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once, when it turns out that the pair is unheard
  useEffect(() => {
    if (unheard) find();
  }, [unheard]);
  return {
    found,
    job: jobs.find((j) => j.state === 'running' || j.state === 'queued'),
    failed: jobs[0]?.state === 'failed' ? jobs[0].error : null,
    find,
  };
}
