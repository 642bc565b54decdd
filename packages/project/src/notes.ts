import type { Verdict } from '@thawline/core/truth';
import { Refused } from './checks.js';
import type { Source, Timeline } from './document.js';

/** What people say of single pictures: notes, and their word against what a check found. Both stay on the pictures, however they are read. */

export type Mark = NonNullable<Source['marks']>[number];

/** Puts an entry into a list by its picture, in the place of the one that was there; null takes that away. */
function put<T extends { readonly picture: number }>(list: readonly T[] | undefined, picture: number, entry: T | null): T[] {
  const others = (list ?? []).filter((e) => e.picture !== picture);
  return entry ? [...others, entry].sort((a, b) => a.picture - b.picture) : others;
}

export function markPicture(source: Source, picture: number, note: string | null): void {
  inside(source, picture);
  source.marks = put(source.marks, picture, note === null ? null : { picture, note });
}

/** A mark's name is its frame's: two people who mark one frame mean one mark. */
export function markFrames(
  timeline: Timeline,
  { frame, length, name }: { readonly frame: number; readonly length: number; readonly name: string | null },
): void {
  const others = timeline.marks.filter((m) => m.frame !== frame);
  const id = `mark-${frame}`;
  timeline.marks =
    name === null ? others : [...others, { id, frame, length, name, kept: null }].sort((a, b) => a.frame - b.frame);
}

export function judgePicture(source: Source, picture: number, as: 'held' | 'new' | null): void {
  inside(source, picture);
  source.judged = put(source.judged, picture, as === null ? null : { picture, as });
}

function inside(source: Source, picture: number): void {
  if (picture >= source.pictures) throw new Refused('past-source', { clip: source.name });
}

/**
 * A verdict with a person's word on single pictures: what was computed stays as it is in the check itself. The rate of
 * the whole is the computed one; a picture more or less does not change a rhythm.
 */
export function corrected<V extends Pick<Verdict, 'held' | 'jumps'>>(verdict: V, judged: Source['judged']): V {
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
  return {
    ...verdict,
    held: [...held].sort((a, b) => a - b),
    jumps: verdict.jumps.filter((k) => !fresh.has(k) && !held.has(k)),
  };
}
