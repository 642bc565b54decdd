import type { Patch } from 'immer';
import type { z } from 'zod';
import type { Project } from '../document/document.js';
import type { TimingOf } from '../timing/mapping.js';
import type { Names } from './names.js';

type CommandSchema = z.ZodType<{ type: string }>;

/** A change as immer finds it: what follows, and the patches there and back. */
export type Produced = readonly [next: Project, forward: Patch[], backward: Patch[]];

interface Common<S extends CommandSchema> {
  readonly schema: S;
  /** One line for the history, in words of what was there before the command. */
  readonly label: (command: z.output<S>, names: Names) => string;
}

/** A command that changes a draft. Throws Refused where it cannot be done; `known` is the timing of variable sources. */
export interface Changing<S extends CommandSchema> extends Common<S> {
  readonly change: (draft: Project, command: z.output<S>, known: TimingOf) => void;
}

/** A command that brings so much that its patches are written down by itself, faster than a draft finds them. */
export interface Producing<S extends CommandSchema> extends Common<S> {
  readonly produce: (project: Project, command: z.output<S>) => Produced;
}

/** Something that a person can do to a project: its schema (how a request says it), what it does, and what the history calls it. */
export function defineCommand<S extends CommandSchema>(definition: Changing<S>): Changing<S>;
export function defineCommand<S extends CommandSchema>(definition: Producing<S>): Producing<S>;
export function defineCommand<S extends CommandSchema>(definition: Changing<S> | Producing<S>): Changing<S> | Producing<S> {
  return definition;
}
