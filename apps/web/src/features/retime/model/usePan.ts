import { useQuery } from '@tanstack/react-query';
import type { PanReply } from '@thawline/contract';
import type { Source } from '@thawline/project';
import { call } from '../../../api/client.js';

/** How a source pans, where that was measured; else null. */
export function usePan(source: Source): PanReply | null {
  const found = useQuery({
    queryKey: ['pan', source.mediaId],
    queryFn: () => call('pan', { parameters: { media: source.mediaId } }),
    enabled: source.kind !== 'timeline',
    staleTime: Number.POSITIVE_INFINITY,
  });
  return found.data ?? null;
}
