/**
 * npm run bench -- hour [MINUTES]: an hour of small pictures with sound that is nowhere like itself, rendered at 23.976, 29.97 and 59.94 and measured
 * from the written file: whether its sound still lies where it should at the end. Prints also the largest memory.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatRate, rate } from '../packages/core/dist/time/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { formSchema } from '../packages/project/dist/index.js';
import { measureReceipt, renderTimeline } from '../packages/work/dist/index.js';
import { timelineOf } from './timeline.mjs';

const minutes = Number(process.argv[2] ?? 60);
const kept = '.cache/bench-hour';
mkdirSync(kept, { recursive: true });
const out = mkdtempSync(join(tmpdir(), 'thawline-hour-'));

function source(r) {
  const path = join(kept, `${r.num}-${r.den}-${minutes}.mkv`);
  if (existsSync(path)) return path;
  const length = String(minutes * 60);
  const pictures = ['-f', 'lavfi', '-i', `testsrc2=s=64x36:r=${r.num}/${r.den}:d=${length}`];
  const sound = ['-f', 'lavfi', '-i', `anoisesrc=r=48000:a=0.2:d=${length}:seed=5`];
  const coded = [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-crf',
    '24',
    '-pix_fmt',
    'yuv420p',
    '-c:a',
    'flac',
    '-shortest',
    path,
  ];
  if (spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...pictures, ...sound, ...coded], { stdio: 'inherit' }).status !== 0)
    throw new Error('no source');
  return path;
}

try {
  for (const r of [rate(24000, 1001), rate(30000, 1001), rate(60000, 1001)]) {
    const input = await timelineOf(source(r), 1, r);
    const form = formSchema.parse({ quality: 28 });
    const began = performance.now();
    const request = { input, form, path: join(out, 'hour.mp4'), work: join(out, 'work'), cache: null };
    const unplaced = await renderTimeline({ media: ffmpeg, progress: () => undefined }, request);
    const files = unplaced.files.map((f) => f.path);
    const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, { input: unplaced.input, form, files });
    await unplaced.discard();
    rmSync(join(out, 'work'), { recursive: true, force: true });
    const line = (what) => receipt.lines.find((l) => l.what === what)?.measured;
    const seconds = ((performance.now() - began) / 1000).toFixed(0);
    const memory = (process.resourceUsage().maxRSS / 1024).toFixed(0);
    process.stdout.write(
      `${formatRate(r)}, ${receipt.frames} frames: ${line('rate')}, sound ${line('sync')}; ${receipt.differs} differ; ${seconds} s, largest memory so far ${memory} MB\n`,
    );
  }
} finally {
  rmSync(out, { recursive: true, force: true });
}
