import type { DeskSpec, Reason } from './spec.js';

/** What a desk says of something handed over. */
export type Verdict = { readonly state: 'accepted' } | { readonly state: 'refused'; readonly reasons: readonly Reason[] };

/** desk-gone: nobody answers. desk-silent: it began and said no more. desk-wrong: what it says makes no sense. */
export const DESK_CODES = ['desk-gone', 'desk-silent', 'desk-wrong', 'aborted'] as const;
export type DeskCode = (typeof DESK_CODES)[number];

export class DeskError extends Error {
  override readonly name = 'DeskError';
  constructor(
    readonly code: DeskCode,
    readonly detail = '',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

const SENTENCES: Record<DeskCode, (what: string) => string> = {
  'desk-gone': () => 'The intake desk does not answer. Start it, or try again later: what was handed over already is kept.',
  'desk-silent': () => 'The intake desk stopped answering. Try again: it goes on where it stopped.',
  'desk-wrong': () => 'The intake desk answered with something that makes no sense here.',
  aborted: (what) => `Handing over ${what} was stopped.`,
};

export function deskSentence(code: DeskCode, what: string, detail = ''): string {
  const text = SENTENCES[code](what);
  return detail && code === 'desk-wrong' ? `${text} (${detail})` : text;
}

/** The state of a hand-over, with which it can be resumed. Plain data, stored by the caller. */
export interface Started {
  /** The desk's own address of what is being sent. */
  readonly upload: string | null;
  /** Set once all of it is there. */
  readonly delivery: string | null;
}
export const NOTHING_SENT: Started = { upload: null, delivery: null };

export interface Sending {
  /** Absolute. */
  readonly path: string;
  readonly name: string;
  readonly bytes: number;
  readonly started: Started;
  /** Told whenever it changes, before anything that depends on it. */
  readonly remember: (started: Started) => Promise<void>;
  /** Bytes that are there. */
  readonly progress: (sent: number) => void;
  readonly signal?: AbortSignal;
}

/** A receiver outside of this house. Everything rejects with DeskError, and nothing waits for ever. */
export interface Desk {
  specification(signal?: AbortSignal): Promise<DeskSpec>;
  /** Sends what is not there yet; resolves with the desk's number for the whole. What it had begun goes on where it stopped. */
  send(sending: Sending): Promise<string>;
  /** What it says of a delivery; null while it is still looking. Rejects with desk-gone where it knows of none. */
  verdict(delivery: string, signal?: AbortSignal): Promise<Verdict | null>;
}
