import type { Pictures } from '@thawline/media';
import type { Between, Numbered } from './interpolate.js';

/** A picture of a clip at a position: the picture itself or one between it and the next. */
export interface Wanted {
  readonly picture: number;
  /** Share of the next picture, in SHARES. */
  readonly nextShare: number;
  /** Number of the next picture, where it is not simply that. */
  readonly next?: number | undefined;
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
    const { a, b } = await this.seek(wanted);
    if (!a || !b) return a?.picture ?? null;
    this.between.make(a, b, wanted.nextShare, this.made);
    return this.made;
  }

  /**
   * The wanted picture, and where something between is wanted, the one after it; the pictures stay as they are. Null when the source
   * gave none at all; b is null where a alone is wanted, or is the last.
   */
  async seek(wanted: Wanted): Promise<{ readonly a: Numbered | null; readonly b: Numbered | null }> {
    const furthest = wanted.nextShare > 0 ? (wanted.next ?? wanted.picture + 1) : wanted.picture;
    this.reach = Math.max(this.reach, furthest - wanted.picture + 1);
    if (wanted.picture < this.first) await this.turnBack(wanted.picture, furthest);
    while (this.coming <= furthest && this.last === Number.POSITIVE_INFINITY) await this.take();
    const a = this.numbered(Math.min(wanted.picture, this.last));
    const b = wanted.nextShare > 0 && a && a.k < this.last ? this.numbered(Math.min(furthest, this.last)) : null;
    return { a, b };
  }

  async close(): Promise<void> {
    await this.iterator?.return?.();
    this.iterator = null;
  }

  private get first(): number {
    return this.coming - this.held.length;
  }

  private numbered(k: number): Numbered | null {
    const picture = this.held[k - this.first];
    return picture ? { k, picture } : null;
  }

  private async turnBack(picture: number, furthest: number): Promise<void> {
    await this.close();
    const room = Math.min(HELD_MOST, Math.floor(HELD_BYTES / this.bytes));
    this.reach = Math.max(HELD_LEAST, this.reach, room);
    this.held = [];
    this.last = Number.POSITIVE_INFINITY;
    this.coming = Math.max(0, Math.min(picture, furthest - this.reach + 1));
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
