import type { FromDecoder, Want } from './protocol.js';

/** Decoded pictures kept at once: at 960x540 about 2 MB each. */
const MOST = 140;
/** Pictures a request brings. */
const RUN = 12;

/** Decoded pictures by media and number, asked for ahead of time, the oldest given back first. */
export class Bitmaps {
  private readonly worker = new Worker(new URL('./decoder.worker.ts', import.meta.url), { type: 'module' });
  private readonly ready = new Map<string, ImageBitmap | null>();
  private readonly asked = new Map<number, readonly string[]>();
  private readonly pending = new Set<string>();
  private number = 0;

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<FromDecoder>) => this.take(data);
    // A worker that crashed answers nothing: what it owed is asked for again.
    this.worker.onerror = () => {
      this.pending.clear();
      this.asked.clear();
    };
  }

  /** The decoded picture; undefined when it is not there yet, null when it cannot be had. */
  get(mediaId: string, picture: number): ImageBitmap | null | undefined {
    return this.ready.get(`${mediaId}/${picture}`);
  }

  /** Asks for those that are neither there nor on their way, neighbours together. */
  want(pictures: readonly { readonly mediaId: string; readonly picture: number }[]): void {
    const missing = pictures.filter(({ mediaId, picture }) => {
      const key = `${mediaId}/${picture}`;
      return !this.ready.has(key) && !this.pending.has(key);
    });
    for (let i = 0; i < missing.length; ) {
      const first = missing[i] as (typeof missing)[number];
      let count = 1;
      let used = 1;
      for (
        let next = missing[i + used];
        next && next.mediaId === first.mediaId && next.picture >= first.picture && next.picture < first.picture + RUN;
        next = missing[i + used]
      ) {
        count = Math.max(count, next.picture - first.picture + 1);
        used++;
      }
      const keys = Array.from({ length: count }, (_, k) => `${first.mediaId}/${first.picture + k}`);
      const want: Want = { type: 'want', id: ++this.number, mediaId: first.mediaId, from: first.picture, count };
      this.asked.set(want.id, keys);
      for (const key of keys) this.pending.add(key);
      this.worker.postMessage(want);
      i += used;
    }
  }

  close(): void {
    this.worker.terminate();
    for (const bitmap of this.ready.values()) bitmap?.close();
    this.ready.clear();
  }

  private take(message: FromDecoder): void {
    const keys = this.asked.get(message.id) ?? [];
    this.asked.delete(message.id);
    keys.forEach((key, i) => {
      this.pending.delete(key);
      const bitmap = message.type === 'pictures' ? (message.bitmaps[i] ?? null) : null;
      if (message.type === 'failed') return;
      this.ready.get(key)?.close();
      this.ready.delete(key);
      this.ready.set(key, bitmap);
    });
    for (const [key, bitmap] of this.ready) {
      if (this.ready.size <= MOST) break;
      bitmap?.close();
      this.ready.delete(key);
    }
  }
}
