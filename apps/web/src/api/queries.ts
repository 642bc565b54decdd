import { useQueries, useQuery } from '@tanstack/react-query';
import type { FileState, JobReply } from '@thawline/contract';
import type { Timing } from '@thawline/core/time';
import type { Project, Source, TimingOf } from '@thawline/project';
import { useMemo } from 'react';
import { windowId } from '../shared/state/window.js';
import { call } from './client.js';

/** What views read of a project beside its document. */

export function useProjectState(id: string) {
  return useQuery({
    queryKey: ['project', id],
    queryFn: () => call('readProject', { parameters: { project: id }, query: { client: windowId() } }),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useJobs(id: string): readonly JobReply[] {
  const jobs = useQuery({
    queryKey: ['jobs', id],
    queryFn: () => call('jobs', { parameters: { project: id } }),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return jobs.data ?? [];
}

/** How the files behind the sources stand, by media id. */
export function useFiles(id: string): ReadonlyMap<string, FileState> {
  const files = useQuery({
    queryKey: ['files', id],
    queryFn: () => call('files', { parameters: { project: id } }),
    refetchOnWindowFocus: true,
  });
  return useMemo(() => new Map((files.data ?? []).map((f) => [f.mediaId, f])), [files.data]);
}

export function useChecks(id: string) {
  const checks = useQuery({ queryKey: ['checks', id], queryFn: () => call('checks', { parameters: { project: id } }) });
  return useMemo(() => new Map((checks.data ?? []).map((c) => [c.mediaId, c])), [checks.data]);
}

/** Timing of the variable sources that stand on timelines: of hundreds of others it is not needed. */
export function useTimings(project: Project): TimingOf {
  const used = new Set(project.timelines.flatMap((t) => t.clips.map((c) => c.sourceId)));
  const variable = [...new Set(project.sources.filter((s) => s.variable && used.has(s.id)).map((s) => s.mediaId))];
  const results = useQueries({
    queries: variable.map((mediaId) => ({
      queryKey: ['timing', mediaId],
      queryFn: () => call('timing', { parameters: { media: mediaId } }),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  });
  const loaded = results.map((r) => r.dataUpdatedAt).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the replies are new objects at each draw; when they came says whether they changed
  return useMemo(() => {
    const table = new Map<string, Timing>();
    variable.forEach((mediaId, i) => {
      const timing = results[i]?.data;
      if (timing) table.set(mediaId, timing);
    });
    return (mediaId) => table.get(mediaId);
  }, [loaded, variable.join()]);
}

/** Every picture's own time of one variable source; undefined while it is on its way. */
export function useTiming(source: Source | undefined): Timing | undefined {
  const timing = useQuery({
    queryKey: ['timing', source?.mediaId],
    queryFn: () => call('timing', { parameters: { media: source?.mediaId ?? '' } }),
    enabled: source?.variable ?? false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return timing.data;
}
