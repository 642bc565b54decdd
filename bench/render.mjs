/**
 * npm run bench -- render [SECONDS [MINUTES]]: how fast a timeline of real pictures is written against FFmpeg's own decode and encode of
 * the same 1080p material with the same settings, in turn, medians of five; and the largest memory of writing and measuring MINUTES of a
 * small timeline (default 20), beside that of a tenth of it.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { formSchema } from '../packages/project/dist/index.js';
import { measureReceipt, renderTimeline } from '../packages/work/dist/index.js';
import { timelineOf } from './timeline.mjs';

const seconds = Number(process.argv[2] ?? 16);
const minutes = Number(process.argv[3] ?? 20);
const say = (line) => process.stdout.write(`${line}\n`);
const kept = '.cache/bench-render';
mkdirSync(kept, { recursive: true });
const out = mkdtempSync(join(tmpdir(), 'thawline-bench-'));

/** FFmpeg's own picture generator with noise and a tone, as a camera's H.264. */
function source(width, height, length) {
  const path = join(kept, `${width}-${length}.mp4`);
  if (existsSync(path)) return path;
  const args = ['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', `testsrc2=s=${width}x${height}:r=25:d=${length}`];
  const sound = ['-f', 'lavfi', '-i', `sine=frequency=330:sample_rate=48000:duration=${length}`];
  const coded = [
    '-vf',
    'noise=alls=8:allf=t',
    '-pix_fmt',
    'yuv420p',
    '-c:v',
    'libx264',
    '-preset',
    'fast',
    '-crf',
    '20',
    '-c:a',
    'aac',
  ];
  if (spawnSync('ffmpeg', [...args, ...sound, ...coded, path], { stdio: 'inherit' }).status !== 0) throw new Error('no source');
  return path;
}

async function render(input, name) {
  const work = join(out, `work-${name}`);
  const request = { input, form: formSchema.parse({}), path: join(out, `${name}.mp4`), work, cache: null };
  const unplaced = await renderTimeline({ media: ffmpeg, progress: () => undefined }, request);
  const [path] = await unplaced.place();
  rmSync(work, { recursive: true, force: true });
  return { ...unplaced, path };
}

const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

try {
  const large = source(1920, 1080, seconds);
  const input = await timelineOf(large, 1);
  const [ours, theirs] = [[], []];
  for (let i = 0; i < 5; i++) {
    let began = performance.now();
    await render(input, `ours-${i}`);
    ours.push((performance.now() - began) / 1000);
    began = performance.now();
    const args = [
      '-nostdin',
      '-v',
      'error',
      '-y',
      '-i',
      large,
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-crf',
      '18',
      '-pix_fmt',
      'yuv420p',
    ];
    spawnSync('ffmpeg', [...args, '-c:a', 'aac', '-b:a', '192k', '-movflags', '+faststart', join(out, `theirs-${i}.mp4`)]);
    theirs.push((performance.now() - began) / 1000);
    say(`${seconds * 25} frames of 1080p: ${ours.at(-1).toFixed(2)} s, FFmpeg itself ${theirs.at(-1).toFixed(2)} s`);
  }
  say(`speed against FFmpeg's own, medians of five: ${(median(theirs) / median(ours)).toFixed(3)} (aim 0.85)`);
  const minute = source(320, 180, 60);
  for (const length of [Math.max(1, Math.round(minutes / 10)), minutes]) {
    const long = await timelineOf(minute, length);
    const began = performance.now();
    const { path, form } = await render(long, `long-${length}`);
    const written = (performance.now() - began) / 1000;
    const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, { input: long, form, files: [path] });
    const all = (performance.now() - began) / 1000;
    const memory = process.resourceUsage().maxRSS / 1024;
    say(
      `${length} min: written in ${written.toFixed(0)} s, measured ${(all - written).toFixed(0)} s, ${receipt.differs} differ; largest memory so far ${memory.toFixed(0)} MB`,
    );
  }
} finally {
  rmSync(out, { recursive: true, force: true });
}
