import type { Pictures } from '@thawline/media';
import type { Between } from './between.js';

/** A picture of a clip at a position: the picture itself or one between it and the next. */
export interface Wanted {
  readonly picture: number;
  /** Share of the next picture, in parts of the walk's way of making those between. */
  readonly nextShare: number;
}

/** What pictures a walk that has turned back holds on to, in bytes; and how many at least and at most. */
const HELD_BYTES = 96 << 20;
const [HELD_LEAST, HELD_MOST] = [4, 64];

/**
 * Walks the pictures of a source and gives what is asked for, each good until the next call. A real picture is handed on as it came, bit
 * for bit; only those between are computed. Forward it holds two pictures. Codecs only run forward: where it is asked to turn back it
 * opens the source anew, some pictures earlier, and holds what it passes. Past the end the last picture stays.
 */
export class PictureWalk {
  private iterator: AsyncIterator<Uint8Array> | null = null;
  /** Number of the next picture to come out of the stream. */
  private coming = 0;
  /** Pictures `first` to `coming` - 1. */
  private held: Uint8Array[] = [];
  /** Number of the source's last picture, once it was met. */
  private last = Number.POSITIVE_INFINITY;
  private reach = 2;
  private readonly made: Uint8Array;

  /**
   * @param open the source's pictures from one on, each in a buffer of its own
   * @param start the picture to begin with
   */
  constructor(
    private readonly open: (from: number) => Pictures,
    start: number,
    private readonly between: Between,
    private readonly bytes: number,
  ) {
    this.coming = start;
    this.made = new Uint8Array(bytes);
  }

  /** The wanted picture. Null when the source gave none at all. */
  async at(wanted: Wanted): Promise<Uint8Array | null> {
    const { k, a, b } = await this.seek(wanted);
    if (!a || !b) return a;
    this.between.make(k, a, b, wanted.nextShare, this.made);
    return this.made;
  }

  /**
   * The wanted picture, and where something between is wanted, the one after it. Their number, and the pictures themselves: they stay as
   * they are. Null when the source gave none at all; b is null where a alone is wanted, or is the last.
   */
  async seek(wanted: Wanted): Promise<{ readonly k: number; readonly a: Uint8Array | null; readonly b: Uint8Array | null }> {
    if (wanted.picture < this.first) await this.turnBack(wanted.picture);
    const furthest = wanted.picture + (wanted.nextShare > 0 ? 1 : 0);
    while (this.coming <= furthest && this.last === Number.POSITIVE_INFINITY) await this.take();
    const k = Math.min(wanted.picture, this.last);
    const a = this.held[k - this.first] ?? null;
    return { k, a, b: (wanted.nextShare > 0 && this.held[k + 1 - this.first]) || null };
  }

  async close(): Promise<void> {
    await this.iterator?.return?.();
    this.iterator = null;
  }

  private get first(): number {
    return this.coming - this.held.length;
  }

  private async turnBack(picture: number): Promise<void> {
    await this.close();
    this.reach = Math.max(HELD_LEAST, Math.min(HELD_MOST, Math.floor(HELD_BYTES / this.bytes)));
    this.held = [];
    this.last = Number.POSITIVE_INFINITY;
    this.coming = Math.max(0, picture - this.reach + 2);
  }

  private async take(): Promise<void> {
    this.iterator ??= this.open(this.coming)[Symbol.asyncIterator]();
    const next = await this.iterator.next();
    if (next.done) {
      this.last = this.coming - 1;
      return;
    }
    this.held.push(next.value);
    this.coming++;
    if (this.held.length > this.reach) this.held.shift();
  }
}
