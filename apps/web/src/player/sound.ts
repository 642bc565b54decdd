import { address } from '@thawline/contract';
import { frameAtOrBefore, type Rate, rate, rateToNumber } from '@thawline/core/time';

/** Seconds of sound that are fetched at once, after a short first stretch that comes soon. */
const STRETCH = 8;
const FIRST = 2;

/** Plays a timeline's mix from a frame on, stretch after stretch, each at its exact sample of the audio clock. */
export class SoundTrack {
  private readonly context = new AudioContext({ sampleRate: 48_000 });
  private readonly stop = new AbortController();
  private startedAt = 0;

  constructor(
    private readonly project: string,
    private readonly timeline: string,
    private readonly rate: Rate,
  ) {}

  /** Seconds since the first frame began to sound; negative just before. */
  get seconds(): number {
    return this.context.currentTime - this.startedAt;
  }

  /** Fetches the first stretch and starts; resolves when it sounds. False when there is none to be had. */
  async begin(from: number, to: number): Promise<boolean> {
    const first = Math.min(to, from + Math.max(1, Math.round(FIRST * rateToNumber(this.rate))));
    const buffer = await this.fetch(from, first);
    if (!buffer || this.stop.signal.aborted) return false;
    await this.context.resume();
    this.startedAt = this.context.currentTime + 0.06;
    this.schedule(buffer, from, from);
    void this.goOn(from, first, to);
    return true;
  }

  end(): void {
    this.stop.abort();
    void this.context.close();
  }

  private async goOn(origin: number, from: number, to: number): Promise<void> {
    for (let at = from; at < to; ) {
      const next = Math.min(to, at + Math.round(STRETCH * rateToNumber(this.rate)));
      const buffer = await this.fetch(at, next);
      if (!buffer || this.stop.signal.aborted) return;
      this.schedule(buffer, origin, at);
      const wait = this.sample(next - origin) / 48_000 - this.seconds - STRETCH;
      if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait * 1000));
      at = next;
    }
  }

  /** First sample of so many frames, as the mix counts them. */
  private sample(frames: number): number {
    return frameAtOrBefore(frames, this.rate, rate(48_000));
  }

  private schedule(buffer: AudioBuffer, origin: number, frame: number): void {
    const source = this.context.createBufferSource();
    source.buffer = buffer;
    source.connect(this.context.destination);
    const at = this.startedAt + (this.sample(frame) - this.sample(origin)) / 48_000;
    source.start(Math.max(this.context.currentTime, at), Math.max(0, this.context.currentTime - at));
  }

  private async fetch(from: number, to: number): Promise<AudioBuffer | null> {
    try {
      const url = address('timelineSound', { project: this.project, timeline: this.timeline });
      const reply = await fetch(`${url}?from=${from}&to=${to}`, { signal: this.stop.signal });
      return reply.ok ? await this.context.decodeAudioData(await reply.arrayBuffer()) : null;
    } catch {
      // Stopped, or the server is gone: the pictures go on without sound.
      return null;
    }
  }
}
