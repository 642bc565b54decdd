import type { Pictures } from '@thawline/media';
import type { Between } from './between.js';

/** A picture of a clip at a position: the picture itself or one between it and the next. */
export interface Wanted {
  readonly picture: number;
  /** Share of the next picture, in parts of the walk's way of making those between. */
  readonly nextShare: number;
}

/**
 * Walks a stream of pictures forward and gives what is asked for in rising order. A real picture is handed on as it came,
 * bit for bit; only those between are computed. Past the end the last picture stays.
 */
export class PictureWalk {
  private readonly iterator: AsyncIterator<Uint8Array>;
  private index: number;
  private current: Uint8Array | null = null;
  private following: Uint8Array | null = null;
  private ended = false;
  private readonly made: Uint8Array;

  /** @param first index of the stream's first picture */
  constructor(
    pictures: Pictures,
    first: number,
    private readonly between: Between,
    bytes: number,
  ) {
    this.iterator = pictures[Symbol.asyncIterator]();
    this.index = first - 1;
    this.made = new Uint8Array(bytes);
  }

  /** The wanted picture; valid until the next call. Null when the stream gave none at all. */
  async at(wanted: Wanted): Promise<Uint8Array | null> {
    const { k, a, b } = await this.seek(wanted);
    if (!a || !b) return a;
    this.between.make(k, a, b, wanted.nextShare, this.made);
    return this.made;
  }

  /**
   * The wanted picture, and where something between is wanted, the one after it. Their number, and the pictures themselves:
   * they stay as they are. Null when the stream gave none at all; b is null where a alone is wanted, or is the last.
   */
  async seek(wanted: Wanted): Promise<{ readonly k: number; readonly a: Uint8Array | null; readonly b: Uint8Array | null }> {
    while (this.index < wanted.picture && !this.ended) await this.step();
    if (wanted.nextShare > 0 && this.current && !this.following) await this.peek();
    return { k: this.index, a: this.current, b: wanted.nextShare > 0 ? this.following : null };
  }

  async close(): Promise<void> {
    await this.iterator.return?.();
  }

  private async step(): Promise<void> {
    if (!this.following) await this.peek();
    if (!this.following) return;
    this.current = this.following;
    this.following = null;
    this.index++;
  }

  private async peek(): Promise<void> {
    if (this.ended) return;
    const next = await this.iterator.next();
    if (next.done) this.ended = true;
    else this.following = next.value;
  }
}
