import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import type { SoundRequest } from './port.js';
import { GUARD, run, safePath } from './process.js';

/** Decoding starts this many seconds early, because codecs depend on earlier frames (MP3 on up to ten). */
const RUN_UP = 0.5;
/**
 * Where timestamps leave a hole of more than this, in seconds, silence fills it: put end to end, what follows would come too early.
 * Jitter of containers that count in milliseconds stays below.
 */
const HOLE = 0.04;

/** Containers with sample-exact timestamps. Matroska and WebM count in milliseconds. */
const EXACT = /mov|mp4|wav|flac|mp3/;

/** FFmpeg knows places of speakers for up to so many channels that say none themselves; it refuses to mix more. */
const PLACED_MOST = 8;

/** Channels of a file's first sound stream; 0 where it has none. */
async function channelsOf(path: string, signal?: AbortSignal): Promise<number> {
  const shown = ['-select_streams', 'a:0', '-show_entries', 'stream=channels', '-of', 'csv=p=0'];
  const args = ['-hide_banner', '-v', 'error', ...GUARD, ...shown, safePath(path)];
  const process = run('ffprobe', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  let found = 0;
  for await (const line of createInterface({ input: process.child.stdout as Readable })) found ||= Number.parseInt(line, 10) || 0;
  await process.done;
  return found;
}

/** Mixes channels without places: odd ones left and even ones right, or all together; each counts the same, and the sum is no louder than they. */
function mixing(own: number, channels: number): string {
  const of = (side: number): string =>
    Array.from({ length: own }, (_, c) => c)
      .filter((c) => c % channels === side)
      .map((c) => `c${c}`)
      .join('+');
  const sides = Array.from({ length: channels }, (_, side) => `c${side}<${of(side)}`);
  return `pan=${channels === 1 ? 'mono' : 'stereo'}|${sides.join('|')}`;
}

/** Decodes the first sound stream to interleaved 32-bit float at the requested rate and channel count. */
export async function* openSound(path: string, request: SoundRequest): AsyncGenerator<Float32Array> {
  const { sampleRate, channels, asStored = false, from = 0, probe, signal } = request;
  const seek = from > 2 * RUN_UP && probe?.sound && EXACT.test(probe.container);
  const startsAt = seek ? probe.firstSeconds + (probe.sound?.startSeconds ?? 0) : 0;
  const own = asStored ? channels : (probe?.sound?.channels ?? (await channelsOf(path, signal)));
  const mixed = !asStored && own > PLACED_MOST && channels <= 2 ? [mixing(own, channels)] : [];
  const args = [
    ...['-nostdin', '-hide_banner', '-v', 'error', ...GUARD],
    ...(seek ? ['-seek_timestamp', '1', '-ss', (startsAt + from - RUN_UP).toFixed(6)] : []),
    ...['-i', safePath(path), '-map', '0:a:0', '-vn', '-sn', '-dn'],
    ...['-af', [...mixed, `aresample=async=1:min_hard_comp=${HOLE}`].join(',')],
    // Said, a number of channels means places of speakers, and others are mixed to these.
    ...(asStored ? [] : ['-ac', String(channels)]),
    ...['-ar', String(sampleRate), '-f', 'f32le', 'pipe:1'],
  ];
  const process = run('ffmpeg', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'decode-failed', signal });
  const frame = 4 * channels;
  let rest = Buffer.alloc(0);
  let finished = false;
  let skip = Math.round((seek ? RUN_UP : from) * sampleRate) * frame;
  try {
    for await (const chunk of process.child.stdout as unknown as AsyncIterable<Buffer>) {
      const joined = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
      const bytes = joined.subarray(Math.min(skip, joined.length));
      skip -= joined.length - bytes.length;
      const whole = bytes.length - (bytes.length % frame);
      if (whole > 0) {
        // Copied: a view on the stream's pool would need 4-byte alignment and could be overwritten.
        const samples = new Float32Array(whole / 4);
        Buffer.from(samples.buffer).set(bytes.subarray(0, whole));
        yield samples;
      }
      rest = Buffer.from(bytes.subarray(whole));
    }
    finished = true;
  } finally {
    if (!finished) process.child.kill('SIGKILL');
  }
  await process.done;
}
