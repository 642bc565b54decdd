import type { ChangeReply } from '@thawline/contract';
import { apply, type Command, type Project, type TimingOf } from '@thawline/project';

/** A change on its way to the server, under an id of its own: sent again, it is done once. */
export type Waiting = { readonly requestId: string } & (
  | { readonly kind: 'command'; readonly command: Command }
  | { readonly kind: 'undo' | 'redo' }
  | { readonly kind: 'jump'; readonly number: number }
);

/** A requested change; its command may be a function of the project's state at the time of sending. */
export type Asked =
  | { readonly kind: 'command'; readonly command: Command | ((now: Project) => Command) }
  | { readonly kind: 'undo' | 'redo' }
  | { readonly kind: 'jump'; readonly number: number };

export interface OutboxState {
  /** Changes that the server has not stored yet, oldest first; reported only while sending is blocked. */
  readonly held: readonly Waiting[];
  /** Why they are not saved yet, a sentence; null while nothing is in the way. */
  readonly trouble: string | null;
}

export interface OutboxOptions {
  readonly send: (change: Waiting) => Promise<ChangeReply>;
  /** The server stored it. */
  readonly onStored: (change: ChangeReply) => void;
  /** The server turned it down for what it is; it is dropped. */
  readonly onRefused: (error: unknown) => void;
  readonly onState: (state: OutboxState) => void;
  /** What is in the way, a sentence, where an error says "not now" (no answer, no room); null where it says "never". */
  readonly passing: (error: unknown) => string | null;
  /** The document as the server has it. */
  readonly document: () => Project;
  readonly timings: () => TimingOf;
  /** Where held changes outlive a reload. */
  readonly keep: { readonly load: () => readonly Waiting[]; readonly save: (held: readonly Waiting[]) => void };
  readonly newId: () => string;
  /** Milliseconds; resolves earlier when `retryNow` is called. */
  readonly pause?: (ms: number) => Promise<void>;
}

const RETRY_MS = { first: 1000, most: 15_000 } as const;

interface Line {
  readonly asked: Asked;
  /** Fixed once it was sent for the first time, or once it has to wait. */
  waiting: Waiting | null;
  readonly settle: (stored: boolean) => void;
}

/**
 * Sends a person's changes one after the other, as they were made. What the server cannot store now is held, sent again until it is, and
 * shown as done meanwhile; it outlives a reload of the page. What the server turns down is dropped and told.
 */
export class Outbox {
  private readonly line: Line[] = [];
  private trouble: string | null = null;
  private running = false;
  private wake: () => void = () => undefined;

  constructor(private readonly options: OutboxOptions) {
    for (const waiting of options.keep.load()) this.line.push({ asked: waiting, waiting, settle: () => undefined });
    if (this.line.length > 0) void this.run();
  }

  /** Resolves to whether it was done; while something is in the way, to true as soon as it is held. */
  add(asked: Asked): Promise<boolean> {
    if (this.trouble !== null && asked.kind === 'undo' && this.dropLast()) return Promise.resolve(true);
    return new Promise((resolve) => {
      this.line.push({ asked, waiting: null, settle: resolve });
      if (this.trouble !== null) this.hold(this.trouble);
      void this.run();
    });
  }

  /** Tries again at once. */
  retryNow(): void {
    this.wake();
  }

  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    let wait: number = RETRY_MS.first;
    for (let first = this.line[0]; first; first = this.line[0]) {
      first.waiting ??= this.fixed(first.asked, this.options.document());
      try {
        const change = await this.options.send(first.waiting);
        this.line.shift();
        wait = RETRY_MS.first;
        this.clear();
        this.options.onStored(change);
        first.settle(true);
      } catch (error) {
        const trouble = this.options.passing(error);
        if (trouble !== null) {
          this.hold(trouble);
          await this.sleep(wait);
          wait = Math.min(RETRY_MS.most, wait * 2);
          continue;
        }
        this.line.shift();
        this.clear();
        this.options.onRefused(error);
        first.settle(false);
      }
    }
    this.running = false;
  }

  /** Resolves all waiting changes against the state they will meet, and stores them so that they survive a reload. */
  private hold(trouble: string): void {
    this.trouble = trouble;
    let now = this.options.document();
    for (const one of this.line) {
      one.waiting ??= this.fixed(one.asked, now);
      now = withChange(now, one.waiting, this.options.timings());
      one.settle(true);
    }
    this.tell();
  }

  private clear(): void {
    if (this.trouble === null) return;
    if (this.line.length === 0) this.trouble = null;
    this.tell();
  }

  private tell(): void {
    const held = this.line.map((one) => one.waiting).filter((w) => w !== null);
    this.options.keep.save(held);
    this.options.onState({ held: this.trouble === null ? [] : held, trouble: this.trouble });
  }

  /** Takes back the last change that was never sent; the first one may have been. */
  private dropLast(): boolean {
    const last = this.line.at(-1);
    if (this.line.length < 2 || last?.waiting?.kind !== 'command') return false;
    this.line.pop();
    this.tell();
    return true;
  }

  private fixed(asked: Asked, now: Project): Waiting {
    const requestId = this.options.newId();
    if (asked.kind !== 'command') return { ...asked, requestId };
    const { command } = asked;
    return { kind: 'command', requestId, command: typeof command === 'function' ? command(now) : command };
  }

  private sleep(ms: number): Promise<void> {
    const woken = new Promise<void>((resolve) => {
      this.wake = resolve;
    });
    const pause = this.options.pause ?? ((time) => new Promise<void>((resolve) => setTimeout(resolve, time)));
    return Promise.race([pause(ms), woken]);
  }
}

/** The document as it will be once what is held is stored; what would be refused, and steps back and forth, change nothing here. */
export function withHeld(document: Project, held: readonly Waiting[], timings: TimingOf): Project {
  return held.reduce((now, change) => withChange(now, change, timings), document);
}

function withChange(document: Project, change: Waiting, timings: TimingOf): Project {
  if (change.kind !== 'command') return document;
  const applied = apply(document, change.command, timings);
  return applied.ok ? applied.project : document;
}
