import type { StdioOptions } from 'node:child_process';
import type { Writable } from 'node:stream';
import { type AnyIterable, type EncodeRequest, MediaError } from './port.js';
import { run, safePath } from './process.js';

function videoArgs(request: EncodeRequest): string[] {
  if (request.form === 'y4m') return ['-strict', '-1', '-f', 'yuv4mpegpipe'];
  if (request.form === 'png') return ['-c:v', 'png', '-start_number', '0', '-f', 'image2'];
  if (request.form === 'mkv') return ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-c:a', 'flac', '-f', 'matroska'];
  return [
    ...['-c:v', 'libx264', '-preset', request.preset ?? 'veryfast', '-crf', String(request.crf ?? 18)],
    ...['-pix_fmt', 'yuv420p', '-c:a', 'aac', '-b:a', '192k', '-movflags', '+faststart', '-f', 'mp4'],
  ];
}

/** Sets each picture's timestamp to its tick: FFmpeg counts N, and every gap is added once N has reached it. */
function timingArgs(ticks: readonly number[]): string[] {
  const gaps = ticks.slice(1).map((tick, k) => `gte(N,${k + 1})*${tick - (ticks[k] as number)}`);
  // FFmpeg refuses expressions nested deeper than 100, and each sum nests once: 50 terms a bracket, at most 40 brackets.
  const brackets = Array.from(
    { length: Math.ceil(gaps.length / 50) },
    (_, i) => `(${gaps.slice(i * 50, i * 50 + 50).join('+')})`,
  );
  const expression = [String(ticks[0] ?? 0), ...brackets].join('+');
  return ['-vf', `settb=1/90000,setpts='${expression}'`, '-enc_time_base', '1:90000', '-video_track_timescale', '90000'];
}

/** Pictures go in on standard input, sound (when asked for) on file descriptor 3; FFmpeg's own re-timing is switched off. */
export async function encode(
  path: string,
  request: EncodeRequest,
  pictures: AnyIterable<Uint8Array>,
  sound?: AnyIterable<Float32Array>,
): Promise<void> {
  const heard = sound && request.sound;
  const args = [
    ...['-hide_banner', '-v', 'error', '-y', '-protocol_whitelist', 'file,pipe'],
    ...['-f', 'rawvideo', '-pix_fmt', request.pixelFormat, '-video_size', `${request.width}x${request.height}`],
    ...['-framerate', `${request.rate.num}/${request.rate.den}`, '-i', 'pipe:0'],
    ...(heard ? ['-f', 'f32le', '-ar', String(heard.sampleRate), '-ac', String(heard.channels), '-i', 'pipe:3'] : []),
    ...['-map', '0:v', ...(heard ? ['-map', '1:a'] : []), '-fps_mode', 'passthrough'],
    ...(request.ticks ? timingArgs(request.ticks) : []),
    ...videoArgs(request),
    ...(request.threads ? ['-threads', String(request.threads)] : []),
    safePath(path),
  ];
  const stdio: StdioOptions = ['pipe', 'ignore', 'pipe', ...(heard ? (['pipe'] as const) : [])];
  const process = run('ffmpeg', args, stdio, 'encode-failed', request.signal);
  const feeds = [feed(process.child.stdin as Writable, pictures)];
  if (heard) feeds.push(feed(process.child.stdio[3] as Writable, asBytes(sound)));
  try {
    await Promise.all(feeds);
  } catch (error) {
    process.child.kill('SIGKILL');
    await process.done.catch(() => undefined);
    throw request.signal?.aborted ? new MediaError('aborted') : error;
  }
  await process.done;
}

async function* asBytes(sound: AnyIterable<Float32Array>): AsyncGenerator<Uint8Array> {
  for await (const block of sound) yield new Uint8Array(block.buffer, block.byteOffset, block.byteLength);
}

/**
 * Writes all of it and closes the pipe at once: FFmpeg reads its inputs in turn, and one that stays open without giving
 * anything would stop the other. When FFmpeg is gone the rest is left unread; its end tells why.
 */
async function feed(pipe: Writable, source: AnyIterable<Uint8Array>): Promise<void> {
  pipe.on('error', () => undefined);
  for await (const bytes of source) {
    if (pipe.destroyed) return;
    if (!pipe.write(bytes)) await drained(pipe);
  }
  pipe.end();
}

function drained(pipe: Writable): Promise<void> {
  return new Promise((resolve) => {
    const go = (): void => {
      pipe.off('drain', go);
      pipe.off('close', go);
      resolve();
    };
    pipe.on('drain', go);
    pipe.on('close', go);
  });
}
