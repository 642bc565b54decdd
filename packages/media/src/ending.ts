import { type FileHandle, open } from 'node:fs/promises';
import type { Probe } from './port.js';

/**
 * Whether a file ends before it says it does. FFmpeg reads what is there of these containers without a word; what their headers promise is
 * compared with what the file holds. A container that promises nothing (a raw stream, a live recording whose length was never filled in)
 * cannot be told to end early. MP4, QuickTime and Matroska files that are cut are refused before: they cannot be read to the end.
 */
export async function endsEarly(
  path: string,
  { container, seconds }: Pick<Probe, 'container' | 'seconds'>,
  soundEnd: number,
): Promise<boolean> {
  const check = CHECKS[container];
  if (!check) return false;
  const handle = await open(path, 'r');
  try {
    return await check({ handle, size: (await handle.stat()).size, seconds, soundEnd });
  } finally {
    await handle.close();
  }
}

interface Looked {
  readonly handle: FileHandle;
  readonly size: number;
  /** How long the pictures (or the sound alone) run that were found; null where they have no time. */
  readonly seconds: number | null;
  /** Where its last packet of sound ends, in seconds; 0 where there is none. */
  readonly soundEnd: number;
}

const CHECKS: Readonly<Record<string, (file: Looked) => Promise<boolean>>> = {
  wav: riff,
  avi: riff,
  aiff: aiff,
  yuv4mpegpipe: y4m,
  gif,
  mpegts: transport,
  flv,
  mxf,
  flac,
  ogg,
};

async function read(handle: FileHandle, at: number, length: number): Promise<Buffer> {
  const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, Math.max(0, at));
  return buffer.subarray(0, bytesRead);
}

/** RIFF: the size in its head, and of a WAV that of its samples. 0 and 0xffffffff were never filled in; RF64 keeps its sizes in ds64. */
async function riff({ handle, size }: Looked): Promise<boolean> {
  const head = await read(handle, 0, 12);
  const name = head.toString('latin1', 0, 4);
  if (name === 'RF64' || name === 'BW64') {
    const ds64 = await read(handle, 12, 24);
    return ds64.toString('latin1', 0, 4) === 'ds64' && Number(ds64.readBigUInt64LE(8)) + 8 > size;
  }
  const promised = name === 'RIFF' ? head.readUInt32LE(4) : 0;
  if (promised !== 0 && promised !== 0xffffffff && promised + 8 > size + 1) return true;
  return head.toString('latin1', 8, 12) === 'WAVE' && samplesMissing(handle, size);
}

async function samplesMissing(handle: FileHandle, size: number): Promise<boolean> {
  for (let at = 12; at + 8 <= size; ) {
    const chunk = await read(handle, at, 8);
    if (chunk.length < 8) return false;
    const length = chunk.readUInt32LE(4);
    if (chunk.toString('latin1', 0, 4) === 'data') return length !== 0 && length !== 0xffffffff && at + 8 + length > size;
    at += 8 + length + (length % 2);
  }
  return false;
}

/** FORM and its size, big-endian. */
async function aiff({ handle, size }: Looked): Promise<boolean> {
  const head = await read(handle, 0, 8);
  return head.toString('latin1', 0, 4) === 'FORM' && head.readUInt32BE(4) + 8 > size + 1;
}

/** YUV4MPEG2 promises no number of pictures, but each has the same size: a cut leaves a part of one. */
async function y4m({ handle, size }: Looked): Promise<boolean> {
  const head = (await read(handle, 0, 4096)).toString('latin1');
  const line = head.slice(0, head.indexOf('\n'));
  const [, width = '0'] = / W(\d+)/.exec(line) ?? [];
  const [, height = '0'] = / H(\d+)/.exec(line) ?? [];
  const [, colour = '420'] = / C(\S+)/.exec(line) ?? [];
  const bytes = y4mPicture(Number(width), Number(height), colour);
  const first = head.indexOf('\n') + 1;
  const frame = head.slice(first, head.indexOf('\n', first) + 1);
  if (bytes === null || frame !== 'FRAME\n') return false;
  return (size - first) % (frame.length + bytes) !== 0;
}

function y4mPicture(width: number, height: number, colour: string): number | null {
  const depth = /p(9|1\d)$/.test(colour) || /mono(9|1\d)$/.test(colour) ? 2 : 1;
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  if (/^mono/.test(colour)) return depth * width * height;
  if (/^444alpha/.test(colour)) return depth * width * height * 4;
  if (/^444/.test(colour)) return depth * width * height * 3;
  if (/^422/.test(colour)) return depth * height * (width + 2 * w);
  if (/^420/.test(colour)) return depth * (width * height + 2 * w * h);
  return null;
}

/** A GIF ends with its trailer, a semicolon; some writers leave zeros after it. */
async function gif({ handle, size }: Looked): Promise<boolean> {
  const tail = await read(handle, size - 64, Math.min(64, size));
  const end = tail.findLastIndex((byte) => byte !== 0);
  return tail[end] !== 0x3b;
}

