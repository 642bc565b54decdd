import type { Verdict } from '@thawline/core/truth';
import type { Source } from '../document/document.js';

/**
 * A verdict with a person's word on single pictures: what was computed stays as it is in the check itself. The rate of
 * the whole is the computed one; a picture more or less does not change a rhythm.
 */
export function corrected<V extends Pick<Verdict, 'held' | 'jumps'> & Partial<Pick<Verdict, 'missing' | 'unchanged'>>>(
  verdict: V,
  judged: Source['judged'],
): V {
  if (!judged || judged.length === 0) return verdict;
  const held = new Set(verdict.held);
  const fresh = new Set<number>();
  for (const { picture, as } of judged) {
    if (as === 'held') held.add(picture);
    else {
      held.delete(picture);
      fresh.add(picture);
    }
  }
  const withHeld = (all: readonly number[]): number[] =>
    [...new Set([...all.filter((k) => !fresh.has(k)), ...held])].sort((a, b) => a - b);
  const stands = (k: number | undefined): boolean => k !== undefined && !fresh.has(k) && !held.has(k);
  return {
    ...verdict,
    held: withHeld([]),
    jumps: verdict.jumps.filter(stands),
    ...(verdict.unchanged ? { unchanged: withHeld(verdict.unchanged) } : {}),
    ...(verdict.missing ? { missing: verdict.missing.filter((_, i) => stands(verdict.jumps[i])) } : {}),
  };
}
