import { useQuery } from '@tanstack/react-query';
import type { TrialReply } from '@thawline/contract';
import type { RenderForm, Timeline } from '@thawline/project';
import { useEffect, useRef, useState } from 'react';
import { call } from '../api/client.js';
import { useJobs, useProject } from '../api/project.js';

/** Changes that follow each other quickly are tried once. */
const SETTLED_MS = 700;

/** What the render would cost, tried on a little of it whenever what is asked has changed. Null while it is not known. */
export function useTrial(
  timeline: Timeline,
  form: RenderForm,
  part: { readonly range: boolean; readonly clipId: string | null },
  folder: string | null,
  empty: boolean,
): { readonly trial: TrialReply | null; readonly trying: boolean } {
  const { id } = useProject();
  const jobs = useJobs(id);
  const [jobId, setJobId] = useState<string | null>(null);
  const rendered = jobs.filter((j) => j.kind === 'render' && j.state === 'done').length;
  const asked = JSON.stringify([timeline.id, form, part.range, part.clipId, folder]);
  const latest = useRef(asked);
  latest.current = asked;
  useEffect(() => {
    if (empty) return;
    const timer = setTimeout(async () => {
      const { range, clipId } = part;
      const body = { kind: 'trial', timelineId: timeline.id, range, clipId, form, folder };
      // A timeline that cannot be rendered says so when it is rendered; its price is merely not known.
      const started = await call('startJobs', { parameters: { project: id }, body }).catch(() => null);
      if (latest.current === asked) setJobId(started?.[0]?.id ?? null);
    }, SETTLED_MS);
    return () => clearTimeout(timer);
  }, [id, asked, timeline, rendered, empty]);
  const job = jobs.find((j) => j.id === jobId);
  const done = job?.state === 'done';
  const trial = useQuery({
    queryKey: ['trial', jobId],
    queryFn: () => call('trial', { parameters: { job: jobId ?? '' } }),
    enabled: done,
    staleTime: Number.POSITIVE_INFINITY,
    // The last one stands until the next is known.
    placeholderData: (before) => before,
  });
  return { trial: trial.data ?? null, trying: job?.state === 'queued' || job?.state === 'running' };
}