/** A transport stream is made of packets of one length: 188 bytes, with time stamps 192, with error correction 204. */
async function transport({ handle, size }: Looked): Promise<boolean> {
  const head = await read(handle, 0, 1024);
  for (const [length, sync] of [
    [188, 0],
    [192, 4],
    [204, 0],
  ] as const)
    if (head[sync] === 0x47 && head[sync + length] === 0x47 && head[sync + 2 * length] === 0x47) return size % length !== 0;
  return false;
}

/** Each FLV tag is followed by its own length: at the end of a whole file it leads back to a tag. Its metadata may give a duration, too. */
async function flv({ handle, size, seconds }: Looked): Promise<boolean> {
  const length = (await read(handle, size - 4, 4)).readUInt32BE(0);
  const tag = await read(handle, size - 4 - length, 11);
  const whole = length >= 11 && tag.length === 11 && tag.readUIntBE(1, 3) + 11 === length;
  if (!whole) return true;
  const promised = await flvDuration(handle);
  return promised !== null && seconds !== null && seconds < promised * 0.98 - 0.5;
}

async function flvDuration(handle: FileHandle): Promise<number | null> {
  const head = await read(handle, 0, 4096);
  const at = head.indexOf('duration', 0, 'latin1');
  // An AMF number: its mark, then a double.
  return at < 0 || head[at + 8] !== 0 ? null : head.readDoubleBE(at + 9);
}

/** A closed MXF names in its header where its footer begins (SMPTE ST 377-1, 7.1); 0 is not known. */
async function mxf({ handle, size }: Looked): Promise<boolean> {
  const head = await read(handle, 0, 4096);
  // Partition pack: a key of 16 bytes, a BER length, versions (4), KAG size (4), this, previous and footer partition (8 each).
  if (head.length < 64 || head.readUInt32BE(0) !== 0x060e2b34) return false;
  const long = (head[16] ?? 0) & 0x80 ? (head[16] ?? 0) & 0x7f : 0;
  const footer = head.readBigUInt64BE(17 + long + 8 + 16);
  return footer !== 0n && footer >= BigInt(size);
}

/** A FLAC's first block says how many samples there are (0: not known); what was found is compared with it, and its last frame looked at. */
async function flac({ handle, size, soundEnd }: Looked): Promise<boolean> {
  const head = await read(handle, 0, 42);
  if (head.length < 42 || head.toString('latin1', 0, 4) !== 'fLaC') return false;
  const rate = head.readUIntBE(18, 3) >> 4;
  const samples = (BigInt((head[21] ?? 0) & 0x0f) << 32n) | BigInt(head.readUInt32BE(22));
  if (samples !== 0n && rate > 0 && soundEnd > 0 && soundEnd < Number(samples) / rate - 0.02) return true;
  return !(await lastFrameIsWhole(handle, size));
}

/** Bytes that are searched for the last frame of a FLAC: eight channels of 24 bits in its usual blocks take less. */
const FLAC_TAIL = 1 << 20;
/** An ID3v1 tag that some writers put behind the last frame. */
const ID3_BYTES = 128;

/** Each frame of a FLAC ends with a checksum of itself (RFC 9639, 9.3): one that fits from some sync code to the end is the last one. */
async function lastFrameIsWhole(handle: FileHandle, size: number): Promise<boolean> {
  const tail = await read(handle, size - FLAC_TAIL, Math.min(size, FLAC_TAIL));
  const tag = tail.length > ID3_BYTES && tail.toString('latin1', tail.length - ID3_BYTES, tail.length - ID3_BYTES + 3) === 'TAG';
  const sound = tag ? tail.subarray(0, tail.length - ID3_BYTES) : tail;
  const wanted = sound.length >= 2 ? sound.readUInt16BE(sound.length - 2) : -1;
  for (let at = sound.length - 2; at >= 0; at--)
    if (sound[at] === 0xff && ((sound[at + 1] ?? 0) & 0xfe) === 0xf8 && crc16(sound.subarray(at, -2)) === wanted) return true;
  return false;
}

/** x^16 + x^15 + x^2 + 1, from 0. */
function crc16(bytes: Uint8Array): number {
  let crc = 0;
  for (const byte of bytes) {
    crc ^= byte << 8;
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x8000 ? ((crc << 1) ^ 0x8005) & 0xffff : (crc << 1) & 0xffff;
  }
  return crc;
}

/** The last page of a whole Ogg stream bears the mark of the end, and is there to its last byte (RFC 3533, 6). */
async function ogg({ handle, size }: Looked): Promise<boolean> {
  const length = Math.min(size, 65_536 + 27 + 255);
  const tail = await read(handle, size - length, length);
  const at = tail.lastIndexOf('OggS', undefined, 'latin1');
  if (at < 0 || at + 27 > tail.length || ((tail[at + 5] ?? 0) & 0x04) === 0) return true;
  const segments = tail[26 + at] ?? 0;
  const table = tail.subarray(at + 27, at + 27 + segments);
  return at + 27 + segments + table.reduce((sum, length) => sum + length, 0) > tail.length;
}
