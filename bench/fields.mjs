/**
 * npm run bench -- fields [SEED] [--only=NAME]: lines of fields rebuilt, over the rig's scenes of fine detail (720 lines at 96 fields a second), beside
 * FFmpeg's own filters bwdif, w3fdif and yadif in the same run. PSNR of luma against the truth, mean over the scene, for scenes that thresholds were
 * chosen by and for those that were kept out; CPU time of a whole picture of 4:2:0, reading not counted, against bwdif's on the same pictures. Scenes
 * are kept in .cache/fields.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { KernelRebuilder } from '../packages/core/dist/fields/index.js';
import { meanSquare, pixelLayout, psnrOf } from '../packages/core/dist/picture/index.js';
import { fieldPicture, fieldScenes, woven } from '../packages/rig/dist/index.js';
import { rankCorrelation } from './ranks.mjs';

const asked = process.argv.slice(2);
const seed = Number(asked.find((a) => /^\d+$/.test(a)) ?? 101);
const only = asked.find((a) => a.startsWith('--only='))?.split('=')[1] ?? '';
const [WIDTH, HEIGHT, MOMENTS] = [1280, 720, 12];
const BYTES = (WIDTH * HEIGHT * 3) / 2;
const LUMA = WIDTH * HEIGHT;
const layout = pixelLayout('yuv420p');
/** Moments that any method has neighbours of on both sides. */
const [FROM, TO] = [4, 8];
const FILTERS = {
  bwdif: 'bwdif=mode=send_field:parity=tff:deint=all',
  w3fdif: 'w3fdif=filter=complex:mode=field:parity=tff:deint=all',
  yadif: 'yadif=mode=send_field:parity=tff:deint=all',
};

const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];
const middle = (list) => {
  const sorted = [...list].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
};

function moments(scene) {
  const folder = join('.cache', 'fields');
  mkdirSync(folder, { recursive: true });
  const path = join(folder, `${seed}-${scene.name.replaceAll(/[ ,]+/g, '-')}.yuv`);
  if (!existsSync(path))
    writeFileSync(path, Buffer.concat(Array.from({ length: MOMENTS }, (_, k) => fieldPicture(scene, 5 + k, WIDTH, HEIGHT))));
  const all = new Uint8Array(readFileSync(path));
  return Array.from({ length: MOMENTS }, (_, k) => all.subarray(k * BYTES, (k + 1) * BYTES));
}

