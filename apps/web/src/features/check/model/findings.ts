import type { Verdict } from '@thawline/core/truth';

/** A picture that was found, and what it is. */
export interface Finding {
  readonly at: number;
  readonly what: 'held' | 'jump';
}

/** Held pictures and jumps in one line, ascending: padded hours have hundreds of thousands, so they are merged, once a verdict. */
export function findingsOf({ held, jumps }: Pick<Verdict, 'held' | 'jumps'>): Finding[] {
  const found: Finding[] = [];
  let next = 0;
  for (const at of held) {
    for (let jump = jumps[next]; jump !== undefined && jump < at; jump = jumps[++next]) found.push({ at: jump, what: 'jump' });
    found.push({ at, what: 'held' });
  }
  for (const at of jumps.slice(next)) found.push({ at, what: 'jump' });
  return found;
}

/** One for each picture, 1 where it is among those. */
export function flagsOf(pictures: readonly number[], count: number): Uint8Array {
  const flags = new Uint8Array(count);
  for (const k of pictures) flags[k] = 1;
  return flags;
}
