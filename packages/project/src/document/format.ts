import type { Patch } from 'immer';
import { documentToUnions, patchesToUnions } from './toUnions.js';

/**
 * The format of the documents that this program writes. Whoever changes what a document holds raises it by one and adds a step below:
 * stored projects, their history and project files come from any earlier format.
 */
export const DOCUMENT_FORMAT = 7;

/** One named step from a format to the next. Both functions get plain JSON and return it changed; neither may throw. */
export interface FormatStep {
  /** What changed, for the log. */
  readonly name: string;
  /** The format that it leads to, one above the one before. */
  readonly to: number;
  readonly document: (document: unknown) => unknown;
  /** The same change on one side of a stored difference. */
  readonly patches: (patches: readonly Patch[]) => readonly Patch[];
}

/** Format 1 is what documents were when formats began; everything before was brought there by the database's own migrations. */
export const FORMAT_STEPS: readonly FormatStep[] = [
  // Both are left out of what came before, and mean then what it was.
  {
    name: 'lanes and clips switched off, stand-ins that count labels',
    to: 2,
    document: (document) => document,
    patches: (patches) => patches,
  },
  { name: 'keys of each kind alone, no null for those of others', to: 3, document: documentToUnions, patches: patchesToUnions },
  // Left out of what came before: its fields were read as they are stored.
  { name: 'fields of sources, read', to: 4, document: (document) => document, patches: (patches) => patches },
  // Left out of what came before: its frames were whole pictures.
  { name: 'timelines of two fields a frame', to: 5, document: (document) => document, patches: (patches) => patches },
  // Left out of what came before: nobody asked the files.
  {
    name: 'looks of sources, colours of timelines, opacity of clips',
    to: 6,
    document: (document) => document,
    patches: (patches) => patches,
  },
  // Left out of what came before: it lay as its framing says, and was what its file says.
  { name: 'pictures laid by hand, projections said', to: 7, document: (document) => document, patches: (patches) => patches },
];

/** A document of an earlier format as this program has it. */
export function migrateDocument(document: unknown, from: number, steps = FORMAT_STEPS): unknown {
  return stepsAfter(from, steps).reduce((now, step) => step.document(now), document);
}

/** A stored difference of an earlier format as this program has it. */
export function migratePatches(patches: readonly Patch[], from: number, steps = FORMAT_STEPS): readonly Patch[] {
  return stepsAfter(from, steps).reduce((now, step) => step.patches(now), patches);
}

function stepsAfter(from: number, steps: readonly FormatStep[]): readonly FormatStep[] {
  return steps.filter((step) => step.to > from);
}
