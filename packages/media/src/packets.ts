import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import { GUARD, run, safePath } from './process.js';

/** Bytes of each coded picture, in file order: see the port. */
export async function packetBytes(path: string, signal?: AbortSignal): Promise<number[]> {
  const shown = ['-select_streams', 'v:0', '-show_entries', 'packet=size', '-of', 'csv=p=0'];
  const args = ['-hide_banner', '-v', 'error', ...GUARD, ...shown, safePath(path)];
  const process = run('ffprobe', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  const sizes: number[] = [];
  for await (const line of createInterface({ input: process.child.stdout as Readable })) {
    const size = Number.parseInt(line, 10);
    if (Number.isFinite(size)) sizes.push(size);
  }
  await process.done;
  return sizes;
}
