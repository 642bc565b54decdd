import { useQuery } from '@tanstack/react-query';
import type { ComparisonSummary } from '@thawline/contract';
import { isMoving, type Source } from '@thawline/project';
import { call } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';

/** Sources that pictures in time can be looked for in: a still has no rate to check. */
export function useMoving(): readonly Source[] {
  const { project } = useProject();
  return project.sources.filter(isMoving);
}

export function useComparisons(id: string): readonly ComparisonSummary[] {
  const found = useQuery({
    queryKey: ['comparisons', id],
    queryFn: () => call('comparisons', { parameters: { project: id } }),
  });
  return found.data ?? [];
}
