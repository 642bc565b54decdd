import { type FileHandle, mkdtemp, open, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { OUTLINE_RATE, Outliner, type Recording } from '@thawline/core/align';
import { wavSamples } from '@thawline/core/sound';
import { type Media, MediaError, type Probe } from '@thawline/media';

const BYTES = 2;
/** Bytes gathered before they are written. */
const CHUNK = 1 << 16;

/**
 * A file's sound as aligning wants it, decoded once into a temporary file (58 MB an hour), so that memory stays flat however long it is.
 * Rejects with no-sound, silent, or what decoding says.
 */
export class TemporaryRecording implements Recording {
  private constructor(
    readonly outline: Recording['outline'],
    private readonly folder: string,
    private readonly file: FileHandle,
  ) {}

  static async of(
    media: Media,
    path: string,
    probe: Probe,
    progress: (seconds: number) => void,
    signal?: AbortSignal,
  ): Promise<TemporaryRecording> {
    if (!probe.sound) throw new MediaError('no-sound');
    const folder = await mkdtemp(join(tmpdir(), 'thawline-sound-'));
    let file: FileHandle | null = null;
    try {
      file = await open(join(folder, 'sound.s16'), 'w+');
      const outliner = new Outliner();
      const request = { sampleRate: OUTLINE_RATE, channels: 1, signal };
      let waiting: Buffer[] = [];
      let [bytes, samples] = [0, 0];
      for await (const block of media.openSound(path, request)) {
        outliner.push(block);
        const whole = Buffer.from(wavSamples(block, 's16'));
        waiting.push(whole);
        bytes += whole.length;
        samples += block.length;
        if (bytes < CHUNK) continue;
        await file.write(Buffer.concat(waiting));
        waiting = [];
        bytes = 0;
        progress(samples / OUTLINE_RATE);
      }
      await file.write(Buffer.concat(waiting));
      const outline = outliner.finish();
      if (outline.silent) throw new MediaError('silent');
      return new TemporaryRecording(outline, folder, file);
    } catch (error) {
      await file?.close();
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }

  async read(from: number, count: number): Promise<Float32Array> {
    const out = new Float32Array(count);
    const first = Math.max(0, from);
    const wanted = Math.min(this.outline.samples, from + count) - first;
    if (wanted <= 0) return out;
    const bytes = new Int16Array(wanted);
    await this.file.read(new Uint8Array(bytes.buffer), 0, wanted * BYTES, first * BYTES);
    for (let i = 0; i < wanted; i++) out[first - from + i] = (bytes[i] as number) / 32768;
    return out;
  }

  async close(): Promise<void> {
    await this.file.close();
    await rm(this.folder, { recursive: true, force: true });
  }
}
