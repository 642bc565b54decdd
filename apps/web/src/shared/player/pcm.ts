/** What a stream of bytes is read from. */
export interface ByteSource {
  read(): Promise<{ readonly done: boolean; readonly value?: Uint8Array | undefined }>;
}

type Stereo = readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];

const FRAME_BYTES = 4;

/** Reads a stream of 16 bit stereo WAV in pieces of any length. */
export class PcmReader {
  private constructor(
    private readonly source: ByteSource,
    private rest: Uint8Array,
  ) {}

  /** Reads up to the first sample; null where the stream ends before. */
  static async open(source: ByteSource): Promise<PcmReader | null> {
    const reader = new PcmReader(source, new Uint8Array(0));
    for (;;) {
      const start = samplesFrom(reader.rest);
      if (start !== null && start <= reader.rest.length) {
        reader.rest = reader.rest.subarray(start);
        return reader;
      }
      if (!(await reader.more())) return null;
    }
  }

  /** So many samples of each side, fewer at the end; null after it, or where the stream broke. */
  async take(samples: number): Promise<Stereo | null> {
    try {
      while (this.rest.length < samples * FRAME_BYTES && (await this.more()));
    } catch {
      return null;
    }
    const count = Math.min(samples, Math.floor(this.rest.length / FRAME_BYTES));
    if (count === 0) return null;
    const view = new DataView(this.rest.buffer, this.rest.byteOffset, count * FRAME_BYTES);
    const sides: Stereo = [new Float32Array(count), new Float32Array(count)];
    for (let i = 0; i < count; i++) {
      sides[0][i] = view.getInt16(FRAME_BYTES * i, true) / 32_768;
      sides[1][i] = view.getInt16(FRAME_BYTES * i + 2, true) / 32_768;
    }
    this.rest = this.rest.subarray(count * FRAME_BYTES);
    return sides;
  }

  private async more(): Promise<boolean> {
    const { done, value } = await this.source.read();
    if (done || !value) return false;
    const joined = new Uint8Array(this.rest.length + value.length);
    joined.set(this.rest);
    joined.set(value, this.rest.length);
    this.rest = joined;
    return true;
  }
}

/** Offset of a WAV file's samples (its "data" chunk); null until enough of the file is read. */
function samplesFrom(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = 12; at + 8 <= bytes.length; ) {
    if (view.getUint32(at) === DATA) return at + 8;
    const size = view.getUint32(at + 4, true);
    at += 8 + size + (size % 2);
  }
  return null;
}

/** "data", as four letters. */
const DATA = 0x64617461;
