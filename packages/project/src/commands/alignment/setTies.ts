import { type Tie, tieFault } from '@thawline/core/align';
import { z } from 'zod';
import { type Alignment, idSchema, type Project, type Source, tieSchema } from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { recordedSeconds } from '../../timing/alignments.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';

/** The ties of two recordings of one event; none takes the alignment away. */
export const setTies = defineCommand({
  schema: z.object({ type: z.literal('setTies'), aId: idSchema, bId: idSchema, ties: z.array(tieSchema).max(1000) }),
  change(draft, command) {
    keepTies(draft, command);
  },
  label(command, names) {
    const what = `${names.source(command.aId)} and ${names.source(command.bId)}`;
    return command.ties.length === 0
      ? `Took the ties of ${what} away`
      : `Tied ${what} at ${counted(command.ties.length, 'moment')}`;
  },
});

/** Keeps the ties of two recordings in place of those before. */
export function keepTies(draft: Project, { aId, bId, ties }: Pick<Alignment, 'aId' | 'bId' | 'ties'>): void {
  const [a, b] = [findFileSource(draft, aId), findFileSource(draft, bId)];
  if (aId === bId) throw new Refused('id-taken', { id: aId });
  checkTies(a, b, ties);
  draft.alignments = draft.alignments.filter((x) => x.aId !== aId || x.bId !== bId);
  if (ties.length > 0) draft.alignments.push({ aId, bId, ties: [...ties].sort((p, q) => p.a - q.a) });
}

function checkTies(a: Source, b: Source, ties: readonly Tie[]): void {
  for (const [source, side] of [
    [a, 'a'],
    [b, 'b'],
  ] as const) {
    const end = recordedSeconds(source) * 1e6;
    if (ties.some((t) => t[side] > end)) throw new Refused('tie-outside', { source: source.name, seconds: end / 1e6 });
  }
  const fault = tieFault(ties);
  if (fault) throw new Refused(fault, { a: a.name, b: b.name });
}
