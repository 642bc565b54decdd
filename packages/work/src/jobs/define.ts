import type { z } from 'zod';

/**
 * Queries of the browser that a job's result changes: each is kept under its name and the project's id, or under its name and what the job
 * worked on (its subject).
 */
export interface StaleQuery {
  readonly query: 'check' | 'checks' | 'comparisons' | 'aligned' | 'heldout' | 'pan' | 'wave' | 'loudness' | 'receipts' | 'files';
  readonly of: 'project' | 'subject';
}

/** What all sides know of a kind of job: browser, server and shell. Nothing here runs anything. */
export interface JobDefinition {
  readonly kind: string;
  /** Stands before the label where jobs are listed: "Check of". */
  readonly title: string;
  /** Bodies of a request that starts it, each with a `kind` of its own. */
  readonly requests: readonly z.ZodObject[];
  /** What its row keeps, so that it can begin again after a restart. Reads rows of earlier versions, too. */
  readonly params: z.ZodType;
  /** What its row keeps once it is done. Reads rows of earlier versions, too. */
  readonly result: z.ZodType;
  /**
   * What its subject is. media: the file's media id (of part of a file with "-part" behind it). pair: two of them. timeline: a timeline's
   * id. render: the id of the render that it works on.
   */
  readonly subject: 'media' | 'pair' | 'timeline' | 'render';
  /** What the browser reads anew once it is done. */
  readonly stale: readonly StaleQuery[];
  /** Started by the server itself: jobs that a person started go first. */
  readonly background?: boolean;
}

/** Keeps each definition's own types. */
export function defineJob<const Definition extends JobDefinition>(definition: Definition): Definition {
  return definition;
}

type Loose<T> = T extends readonly (infer Item)[]
  ? readonly Loose<Item>[]
  : T extends object
    ? { readonly [Key in keyof T]: Loose<T[Key]> }
    : T;

/** A definition's parts as plain types; what is computed need not be open to change. */
export type RequestOf<Definition extends JobDefinition> = z.output<Definition['requests'][number]>;
export type ParamsOf<Definition extends JobDefinition> = Loose<z.output<Definition['params']>>;
export type ResultOf<Definition extends JobDefinition> = Loose<z.output<Definition['result']>>;
