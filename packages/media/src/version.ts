import type { Readable } from 'node:stream';
import { run } from './process.js';

let known: Promise<string> | null = null;

/** FFmpeg's version with those of its libraries and how it was built; asked once a process. */
export function version(): Promise<string> {
  known ??= ask();
  // A failure is not remembered: FFmpeg may be installed meanwhile.
  known.catch(() => {
    known = null;
  });
  return known;
}

async function ask(): Promise<string> {
  const process = run('ffmpeg', ['-version'], { stdio: ['ignore', 'pipe', 'pipe'], failure: 'encode-failed' });
  let text = '';
  for await (const chunk of process.child.stdout as Readable) text += String(chunk);
  await process.done;
  return text;
}
