/**
 * npm run bench -- align [SEED [MINUTES [no-hour]]]: aligns the rig's pairs (another seed than 1, which was tuned on) as WAV files by the shell's own
 * path, and prints how far offset and drift are off; then an hour against an hour, its seconds and its largest memory.
 */
import { once } from 'node:events';
import { createWriteStream, existsSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { wavHead, wavSamples } from '../packages/core/dist/sound/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { pairSound, pairs } from '../packages/rig/dist/index.js';
import { align } from '../packages/work/dist/index.js';

const seed = Number(process.argv[2] ?? 7);
const minutes = Number(process.argv[3] ?? 10);
const hour = process.argv[4] !== 'no-hour';
const folder = '.cache/pairs';
await mkdir(folder, { recursive: true });

async function write(plan, side, length) {
  const path = join(folder, `${plan.name}-${seed}-${length}-${side}.wav`);
  if (existsSync(path)) return path;
  const { sampleRate } = plan[side];
  const samples = Math.floor((side === 'a' ? plan.secondsA : plan.secondsB) * sampleRate);
  const file = createWriteStream(path);
  file.write(wavHead({ form: 's16', sampleRate, channels: 1, samples }));
  for (const block of pairSound(plan, side)) if (!file.write(wavSamples(block, 's16'))) await once(file, 'drain');
  file.end();
  await once(file, 'finish');
  return path;
}

async function measure(plan, length) {
  const paths = [await write(plan, 'a', length), await write(plan, 'b', length)];
  const [a, b] = await Promise.all(paths.map(async (path) => ({ path, probe: await ffmpeg.probe(path) })));
  const began = performance.now();
  const { solution, certainty, ties } = await align({ media: ffmpeg, progress: () => undefined }, { a, b });
  const seconds = (performance.now() - began) / 1000;
  const ratio = plan.ratio.num / plan.ratio.den;
  const offMs = solution ? (solution.offsetSeconds - plan.offsetSeconds) * 1000 : Number.NaN;
  const ppm = solution ? solution.driftPpm - (ratio - 1) * 1e6 : Number.NaN;
  const verdict = certainty >= 0.5 ? `offset off by ${offMs.toFixed(3)} ms, drift by ${ppm.toFixed(3)} ppm` : 'refused';
  process.stdout.write(
    `${plan.name.padEnd(16)} ${((ratio - 1) * 1e6).toFixed(0).padStart(5)} ppm, shares ${plan.shared.padEnd(7)}: ${verdict} (${ties.length} ties, ${seconds.toFixed(1)} s)\n`,
  );
}

for (const plan of pairs(seed, minutes)) await measure(plan, minutes);
if (hour) {
  const plan = pairs(seed, 60).find((p) => p.name === 'noisy-both');
  await measure(plan, 60);
  process.stdout.write(`largest memory ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB\n`);
}
