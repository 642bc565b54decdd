/**
 * What the benches of made pictures share: scenes of the rig with their truths, kept in .cache/moving, FFmpeg's own
 * motion-compensated interpolation over the same pictures, and measures of likeness. Not a bench itself.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { meanSquare, psnrOf, ssim } from '../packages/core/dist/picture/index.js';
import { Filmed, movingScenes } from '../packages/rig/dist/index.js';

/** Real pictures of each scene; truths stand between REAL[1] and REAL[REAL - 2], where any method has neighbours on both sides. */
export const REALS = 6;
export const SIZES = { '720p': [1280, 720], '1080p': [1920, 1080] };
const QUARTERS = [0.25, 0.5, 0.75];

/** @returns {{name, noise, width, height, reals: Uint8Array[], truths: Map<number, Uint8Array>}[]} packed yuv420p */
export function scenes(seed, size, only = '') {
  const [width, height] = SIZES[size];
  const folder = join('.cache', 'moving', `${seed}-${size}`);
  mkdirSync(folder, { recursive: true });
  return movingScenes(seed)
    .filter((s) => s.name.includes(only))
    .map((moving) => {
      const path = join(folder, `${moving.name.replaceAll(' ', '-')}.yuv`);
      const moments = [];
      for (let k = 1; k < REALS - 2; k++) for (const q of QUARTERS) moments.push(k + q);
      if (!existsSync(path)) {
        const filmed = new Filmed(moving, width, height, seed);
        const reals = Array.from({ length: REALS }, (_, k) => filmed.real(k));
        writeFileSync(path, Buffer.concat([...reals, ...moments.map((m) => filmed.truth(m))]));
      }
      const all = new Uint8Array(readFileSync(path));
      const bytes = (width * height * 3) / 2;
      const at = (i) => all.subarray(i * bytes, (i + 1) * bytes);
      return {
        name: moving.name,
        noise: moving.noise,
        width,
        height,
        reals: Array.from({ length: REALS }, (_, k) => at(k)),
        truths: new Map(moments.map((m, i) => [m, at(REALS + i)])),
      };
    });
}

/** CPU seconds that FFmpeg says it took, user and system. */
function cpuOf(stderr) {
  const found = /utime=([\d.]+)s stime=([\d.]+)s/.exec(stderr);
  return Number(found[1]) + Number(found[2]);
}

const YARDSTICK = 'mi_mode=mci:me_mode=bidir:mc_mode=obmc:vsbmc=1:scd=none';

/** FFmpeg's filter over the real pictures. @returns its pictures by moment, and CPU seconds for each one it made */
export function yardstick(scene, times) {
  const { width, height, reals } = scene;
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${width}x${height}`, '-r', '25', '-i', '-'];
  const run = (filter) => {
    const args = ['-nostdin', '-hide_banner', '-benchmark', '-threads', '1', '-filter_threads', '1', ...input];
    const all = [...args, '-vf', filter, '-fps_mode', 'passthrough', '-threads', '1', '-f', 'rawvideo', '-'];
    const done = spawnSync('ffmpeg', all, { input: Buffer.concat(reals), maxBuffer: 1 << 30 });
    if (done.status !== 0) throw new Error(done.stderr.toString());
    return { out: new Uint8Array(done.stdout), text: done.stderr.toString() };
  };
  const bare = run('showinfo');
  const made = run(`minterpolate=fps=${25 * times}:${YARDSTICK},showinfo`);
  const moments = [...made.text.matchAll(/pts_time:([\d.]+)/g)].map((m) => Math.round(Number(m[1]) * 25 * times) / times);
  const bytes = (width * height * 3) / 2;
  const pictures = new Map(moments.map((m, i) => [m, made.out.subarray(i * bytes, (i + 1) * bytes)]));
  const between = moments.filter((m) => !Number.isInteger(m)).length;
  return { pictures, cpu: (cpuOf(made.text) - cpuOf(bare.text)) / between };
}

/** Luma against the truth, borders and all: PSNR in dB and SSIM. */
export function likeness(picture, truth, width, height) {
  const [a, b] = [picture.subarray(0, width * height), truth.subarray(0, width * height)];
  return { psnr: psnrOf(meanSquare(a, b), 255), ssim: ssim(a, b, { width, height, most: 255 }) };
}

export function median(list) {
  const sorted = [...list].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
}
