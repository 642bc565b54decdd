import { address } from '@thawline/contract';
import { PcmReader } from './pcm.js';

const SAMPLE_RATE = 48_000;
/** Seconds of sound that are put before the speakers at once, after a short first stretch that comes soon. */
const STRETCH = 2;
const FIRST = 1;
/** How far ahead of what is heard the mix is read; it is made no faster. */
const AHEAD = 8;

/** Plays a timeline's mix from a frame on: one stream, read a little ahead, each stretch at its exact sample of the audio clock. */
export class SoundTrack {
  private readonly context = new AudioContext({ sampleRate: SAMPLE_RATE });
  private readonly stop = new AbortController();
  private startedAt = 0;

  constructor(
    private readonly project: string,
    private readonly timeline: string,
  ) {}

  /** Seconds since the first frame began to sound; negative just before. */
  get seconds(): number {
    return this.context.currentTime - this.startedAt;
  }

  /** Opens the mix and starts; resolves when it sounds, with false if there is no sound. */
  async begin(from: number, to: number): Promise<boolean> {
    const mix = await this.open(from, to);
    const first = await mix?.take(FIRST * SAMPLE_RATE);
    if (!mix || !first || this.stop.signal.aborted) return false;
    // Stopped while it resumes, it is closed under its own hands.
    await this.context.resume().catch(() => undefined);
    if (this.stop.signal.aborted) return false;
    this.startedAt = this.context.currentTime + 0.06;
    this.schedule(first, 0);
    void this.goOn(mix, FIRST * SAMPLE_RATE);
    return true;
  }

  /** Stops and gives everything back; once is enough, more does no harm. */
  end(): void {
    if (this.stop.signal.aborted) return;
    this.stop.abort();
    void this.context.close();
  }

  /** To the stream's end. */
  private async goOn(mix: PcmReader, from: number): Promise<void> {
    let at = from;
    for (let stretch = await mix.take(STRETCH * SAMPLE_RATE); stretch; stretch = await mix.take(STRETCH * SAMPLE_RATE)) {
      if (this.stop.signal.aborted) return;
      this.schedule(stretch, at);
      at += STRETCH * SAMPLE_RATE;
      const wait = at / SAMPLE_RATE - this.seconds - AHEAD;
      if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait * 1000));
    }
  }

  /** @param sample of the mix, that the stretch begins with */
  private schedule([left, right]: readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>], sample: number): void {
    const buffer = this.context.createBuffer(2, left.length, SAMPLE_RATE);
    buffer.copyToChannel(left, 0);
    buffer.copyToChannel(right, 1);
    const source = this.context.createBufferSource();
    source.buffer = buffer;
    source.connect(this.context.destination);
    const at = this.startedAt + sample / SAMPLE_RATE;
    source.start(Math.max(this.context.currentTime, at), Math.max(0, this.context.currentTime - at));
  }

  private async open(from: number, to: number): Promise<PcmReader | null> {
    try {
      const url = address('timelineSound', { project: this.project, timeline: this.timeline });
      const reply = await fetch(`${url}?from=${from}&to=${to}`, { signal: this.stop.signal });
      return reply.ok && reply.body ? await PcmReader.open(reply.body.getReader()) : null;
    } catch {
      // Stopped, or the server is gone: the pictures go on without sound.
      return null;
    }
  }
}