function filtered(frames, filter, times = 1) {
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${WIDTH}x${HEIGHT}`, '-r', '48', '-i', '-'];
  const output = ['-fps_mode', 'passthrough', '-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-'];
  const args = ['-nostdin', '-hide_banner', '-benchmark', '-threads', '1', '-filter_threads', '1', ...input];
  const many = Array.from({ length: times }, () => frames).flat();
  const done = spawnSync('ffmpeg', [...args, '-vf', filter, ...output], { input: Buffer.concat(many), maxBuffer: 1 << 30 });
  if (done.status !== 0) throw new Error(done.stderr.toString());
  const said = /utime=([\d.]+)s stime=([\d.]+)s/.exec(done.stderr.toString());
  const bytes = new Uint8Array(done.stdout);
  const pictures = Array.from({ length: bytes.length / BYTES }, (_, k) => bytes.subarray(k * BYTES, (k + 1) * BYTES));
  return { pictures, cpu: Number(said[1]) + Number(said[2]) };
}

const windowAt = (frames, k, number = k >> 1) => ({
  frames: [-2, -1, 0, 1, 2].map((d) => frames[(k >> 1) + d] ?? null),
  ...{ number, keeps: k % 2 === 0 ? 'top' : 'bottom', first: 'top' },
});

function rebuilt(frames) {
  const rebuilder = new KernelRebuilder(layout, WIDTH, HEIGHT);
  return Array.from({ length: MOMENTS }, (_, k) => {
    const picture = new Uint8Array(BYTES);
    rebuilder.rebuild(windowAt(frames, k), picture);
    return { picture, doubts: rebuilder.doubts() };
  });
}

/** How well doubts say where made lines miss the truth: rank correlation with the mean difference of a block's, over all blocks. */
function doubtsKnow(made, truths) {
  const pairs = [];
  for (let k = FROM; k < TO; k++) {
    const { picture, doubts } = made[k];
    const lines = k % 2 === 0 ? 1 : 0;
    for (let r = 0; r < doubts.rows; r++)
      for (let c = 0; c < doubts.columns; c++) {
        let off = 0;
        for (let y = r * 8 + lines; y < Math.min(HEIGHT, r * 8 + 8); y += 2)
          for (let x = c * 8; x < c * 8 + 8; x++) off += Math.abs(picture[y * WIDTH + x] - truths[k][y * WIDTH + x]);
        pairs.push([doubts.doubt[r * doubts.columns + c], off]);
      }
  }
  return rankCorrelation(pairs);
}

/** CPU seconds a picture, in a stream: each frame comes in once, and gives two pictures. */
function secondsEach(frames, rounds) {
  const rebuilder = new KernelRebuilder(layout, WIDTH, HEIGHT);
  const out = new Uint8Array(BYTES);
  const times = [];
  for (let round = 0; round < rounds; round++) {
    const before = process.cpuUsage();
    for (let k = 0; k < MOMENTS; k++) {
      const endless = Array.from({ length: 5 }, (_, i) => frames[((k >> 1) + i - 2 + 6) % 6]);
      rebuilder.rebuild({ ...windowAt(frames, k, round * 6 + (k >> 1)), frames: endless }, out);
    }
    const { user, system } = process.cpuUsage(before);
    times.push((user + system) / 1e6 / MOMENTS);
  }
  return median(times.slice(1));
}

const psnr = (a, b) => psnrOf(meanSquare(a.subarray(0, LUMA), b.subarray(0, LUMA)), 255);
const mean = (pictures, truths) => {
  let sum = 0;
  for (let k = FROM; k < TO; k++) sum += psnr(pictures[k], truths[k]);
  return sum / (TO - FROM);
};

const rows = [];
process.stdout.write(`seed ${seed}\nscene                     ours    bwdif   w3fdif  yadif   gain    CPU ms  bwdif's  doubts\n`);
for (const scene of fieldScenes(seed).filter((s) => s.name.includes(only))) {
  const truths = moments(scene);
  const frames = Array.from({ length: MOMENTS / 2 }, (_, k) => woven(truths[2 * k], truths[2 * k + 1], WIDTH, HEIGHT));
  const made = rebuilt(frames);
  const ours = mean(
    made.map((m) => m.picture),
    truths,
  );
  const knows = doubtsKnow(made, truths);
  const theirs = Object.values(FILTERS).map((filter) => mean(filtered(frames, filter).pictures, truths));
  // In turn, so that both meet the same machine; the filter's reading and writing is taken off.
  const cpu = [];
  const theirCpu = [];
  for (let round = 0; round < 3; round++) {
    cpu.push(secondsEach(frames, 4));
    const [bare, made] = [filtered(frames, 'null', 12), filtered(frames, FILTERS.bwdif, 12)];
    // As many pictures again are written.
    theirCpu.push((made.cpu - 1.5 * bare.cpu) / made.pictures.length);
  }
  const row = { scene, ours, theirs, gain: ours - Math.max(...theirs), cpu: median(cpu), theirCpu: median(theirCpu), knows };
  rows.push(row);
  const figures = [ours, ...theirs, row.gain].map((x) => x.toFixed(2).padStart(6)).join('  ');
  const times = [row.cpu, row.theirCpu].map((s) => (s * 1000).toFixed(2).padStart(6)).join('  ');
  const sure = knows.toFixed(2).padStart(6);
  process.stdout.write(`${`${scene.name}${scene.keptOut ? ' *' : ''}`.padEnd(24)} ${figures}  ${times}  ${sure}\n`);
}
for (const keptOut of [false, true]) {
  const some = rows.filter((r) => r.scene.keptOut === keptOut);
  if (some.length === 0) continue;
  const gains = some.map((r) => r.gain);
  process.stdout.write(
    `${keptOut ? '* kept out of tuning' : 'tuned on'}: median gain ${middle(gains).toFixed(2)} dB, least ${Math.min(...gains).toFixed(2)} dB\n`,
  );
}
process.stdout.write(
  `doubts against errors, rank correlation over blocks: ${middle(rows.map((r) => r.knows)).toFixed(2)} (median over scenes)\n`,
);
process.stdout.write(`CPU against bwdif: ${median(rows.map((r) => r.cpu / r.theirCpu)).toFixed(1)} times (median over scenes)\n`);
