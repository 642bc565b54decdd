import type { Source } from '../../document/document.js';
import { Refused } from '../../refusals/guards.js';

/** Lists of notes on single pictures, in their order. */

/** Puts an entry into a list by its picture, in the place of the one that was there; null takes that away. */
export function putAtPicture<T extends { readonly picture: number }>(
  list: readonly T[] | undefined,
  picture: number,
  entry: T | null,
): T[] {
  const others = (list ?? []).filter((e) => e.picture !== picture);
  return entry ? [...others, entry].sort((a, b) => a.picture - b.picture) : others;
}

/** Refuses a picture that the source does not have. */
export function checkPicture(source: Source, picture: number): void {
  if (picture >= source.pictures) throw new Refused('past-source', { clip: source.name });
}
