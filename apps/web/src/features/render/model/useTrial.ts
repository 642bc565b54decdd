import { useQuery } from '@tanstack/react-query';
import type { TrialReply } from '@thawline/contract';
import type { RenderForm, Timeline } from '@thawline/project';
import { useEffect, useMemo, useRef, useState } from 'react';
import { call } from '../../../api/client.js';
import { sentenceOf } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';

/** An estimate of a render: what was found, whether it is still being tried, or why there is none. */
export interface Trial {
  readonly found: TrialReply | null;
  readonly trying: boolean;
  /** Why it could not be tried, as a sentence; null where nothing went wrong. */
  readonly trouble: string | null;
}

/** Changes that follow each other quickly are tried once. */
const SETTLED_MS = 700;

/**
 * Estimates the render by trying a little of it, again whenever timeline, form, range or folder change. An estimate of anything else is
 * never shown.
 */
export function useTrial(
  timeline: Timeline,
  {
    form,
    part,
    folder,
    empty,
  }: {
    readonly form: RenderForm;
    readonly part: { readonly range: boolean; readonly clipId: string | null };
    readonly folder: string | null;
    readonly empty: boolean;
  },
): Trial {
  const { id } = useProject();
  const jobs = useJobs(id);
  const [tried, setTried] = useState<{
    readonly of: object;
    readonly jobId: string | null;
    readonly trouble: string | null;
  } | null>(null);
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
      const started = await call('startJobs', { parameters: { project: id }, body }).then(
        (replies) => ({ of, jobId: replies[0]?.id ?? null, trouble: null }),
        (error: unknown) => ({ of, jobId: null, trouble: sentenceOf(error) }),
      );
      if (latest.current === of) setTried(started);
    }, SETTLED_MS);
    return () => clearTimeout(timer);
  }, [id, of, rendered, empty]);
  const mine = tried?.of === of ? tried : null;
  const jobId = mine?.jobId ?? null;
  const job = jobs.find((j) => j.id === jobId);
  const done = job?.state === 'done';
  const trial = useQuery({
    queryKey: ['trial', jobId],
    queryFn: () => call('trial', { parameters: { job: jobId ?? '' } }),
    enabled: jobId !== null && done,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return {
    found: (jobId && trial.data) || null,
    trying: job?.state === 'queued' || job?.state === 'running',
    trouble: mine?.trouble ?? job?.error?.message ?? (trial.error && sentenceOf(trial.error)),
  };
}
