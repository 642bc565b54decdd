/**
 * npm run bench -- check: pictures a second of a check beside FFmpeg's bare decode of the same 1080p file, in turn in the
 * same run, medians of five. The file is a made-up clip enlarged to 1920x1080 with fresh noise, as H.264, and four times in a
 * row: 192 s, so that what starting costs does not stand for what a picture costs.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { writeDemoClips } from '../packages/rig/dist/index.js';
import { runInThread } from '../packages/work/dist/index.js';

const ROUNDS = 5;
const LOOPS = 4;
const folder = mkdtempSync(join(tmpdir(), 'thawline-bench-'));
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

try {
  const [clip] = await writeDemoClips('.cache/rig');
  const file = join(folder, 'hd.mp4');
  const filter = 'scale=1920:1080:flags=bicubic,noise=alls=6:allf=t';
  const run = (...args) => {
    const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', ...args]);
    if (made.status !== 0) throw new Error(String(made.stderr));
  };
  const once = join(folder, 'once.mp4');
  const coding = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20'];
  run('-stream_loop', '2', '-i', clip, '-an', '-vf', filter, ...coding, once);
  run('-stream_loop', String(LOOPS - 1), '-i', once, '-c', 'copy', file);
  const probe = await ffmpeg.probe(file);
  const bare = [];
  const checked = [];
  const ratios = [];
  for (let round = 0; round < ROUNDS; round++) {
    let at = performance.now();
    spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-i', file, '-map', '0:v:0', '-f', 'null', '-']);
    bare.push((performance.now() - at) / 1000);
    at = performance.now();
    const entry = new URL('../packages/work/dist/jobs/worker.js', import.meta.url);
    const { verdict } = await runInThread(
      entry,
      { kind: 'check', specification: { path: file, probe } },
      { progress: () => undefined },
    );
    checked.push((performance.now() - at) / 1000);
    ratios.push(checked.at(-1) / bare.at(-1));
    if (verdict.kind !== 'new') throw new Error(`the check went wrong: ${verdict.kind}`);
  }
  const rate = (seconds) => (probe.pictures / median(seconds)).toFixed(1);
  process.stdout.write(`${probe.pictures} pictures of ${probe.width}x${probe.height}, medians of ${ROUNDS}\n`);
  process.stdout.write(`bare decode  ${rate(bare)} pictures/s\ncheck        ${rate(checked)} pictures/s\n`);
  process.stdout.write(`a check costs ${median(ratios).toFixed(2)} times the bare decode of the same round (at most 1.15)\n`);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
