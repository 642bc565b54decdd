import { SHARES } from '@thawline/core/cadence';
import { useEffect, useReducer } from 'react';
import { type Composed, drawnPictures } from './draw.js';
import type { Ask, FromMaker } from './makerProtocol.js';

/** A moment between two pictures. */
export interface Between {
  readonly from: Composed;
  readonly to: Composed;
  /** Share of the next picture, in SHARES; 0: the first one as it is. */
  readonly share: number;
  /** How much of the made picture it is. */
  readonly weight: number;
}

/** A made picture by what it is made of: a moment between two pictures, or all that an open shutter sees, averaged. */
export interface MadeFrameKey {
  /** Weights sum up to 1. */
  readonly seen: readonly Between[];
}

export interface MadePreview {
  readonly bitmap: ImageBitmap;
  readonly certainty: number;
  readonly moved: boolean;
}

/** What pictures are wanted for, most urgent first. Where only how sure they are is asked, the pictures themselves need not stay. */
const NEEDS = ['view', 'look', 'strip', 'sureness'] as const;
export type Need = (typeof NEEDS)[number];

export const keyOf = ({ seen }: MadeFrameKey): string =>
  seen.map(({ from, to, share, weight }) => `${from.key} ${to.key} ${share} ${weight}`).join(' + ');

/** Made previews kept at once: at 640x360 about 1 MB each. How sure each was is kept for good: a few bytes. */
const MOST = 160;
const WORKERS = 2;
/** Pictures in a row that one worker takes. */
const RUN = 4;

/**
 * Pictures made by motion for looking at, in workers of the browser: asked for in order of need, kept by what they are made of.
 * A worker has one in hand at a time, so that what is wanted now never waits behind what was wanted before.
 */
export class MadePictures {
  private readonly workers: { worker: Worker; busy: string | null }[] = [];
  private readonly ready = new Map<string, MadePreview>();
  private readonly sure = new Map<string, number>();
  private readonly failed = new Set<string>();
  private readonly wanted = new Map<Need, readonly MadeFrameKey[]>();
  private readonly listeners = new Set<(key: string) => void>();

  get(moment: MadeFrameKey): MadePreview | undefined {
    return this.ready.get(keyOf(moment));
  }

  /** How sure a picture was when it was made; undefined when it was not made yet. */
  certainty(moment: MadeFrameKey): number | undefined {
    return this.sure.get(keyOf(moment));
  }

  /** Whether it cannot be made: its pictures did not come. */
  isLost(moment: MadeFrameKey): boolean {
    return this.failed.has(keyOf(moment));
  }

  /** Queues these, by need and then in this order; replaces what the same need had queued before. */
  want(need: Need, moments: readonly MadeFrameKey[]): void {
    this.wanted.set(need, moments);
    this.go();
  }

  /** Called with each made or failed result, by its key. */
  listen(listener: (key: string) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  private go(): void {
    while (this.workers.length < WORKERS) this.workers.push(this.hire());
    for (const [index, one] of this.workers.entries()) {
      if (one.busy) continue;
      const next = this.next(new Set(this.workers.map((w) => w.busy)), index);
      if (!next) return;
      one.busy = keyOf(next);
      const seen = next.seen.map((part) => ({ ...part, share: part.share / SHARES }));
      one.worker.postMessage({ id: 0, seen } satisfies Ask);
    }
  }

  /** The most urgent item that no worker has, from this worker's own runs of pictures if it can: it may hold half of the next pair already. */
  private next(taken: ReadonlySet<string | null>, worker: number): MadeFrameKey | undefined {
    for (const need of NEEDS) {
      const there = need === 'sureness' ? this.sure : this.ready;
      let other: MadeFrameKey | undefined;
      for (const moment of this.wanted.get(need) ?? []) {
        const key = keyOf(moment);
        if (there.has(key) || this.failed.has(key) || taken.has(key)) continue;
        if (Math.floor((drawnPictures(moment.seen[0]?.from.parts ?? [])[0]?.picture ?? 0) / RUN) % WORKERS === worker)
          return moment;
        other ??= moment;
      }
      if (other) return other;
    }
    return undefined;
  }

  private hire(): { worker: Worker; busy: string | null } {
    const worker = new Worker(new URL('./maker.worker.ts', import.meta.url), { type: 'module' });
    const one: { worker: Worker; busy: string | null } = { worker, busy: null };
    worker.onmessage = ({ data }: MessageEvent<FromMaker>) => {
      const key = one.busy;
      one.busy = null;
      if (key && data.type === 'made') this.keep(key, data);
      else if (key) this.failed.add(key);
      this.go();
      if (key) this.tell(key);
    };
    worker.onerror = () => {
      // A crashed worker never answers: fail its item and let the others continue.
      this.workers.splice(this.workers.indexOf(one), 1);
      worker.terminate();
      if (!one.busy) return;
      this.failed.add(one.busy);
      this.tell(one.busy);
    };
    return one;
  }

  private tell(key: string): void {
    for (const listener of this.listeners) listener(key);
  }

  private keep(key: string, { bitmap, certainty, moved }: MadePreview): void {
    this.ready.set(key, { bitmap, certainty, moved });
    this.sure.set(key, certainty);
    const needed = new Set(
      NEEDS.filter((need) => need !== 'sureness').flatMap((need) => (this.wanted.get(need) ?? []).map(keyOf)),
    );
    for (const [old, preview] of this.ready) {
      if (this.ready.size <= MOST) return;
      if (needed.has(old)) continue;
      preview.bitmap.close();
      this.ready.delete(old);
    }
  }
}

/** One for the page: what was made for one clip serves all that show the same. */
export const madePictures = new MadePictures();

/** How often what only counts what was made is drawn anew, in ms: drawing takes from the cores that make. */
const COUNTED_MS = 250;

/** Makes these for a need, and draws anew as they come. */
export function useMade(need: Need, moments: readonly MadeFrameKey[]): MadePictures {
  const [, again] = useReducer((n: number) => n + 1, 0);
  const key = moments.map(keyOf).join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: `key` stands for the moments
  useEffect(() => madePictures.want(need, moments), [need, key]);
  useEffect(() => () => madePictures.want(need, []), [need]);
  useEffect(() => {
    const own = new Set(key.split('\n'));
    let due = 0;
    const draw = (): void => {
      due = 0;
      again();
    };
    const stop = madePictures.listen((made) => {
      if (!own.has(made)) return;
      due ||= window.setTimeout(draw, need === 'sureness' ? COUNTED_MS : 0);
    });
    return () => {
      stop();
      clearTimeout(due);
    };
  }, [need, key]);
  return madePictures;
}
