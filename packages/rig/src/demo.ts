import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { ffmpeg } from '@thawline/media';
import { type ClipPlan, demoClips } from './clips.js';
import type { Scene } from './scenes.js';
import { writeClip } from './write.js';

/** half: nearly all clips at half their width and height, painted and coded in a quarter of the time. For tests of what is done with them. */
export type RigSize = 'whole' | 'half';

interface Share {
  readonly rigFolder: string;
  readonly size: RigSize;
  readonly names: readonly string[];
}

/**
 * Writes all demo clips into the folder, a worker thread a core; those that are there stay. Seconds where minutes would do.
 * @param onClip called with each clip's name and path when it is complete
 * @param size a folder holds clips of one size
 * @returns the clips' paths in the demo's order
 */
export async function writeDemoClips(
  folder: string,
  onClip: (name: string, path: string) => void = () => undefined,
  size: RigSize = 'whole',
): Promise<string[]> {
  const plans = plansOf(size);
  // Longest first, dealt out in turn, so that the threads end together.
  const names = [...plans].sort((a, b) => work(b) - work(a)).map((p) => p.name);
  const threads = Math.max(1, Math.min(availableParallelism(), names.length));
  await Promise.all(
    Array.from({ length: threads }, (_, thread) => {
      const share: Share = { rigFolder: folder, size, names: names.filter((_name, i) => i % threads === thread) };
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

function plansOf(size: RigSize): ClipPlan[] {
  return size === 'whole' ? demoClips() : demoClips().map((plan) => (plan.name === FAINT ? plan : halved(plan)));
}

/** Its two held pictures differ so little from the others, in a drift of a pixel a picture, that half the size hides them. */
const FAINT = 'ridge-stock';

/** The same clip at half its size: what every second pixel of every second line sees, its noise as averaged. Width and height stay even. */
function halved(plan: ClipPlan): ClipPlan {
  const half = (n: number): number => 2 * Math.round(n / 4);
  const scene = (): Scene => {
    const whole = plan.scene();
    return (seconds, width, height) => {
      const shader = whole(seconds, 2 * width, 2 * height);
      return (x, y, out) => shader(2 * x, 2 * y, out);
    };
  };
  return { ...plan, width: half(plan.width), height: half(plan.height), noise: plan.noise / 2, scene };
}

function work(plan: { width: number; height: number; moments: readonly number[] }): number {
  return plan.width * plan.height * plan.moments.length;
}

function isShare(data: unknown): data is Share {
  return typeof data === 'object' && data !== null && 'rigFolder' in data;
}

if (!isMainThread && isShare(workerData)) {
  const { rigFolder, names, size } = workerData;
  for (const plan of plansOf(size).filter((p) => names.includes(p.name))) {
    const path = await writeClip(plan, rigFolder, ffmpeg);
    parentPort?.postMessage({ name: plan.name, path });
  }
}
