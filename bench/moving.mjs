/**
 * What the benches of made pictures share: scenes of the rig with their truths, kept in .cache/moving, FFmpeg's own
 * motion-compensated interpolation over the same pictures, and measures of likeness. Not a bench itself.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Filmed, movingScenes } from '@thawline/rig';

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

/** PSNR of luma in dB; borders count. */
export function psnr(a, b, samples) {
  let sum = 0;
  for (let i = 0; i < samples; i++) sum += (a[i] - b[i]) ** 2;
  return sum === 0 ? 99 : 10 * Math.log10((255 * 255 * samples) / sum);
}

/** SSIM of luma (Wang and others 2004) over blocks of 8x8 at every fourth place, mean. */
export function ssim(a, b, width, height) {
  let total = 0;
  let count = 0;
  for (let y = 0; y + 8 <= height; y += 4) {
    for (let x = 0; x + 8 <= width; x += 4) {
      let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
      for (let j = 0; j < 8; j++) {
        for (let i = 0, at = (y + j) * width + x; i < 8; i++, at++) {
          const [p, q] = [a[at], b[at]];
          sa += p;
          sb += q;
          saa += p * p;
          sbb += q * q;
          sab += p * q;
        }
      }
      const [ma, mb] = [sa / 64, sb / 64];
      const [va, vb, cov] = [saa / 64 - ma * ma, sbb / 64 - mb * mb, sab / 64 - ma * mb];
      total += ((2 * ma * mb + 6.5025) * (2 * cov + 58.5225)) / ((ma * ma + mb * mb + 6.5025) * (va + vb + 58.5225));
      count++;
    }
  }
  return total / count;
}

export function median(list) {
  const sorted = [...list].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
}
