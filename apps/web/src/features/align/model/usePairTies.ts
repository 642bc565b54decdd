import type { AlignedReply } from '@thawline/contract';
import type { Tie } from '@thawline/core/align';
import { alignmentOf, recordedSeconds, type Source } from '@thawline/project';
import { useMemo } from 'react';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { useGo } from '../../../shared/state/places.js';
import { moved, SURE, solved, stepTie, withTie } from './pairPlaces.js';

/** A moment of a recording as a tie holds it: microseconds, within the recording. */
function microsWithin(source: Source, seconds: number): number {
  return Math.round(Math.max(0, Math.min(recordedSeconds(source), seconds)) * 1e6);
}

/** The ties of two sources: those that a person set, else those that their sounds propose; the chosen one is in the address. */
export function usePairTies(a: Source, b: Source, found: AlignedReply | null) {
  const { project, run } = useProject();
  const { tie: asked } = useParams();
  const go = useGo();
  const kept = alignmentOf(project, a.id, b.id)?.ties;
  const proposed = useMemo(() => (found && found.certainty >= SURE ? found.ties : []), [found]);
  const ties: readonly Tie[] = kept ?? proposed;
  const { solution, leftMs } = useMemo(() => solved(ties), [ties]);
  const chosen = asked === undefined || !ties[Number(asked)] ? null : Number(asked);
  const choose = (index: number | null): void => go('align', a.id, b.id, index ?? undefined);
  /** Changes the ties as they are when the command is sent: quick keys may come before the last reply. */
  const edit = (change: (ties: readonly Tie[]) => Tie[]): void =>
    void run((now) => {
      const current = alignmentOf(now, a.id, b.id)?.ties ?? ties;
      return { type: 'setTies', aId: a.id, bId: b.id, ties: change(current) };
    });
  const nudge = (index: number, side: 'a' | 'b', seconds: number): void =>
    edit((current) => {
      const tie = current[index];
      return tie ? withTie(current, index, moved(tie, side, seconds, side === 'a' ? a : b)) : [...current];
    });
  return {
    ties,
    solution,
    leftMs,
    /** Whether a person set them. */
    byHand: kept !== undefined,
    proposes: proposed.length > 0,
    chosen,
    choose,
    nudge,
    /** Drags one end of a tie to a moment of its recording, in seconds. */
    moveTo: (index: number, side: 'a' | 'b', seconds: number): void =>
      nudge(index, side, seconds - (ties[index]?.[side] ?? 0) / 1e6),
    tie: (seconds: { readonly a: number; readonly b: number }): void => {
      const tie = { a: microsWithin(a, seconds.a), b: microsWithin(b, seconds.b) };
      edit((current) => withTie(current, -1, tie));
    },
    untie: (): void => {
      if (chosen === null) return;
      // By its moments, not its place: pressed twice, it takes one away.
      const gone = ties[chosen];
      const index = (current: readonly Tie[]): number => current.findIndex((t) => t.a === gone?.a && t.b === gone.b);
      edit((current) => withTie(current, index(current), null));
      choose(null);
    },
    /** Back to what the sounds propose. */
    clear: (): void => edit(() => []),
    step: (by: 1 | -1): void => {
      const next = stepTie(ties.length, chosen, by);
      if (next !== null) choose(next);
    },
  };
}

export type PairTies = ReturnType<typeof usePairTies>;
