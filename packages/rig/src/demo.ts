import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { ffmpeg } from '@thawline/media';
import { demoClips } from './clips.js';
import { writeClip } from './write.js';

interface Share {
  readonly rigFolder: string;
  readonly names: readonly string[];
}

/**
 * Writes all demo clips into the folder, a worker thread a core; those that are there stay. Seconds where minutes would do.
 * @param onClip called with each clip's name and path when it is complete
 * @returns the clips' paths in the demo's order
 */
export async function writeDemoClips(
  folder: string,
  onClip: (name: string, path: string) => void = () => undefined,
): Promise<string[]> {
  const plans = demoClips();
  // Longest first, dealt out in turn, so that the threads end together.
  const names = [...plans].sort((a, b) => work(b) - work(a)).map((p) => p.name);
  const threads = Math.max(1, Math.min(availableParallelism(), names.length));
  await Promise.all(
    Array.from({ length: threads }, (_, thread) => {
      const share: Share = { rigFolder: folder, names: names.filter((_name, i) => i % threads === thread) };
      return new Promise<void>((resolve, reject) => {
        const worker = new Worker(new URL(import.meta.url), { workerData: share });
        worker.on('message', ({ name, path }: { name: string; path: string }) => onClip(name, path));
        worker.once('error', reject);
        worker.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`the rig's worker ended with ${code}`))));
      });
    }),
  );
  return plans.map((plan) => join(folder, plan.truth.file));
}

function work(plan: { width: number; height: number; moments: readonly number[] }): number {
  return plan.width * plan.height * plan.moments.length;
}

function isShare(data: unknown): data is Share {
  return typeof data === 'object' && data !== null && 'rigFolder' in data;
}

if (!isMainThread && isShare(workerData)) {
  const { rigFolder, names } = workerData;
  for (const plan of demoClips().filter((p) => names.includes(p.name))) {
    const path = await writeClip(plan, rigFolder, ffmpeg);
    parentPort?.postMessage({ name: plan.name, path });
  }
}
