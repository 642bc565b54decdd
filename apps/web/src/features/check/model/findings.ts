import type { FaultKind, Verdict } from '@thawline/core/truth';

/** A picture that was found, and what it is. */
export interface Finding {
  readonly at: number;
  readonly what: 'held' | 'jump' | 'cut' | FaultKind;
}

/**
 * Held pictures, jumps, cuts and faults in one line, ascending: padded hours have hundreds of thousands of the first, so they are merged,
 * once a verdict.
 */
export function findingsOf({ held, jumps, cuts, faults }: Pick<Verdict, 'held' | 'jumps' | 'cuts' | 'faults'>): Finding[] {
  const others: Finding[] = [
    ...jumps.map((at) => ({ at, what: 'jump' as const })),
    ...cuts.map((at) => ({ at, what: 'cut' as const })),
    ...faults.map(({ picture, kind }) => ({ at: picture, what: kind })),
  ].sort((a, b) => a.at - b.at);
  const found: Finding[] = [];
  let next = 0;
  for (const at of held) {
    for (let one = others[next]; one !== undefined && one.at < at; one = others[++next]) found.push(one);
    found.push({ at, what: 'held' });
  }
  found.push(...others.slice(next));
  return found;
}

/** What findings are walked and listed by. */
export const GROUPS = ['held', 'jump', 'cut', 'fault'] as const;
export type Group = (typeof GROUPS)[number];

export function groupOf({ what }: Finding): Group {
  return what === 'held' || what === 'jump' || what === 'cut' ? what : 'fault';
}

/** Below these a person had better look. */
const LOOK = { stretch: 0.9, fault: 0.9 } as const;

/** Places that a check is not sure about: stretches by their first picture, and faults. */
export function unsureOf({ stretches, faults }: Pick<Verdict, 'stretches' | 'faults'>): number[] {
  return [
    ...stretches.filter((s) => s.trueRate !== null && s.certainty < LOOK.stretch).map((s) => s.from),
    ...faults.filter((f) => f.certainty < LOOK.fault).map((f) => f.picture),
  ].sort((a, b) => a - b);
}

/** One for each picture, 1 where it is among those. */
export function flagsOf(pictures: readonly number[], count: number): Uint8Array {
  const flags = new Uint8Array(count);
  for (const k of pictures) flags[k] = 1;
  return flags;
}
