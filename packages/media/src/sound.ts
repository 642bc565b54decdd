import type { SoundRequest } from './port.js';
import { GUARD, run, safePath } from './process.js';

/** Decodes the first sound stream to interleaved 32-bit float at the requested rate and channel count. */
export async function* openSound(path: string, request: SoundRequest): AsyncGenerator<Float32Array> {
  const args = [
    ...['-nostdin', '-hide_banner', '-v', 'error', ...GUARD, '-i', safePath(path), '-map', '0:a:0', '-vn', '-sn', '-dn'],
    ...['-ac', String(request.channels), '-ar', String(request.sampleRate), '-f', 'f32le', 'pipe:1'],
  ];
  const process = run('ffmpeg', args, ['ignore', 'pipe', 'pipe'], 'decode-failed', request.signal);
  const frame = 4 * request.channels;
  let rest = Buffer.alloc(0);
  let finished = false;
  try {
    for await (const chunk of process.child.stdout as unknown as AsyncIterable<Buffer>) {
      const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
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
