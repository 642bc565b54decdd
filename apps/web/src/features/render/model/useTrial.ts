import { useQuery } from '@tanstack/react-query';
import type { TrialReply } from '@thawline/contract';
import type { RenderForm, Timeline } from '@thawline/project';
import { useEffect, useMemo, useRef, useState } from 'react';
import { call } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';

/** Changes that follow each other quickly are tried once. */
const SETTLED_MS = 700;

/**
 * What the render would cost, tried on a little of it whenever what is asked has changed. Null while it is not known: what was tried of
 * another range, form or edit says nothing of this one.
 */
export function useTrial(
  timeline: Timeline,
  form: RenderForm,
  part: { readonly range: boolean; readonly clipId: string | null },
  folder: string | null,
  empty: boolean,
): { readonly trial: TrialReply | null; readonly trying: boolean } {
  const { id } = useProject();
  const jobs = useJobs(id);
  const [tried, setTried] = useState<{ readonly of: object; readonly jobId: string } | null>(null);
  const rendered = jobs.filter((j) => j.kind === 'render' && j.state === 'done').length;
  const asked = JSON.stringify([timeline.id, form, part.range, part.clipId, folder]);
  const of = useMemo(() => ({ asked, timeline }), [asked, timeline]);
  const latest = useRef(of);
  latest.current = of;
  // biome-ignore lint/correctness/useExhaustiveDependencies: `of` stands for all that is asked; another finished render leaves more parts to go by
  useEffect(() => {
    if (empty) return;
    const timer = setTimeout(async () => {
      const { range, clipId } = part;
      const body = { kind: 'trial', timelineId: timeline.id, range, clipId, form, folder };
      // A timeline that cannot be rendered says so when it is rendered; its price is merely not known.
      const started = await call('startJobs', { parameters: { project: id }, body }).catch(() => null);
      const jobId = started?.[0]?.id;
      if (latest.current === of) setTried(jobId ? { of, jobId } : null);
    }, SETTLED_MS);
    return () => clearTimeout(timer);
  }, [id, of, rendered, empty]);
  const jobId = tried?.of === of ? tried.jobId : null;
  const job = jobs.find((j) => j.id === jobId);
  const done = job?.state === 'done';
  const trial = useQuery({
    queryKey: ['trial', jobId],
    queryFn: () => call('trial', { parameters: { job: jobId ?? '' } }),
    enabled: jobId !== null && done,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return { trial: (jobId && trial.data) || null, trying: job?.state === 'queued' || job?.state === 'running' };
}
