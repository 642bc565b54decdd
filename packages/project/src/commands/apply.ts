import { CLIP_FRAMES } from '@thawline/core/time';
import { applyPatches, enablePatches, type Patch, produceWithPatches, setAutoFreeze } from 'immer';
import type { Clip, Project } from '../document/document.js';
import { Refused } from '../refusals/guards.js';
import type { Refusal } from '../refusals/refusals.js';
import { noTiming, type TimingOf } from '../timing/mapping.js';
import { followMarks } from './followMarks.js';
import { type Command, definitionOf } from './registry.js';

enablePatches();

/**
 * Leaves documents unfrozen from now on. immer freezes what it has not seen before, all of it: for a large document that was just read that
 * takes longer than the change. Documents are never changed, only replaced, and the tests run with them frozen.
 */
export function leaveUnfrozen(): void {
  setAutoFreeze(false);
}

/** The difference a command made, and the one that takes it back. JSON, as immer's patches. */
export interface Difference {
  readonly forward: Patch[];
  readonly backward: Patch[];
}

export type Applied = { readonly ok: true; readonly project: Project; readonly difference: Difference } | Refusal;

/**
 * Applies a command. Pure: the given project is not changed; a refused command changes nothing.
 * @param known timing of variable sources, where the caller has it
 */
export function apply(project: Project, command: Command, known: TimingOf = noTiming): Applied {
  const definition = definitionOf(command);
  try {
    const [next, forward, backward] =
      'produce' in definition
        ? definition.produce(project, command)
        : produceWithPatches(project, (draft) => {
            definition.change(draft, command, known);
            followMarks(project, draft, command.type, known);
          });
    boundLengths(project, next);
    return { ok: true, project: next, difference: { forward, backward } };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, code: error.code, facts: error.facts };
    throw error;
  }
}

/** Slow enough, or of a timeline with a clip far out, a clip would be longer than its step map can be. Those that were so before stay. */
function boundLengths(before: Project, { timelines, sources }: Project): void {
  for (const timeline of timelines) {
    if (before.timelines.includes(timeline)) continue;
    const stood = before.timelines.find((t) => t.id === timeline.id)?.clips ?? [];
    const wasSo = ({ id, length }: Clip): boolean => stood.some((c) => c.id === id && c.length >= length);
    const long = timeline.clips.find((c) => c.length > CLIP_FRAMES && !wasSo(c));
    if (!long) continue;
    const clip = [...sources, ...timelines].find((s) => s.id === long.sourceId)?.name ?? long.id;
    throw new Refused('too-long', { clip, frames: long.length, most: CLIP_FRAMES });
  }
}

/** Applies one side of a stored difference. */
export function applyDifference(project: Project, patches: readonly Patch[]): Project {
  return applyPatches(project, patches as Patch[]);
}
