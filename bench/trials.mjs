/**
 * Trial clips on disk, for benches: each of the rig's trials by five encoders, made once and kept in .cache/trials/SEED.
 * Run by itself as a worker thread, it makes a share of them.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { isMainThread, Worker, workerData } from 'node:worker_threads';
import { ffmpeg } from '../packages/media/dist/index.js';
import { faintTrials, fieldTrials, oddTrials, partTrials, trials } from '../packages/rig/dist/index.js';

const H264 = (crf) => ['-c:v', 'libx264', '-preset', 'medium', '-crf', String(crf), '-threads', '2'];

/** Name, ending, and FFmpeg's arguments. */
export const ENCODERS = [
  { name: 'h264-18', ending: 'mp4', args: H264(18), fields: ['-flags', '+ilme+ildct', '-x264-params', 'tff=1'] },
  { name: 'h264-23', ending: 'mkv', args: H264(23), fields: ['-flags', '+ilme+ildct', '-x264-params', 'tff=1'] },
  { name: 'h264-30', ending: 'mp4', args: H264(30), fields: ['-flags', '+ilme+ildct', '-x264-params', 'tff=1'] },
  {
    name: 'mpeg4',
    ending: 'avi',
    args: ['-c:v', 'mpeg4', '-q:v', '5', '-bf', '2', '-g', '50'],
    fields: ['-flags', '+ilme+ildct', '-top', '1'],
  },
  {
    name: 'vp9',
    ending: 'webm',
    args: ['-c:v', 'libvpx-vp9', '-b:v', '0', '-crf', '36', '-deadline', 'realtime', '-cpu-used', '6', '-row-mt', '1'],
    fields: [],
  },
];

/** The rig's sets of trials by name. */
export const SETS = { trials, odd: oddTrials, parts: partTrials, fields: fieldTrials, faint: faintTrials };

const folderOf = (seed, what) => join('.cache', 'trials', what === 'trials' ? String(seed) : `${what}-${seed}`);

/** Where a trial by an encoder lies; null where that encoder makes no such clip. */
export function trialPath(seed, trial, encoder, what = 'trials') {
  if (trial.ticks && encoder.ending !== 'mp4') return null;
  return join(folderOf(seed, what), `${trial.name.replace(/[^\w-]+/g, '-')}.${encoder.name}.${encoder.ending}`);
}

/** What says that pictures hold two moments: right, or, of an encoder that is to lie, the other order. */
function fieldArgs({ fields, lies }, { fields: kind, first }) {
  if ((kind ?? 'none') === 'none' && !first) return [];
  const bottom = (first === 'bottom') !== (lies === true);
  return bottom ? fields.map((a) => a.replace('tff=1', 'bff=1').replace(/^1$/, '0')) : fields;
}

/** @param wanted encoders and where each one's file goes; null: none */
async function write(trial, wanted) {
  const { width, height, rate, truth, ticks } = trial;
  if (wanted.every((w) => existsSync(w.path))) return;
  if (ticks) {
    for (const { encoder, path } of wanted) {
      const request = {
        width,
        height,
        rate,
        pixelFormat: 'yuv420p',
        form: 'mp4',
        crf: Number(encoder.args[5]),
        threads: 2,
        ticks,
      };
      await ffmpeg.encode(`${path}.partial.mp4`, request, trial.cook());
      renameSync(`${path}.partial.mp4`, path);
    }
    return;
  }
  const partial = (path) => path.replace(/\.(\w+)$/, '.partial.$1');
  const outputs = wanted.flatMap(({ encoder, path }) => [
    ...['-map', '0:v', '-pix_fmt', 'yuv420p', ...encoder.args, ...fieldArgs(encoder, truth)],
    ...['-fps_mode', 'passthrough', `file:${partial(path)}`],
  ]);
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-video_size', `${width}x${height}`];
  const args = ['-v', 'error', '-y', ...input, '-framerate', `${rate.num}/${rate.den}`, '-i', 'pipe:0', ...outputs];
  await cookInto(trial, args);
  for (const { path } of wanted) renameSync(partial(path), path);
}

/** Gives a trial's pictures to FFmpeg, by its standard input. */
async function cookInto(trial, args) {
  const child = spawn('ffmpeg', args, { stdio: ['pipe', 'ignore', 'inherit'] });
  const ended = new Promise((resolve, reject) =>
    child.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`ffmpeg ended with ${code} on ${trial.name}`)))),
  );
  for (const picture of trial.cook()) {
    if (!child.stdin.write(picture)) await new Promise((resolve) => child.stdin.once('drain', resolve));
  }
  child.stdin.end();
  await ended;
}

/** Makes what is not there yet, a thread a core. @param what one of SETS; @param encoders of what they are made by */
export async function writeTrials(seed, what = 'trials', encoders = ENCODERS) {
  mkdirSync(folderOf(seed, what), { recursive: true });
  const threads = availableParallelism();
  await Promise.all(
    Array.from({ length: threads }, (_, thread) => {
      const worker = new Worker(new URL(import.meta.url), { workerData: { seed, what, encoders, thread, threads } });
      return new Promise((resolve, reject) => {
        worker.once('error', reject);
        worker.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`a thread ended with ${code}`))));
      });
    }),
  );
}

if (!isMainThread && workerData && 'threads' in workerData) {
  const { seed, what, encoders, thread, threads } = workerData;
  for (const [i, trial] of SETS[what](seed).entries()) {
    if (i % threads !== thread) continue;
    const wanted = encoders.map((encoder) => ({ encoder, path: trialPath(seed, trial, encoder, what) }));
    await write(
      trial,
      wanted.filter((w) => w.path),
    );
  }
}
