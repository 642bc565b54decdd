import { mix8, mix16, pixelLayout } from '@thawline/core/picture';
import type { Pictures } from '@thawline/media';

/** A picture of a clip at a position: the picture itself or a mix of it and the next. */
export interface Wanted {
  readonly picture: number;
  /** Share of the next picture, 0 to 255 of 256. */
  readonly nextShare: number;
}

/**
 * Walks a stream of pictures forward and gives what is asked for in rising order. A real picture is handed on as it came,
 * bit for bit; only mixes are computed. Past the end the last picture stays.
 */
export class PictureWalk {
  private readonly iterator: AsyncIterator<Uint8Array>;
  private index: number;
  private current: Uint8Array | null = null;
  private following: Uint8Array | null = null;
  private ended = false;
  private readonly mixed: Uint8Array;
  private readonly wide: boolean;

  /** @param first index of the stream's first picture */
  constructor(pictures: Pictures, first: number, pixelFormat: string, bytes: number) {
    this.iterator = pictures[Symbol.asyncIterator]();
    this.index = first - 1;
    this.mixed = new Uint8Array(bytes);
    this.wide = pixelLayout(pixelFormat)?.bytes === 2;
  }

  /** The wanted picture; valid until the next call. Null when the stream gave none at all. */
  async at(wanted: Wanted): Promise<Uint8Array | null> {
    while (this.index < wanted.picture && !this.ended) await this.step();
    if (wanted.nextShare === 0 || !this.current) return this.current;
    if (!this.following) await this.peek();
    if (!this.following) return this.current;
    if (this.wide) mix16(words(this.current), words(this.following), wanted.nextShare, words(this.mixed));
    else mix8(this.current, this.following, wanted.nextShare, this.mixed);
    return this.mixed;
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

function words(bytes: Uint8Array): Uint16Array {
  return new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1);
}
