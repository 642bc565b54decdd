import type { JobReply } from '@thawline/contract';
import { type FileSource, isMoving, type Project } from '@thawline/project';

/** Those that are chosen; with none, the one that is open. What a button of the list is about. */
export function chosenSources(
  { sources }: Project,
  chosen: readonly string[],
  open: FileSource | undefined,
): { readonly chosen: readonly FileSource[]; readonly meant: readonly FileSource[] } {
  const picked = new Set(chosen);
  const found = sources.filter((s) => picked.has(s.id));
  return { chosen: found, meant: found.length > 0 ? found : open ? [open] : [] };
}

/** Checks that run or wait, by media id. */
export function checksUnderWay(jobs: readonly JobReply[]): ReadonlyMap<string, JobReply> {
  const open = jobs.filter((j) => j.kind === 'check' && (j.state === 'running' || j.state === 'queued'));
  return new Map(open.map((j) => [j.subject, j]));
}

/** What the button checks: the chosen ones that move; with none chosen, all that are neither checked nor being checked. */
export function sourcesToCheck(
  { sources }: Project,
  chosen: readonly FileSource[],
  checked: { readonly has: (mediaId: string) => boolean },
  checking: { readonly has: (mediaId: string) => boolean },
): readonly FileSource[] {
  if (chosen.length > 0) return chosen.filter(isMoving);
  return sources.filter((s) => isMoving(s) && !checked.has(s.mediaId) && !checking.has(s.mediaId));
}
