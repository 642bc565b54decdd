// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min, round } = Math;

/** How samples are written: 16 or 24 bit whole numbers, or 32-bit float. */
export const WAV_FORMS = ['s16', 's24', 'f32'] as const;
export type WavForm = (typeof WAV_FORMS)[number];

export interface WavLook {
  readonly form: WavForm;
  readonly sampleRate: number;
  readonly channels: number;
  /** Samples a channel, known beforehand. */
  readonly samples: number;
  /** For the bext chunk; left out without it. */
  readonly origin?: {
    /** Samples since midnight at the first one. */
    readonly timeReference: number;
    /** ASCII, at most 256. */
    readonly description: string;
  };
}

const BYTES: Record<WavForm, number> = { s16: 2, s24: 3, f32: 4 };
/** Speakers of so many channels, as bits of a mask: of six, front left, right and centre, deep sounds, back left and right; of eight also the sides. */
const SPEAKERS: Readonly<Record<number, number>> = { 6: 0x3f, 8: 0x63f };
/** What stands behind a coding's number where it is written as a GUID. */
const GUID_REST = [0x00, 0x00, 0x00, 0x00, 0x10, 0x00, 0x80, 0x00, 0x00, 0xaa, 0x00, 0x38, 0x9b, 0x71];
/** A RIFF's length has 32 bits. */
const RIFF_MOST = 0xffff_ffff;

/** Bytes of one sample of one channel. */
export function wavSampleBytes(form: WavForm): number {
  return BYTES[form];
}

/**
 * All of a WAV file that comes before its samples: RIFF WAVE (IBM and Microsoft, 1991; with more than two channels the extensible format of 2001),
 * from 4 GiB on RF64 (EBU Tech 3306); where the sound begins is told by a bext chunk (EBU Tech 3285, version 1). Samples whose bytes are odd in number want a zero behind them.
 */
export function wavHead(look: WavLook): Uint8Array {
  const { form, channels, sampleRate, samples, origin } = look;
  const bytes = BYTES[form];
  const data = samples * channels * bytes;
  const bext = origin ? bextChunk(origin) : null;
  const isWide = channels > 2;
  const format = isWide ? 40 : 16;
  const coding = form === 'f32' ? 3 : 1;
  const rest = 4 + (bext?.length ?? 0) + 8 + format + 8 + data + (data % 2);
  const large = rest > RIFF_MOST - 36;
  const head = new Bytes(8 + rest - data - (data % 2) + (large ? 36 : 0));
  head
    .text(large ? 'RF64' : 'RIFF')
    .u32(large ? RIFF_MOST : rest)
    .text('WAVE');
  if (large)
    head
      .text('ds64')
      .u32(28)
      .u64(rest + 36)
      .u64(data)
      .u64(samples)
      .u32(0);
  if (bext) head.bytes(bext);
  head
    .text('fmt ')
    .u32(format)
    .u16(isWide ? 0xfffe : coding)
    .u16(channels)
    .u32(sampleRate);
  head
    .u32(sampleRate * channels * bytes)
    .u16(channels * bytes)
    .u16(bytes * 8);
  if (isWide)
    head
      .u16(22)
      .u16(bytes * 8)
      .u32(SPEAKERS[channels] ?? 0)
      .u16(coding)
      .bytes(Uint8Array.from(GUID_REST));
  head.text('data').u32(large ? RIFF_MOST : data);
  return head.out;
}

/** This machine stores numbers as a WAV file does. */
const LITTLE = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

/** Interleaved samples from -1 to 1 as a WAV file holds them; what lies beyond is cut off in whole numbers. */
export function wavSamples(block: Float32Array, form: WavForm): Uint8Array {
  const out = new Uint8Array(block.length * BYTES[form]);
  if (form === 's16' && LITTLE) {
    const whole = new Int16Array(out.buffer);
    for (let i = 0; i < block.length; i++) whole[i] = max(-32768, min(32767, round(block[i] * 32768)));
    return out;
  }
  const view = new DataView(out.buffer);
  for (let i = 0; i < block.length; i++) {
    const value = block[i];
    if (form === 'f32') view.setFloat32(4 * i, value, true);
    else if (form === 's16') view.setInt16(2 * i, max(-32768, min(32767, round(value * 32768))), true);
    else {
      const whole = max(-8388608, min(8388607, round(value * 8388608)));
      view.setUint8(3 * i, whole & 255);
      view.setInt16(3 * i + 1, whole >> 8, true);
    }
  }
  return out;
}

function bextChunk({ timeReference, description }: NonNullable<WavLook['origin']>): Uint8Array {
  const chunk = new Bytes(8 + 602);
  chunk
    .text('bext')
    .u32(602)
    .text(description.replace(/[^\x20-\x7e]/g, '?').slice(0, 256), 256)
    .text('Thawline', 32);
  // No reference, date and time: the same edit gives the same file.
  chunk
    .text('', 32 + 10 + 8)
    .u64(timeReference)
    .u16(1);
  return chunk.out;
}

/** Little-endian fields one after the other. */
class Bytes {
  readonly out: Uint8Array;
  private readonly view: DataView;
  private at = 0;

  constructor(length: number) {
    this.out = new Uint8Array(length);
    this.view = new DataView(this.out.buffer);
  }

  text(value: string, width = value.length): this {
    for (let i = 0; i < value.length; i++) this.out[this.at + i] = value.charCodeAt(i);
    this.at += width;
    return this;
  }

  bytes(value: Uint8Array): this {
    this.out.set(value, this.at);
    this.at += value.length;
    return this;
  }

  u16(value: number): this {
    this.view.setUint16(this.at, value, true);
    this.at += 2;
    return this;
  }

  u32(value: number): this {
    this.view.setUint32(this.at, value, true);
    this.at += 4;
    return this;
  }

  u64(value: number): this {
    this.view.setBigUint64(this.at, BigInt(value), true);
    this.at += 8;
    return this;
  }
}
