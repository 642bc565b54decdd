/**
 * npm run bench -- motion [SEED] [--size=720p|1080p] [--times=2|4] [--only=NAME]: pictures made between real ones, over the rig's moving
 * scenes, beside FFmpeg's own motion-compensated interpolation filter and beside a blend, in the same run. PSNR and SSIM of
 * luma against the truth, borders and all, mean over the scene; CPU time of one thread for each made picture, reading not
 * counted; rank correlation of the certainty with the PSNR over all made pictures. Scenes are kept in .cache/moving.
 *
 * "mean" is what the mean of two exactly moved pictures would have, of the scene's noise and rounded to 8 bits. Where the filter
 * is nearer to it than WANTED, moving two pictures does not gain WANTED over it, only smoothing their noise would: the median is told
 * with and without such scenes.
 */
import { KernelMotion } from '../packages/core/dist/motion/index.js';
import { mix8, pixelLayout, psnrOf } from '../packages/core/dist/picture/index.js';
import { likeness, median, REALS, scenes, yardstick } from './moving.mjs';
import { rankCorrelation } from './ranks.mjs';

const asked = process.argv.slice(2);
const option = (name, otherwise) => asked.find((a) => a.startsWith(`--${name}=`))?.split('=')[1] ?? otherwise;
const seed = Number(asked.find((a) => /^\d+$/.test(a)) ?? 101);
const size = option('size', '720p');
const times = Number(option('times', '2'));
const layout = pixelLayout('yuv420p');
const mean = (list) => list.reduce((a, b) => a + b, 0) / list.length;
const cpu = () => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};

/** Gain over the filter that is wanted, in dB. */
const WANTED = 6;

/** PSNR of the mean of two pictures whose samples differ from the truth by noise and by rounding, rounded itself. */
function meanOfTwo(sigma) {
  const rounding = 1 / 12;
  return psnrOf((sigma ** 2 + rounding) / 2 + rounding, 255);
}

const rows = [];
const sure = [];
process.stdout.write(`seed ${seed}, ${size}, x${times}\n`);
process.stdout.write(
  'scene                     ours dB  SSIM    filter dB SSIM    blend dB  mean dB   gain   certain  CPU s   filter CPU s\n',
);
for (const scene of scenes(seed, size, option('only', ''))) {
  const { width, height, reals, truths, name } = scene;
  const n = width * height;
  const filter = yardstick(scene, times);
  const engine = new KernelMotion(layout, width, height);
  const out = new Uint8Array((n * 3) / 2);
  const mix = new Uint8Array((n * 3) / 2);
  const got = { ours: [], oursSsim: [], filter: [], filterSsim: [], blend: [], certain: [], seconds: [] };
  const shares = Array.from({ length: times - 1 }, (_, q) => (q + 1) / times);
  engine.push(reals[1]);
  for (let k = 1; k < REALS - 2; k++) {
    engine.push(reals[k + 1]);
    for (const t of shares) {
      const truth = truths.get(k + t);
      const { certainty } = engine.make(t, out);
      const ours = likeness(out, truth, width, height);
      got.ours.push(ours.psnr);
      got.oursSsim.push(ours.ssim);
      got.certain.push(certainty);
      sure.push([certainty, ours.psnr]);
      const theirs = likeness(filter.pictures.get(k + t), truth, width, height);
      got.filter.push(theirs.psnr);
      got.filterSsim.push(theirs.ssim);
      mix8(reals[k], reals[k + 1], t * 256, mix);
      got.blend.push(likeness(mix, truth, width, height).psnr);
    }
  }
  // Timed apart: a picture in, all of those between out.
  for (let round = 0; round < 9; round++) {
    const at = cpu();
    engine.push(reals[1 + (round % 4)]);
    for (const t of shares) engine.make(t, out);
    got.seconds.push((cpu() - at) / shares.length);
  }
  const row = { name, mean: meanOfTwo(scene.noise), seconds: median(got.seconds), filterSeconds: filter.cpu };
  for (const key of ['ours', 'oursSsim', 'filter', 'filterSsim', 'blend', 'certain']) row[key] = mean(got[key]);
  rows.push(row);
  const cells = [row.ours.toFixed(2).padStart(7), row.oursSsim.toFixed(4), row.filter.toFixed(2).padStart(9)];
  cells.push(
    row.filterSsim.toFixed(4),
    row.blend.toFixed(2).padStart(8),
    row.mean.toFixed(2).padStart(7),
    (row.ours - row.filter).toFixed(2).padStart(6),
  );
  cells.push(row.certain.toFixed(3).padStart(8), row.seconds.toFixed(3), row.filterSeconds.toFixed(2).padStart(8));
  process.stdout.write(`${name.padEnd(25)} ${cells.join('  ')}\n`);
}
const gains = rows.map((r) => r.ours - r.filter);
const least = rows[gains.indexOf(Math.min(...gains))];
process.stdout.write(`median gain ${median(gains).toFixed(2)} dB, least ${Math.min(...gains).toFixed(2)} dB (${least.name})\n`);
const open = rows.filter((r) => r.mean - r.filter >= WANTED);
process.stdout.write(
  `median gain ${median(open.map((r) => r.ours - r.filter)).toFixed(2)} dB over the ${open.length} scenes where ${WANTED} dB are to be had\n`,
);
process.stdout.write(
  `below blend: ${
    rows
      .filter((r) => r.ours < r.blend)
      .map((r) => r.name)
      .join(', ') || 'none'
  }\n`,
);
process.stdout.write(`rank correlation of certainty and PSNR ${rankCorrelation(sure).toFixed(3)}\n`);
const ratio = median(rows.map((r) => r.seconds / r.filterSeconds));
process.stdout.write(`CPU for each made picture: ${ratio.toFixed(3)} of the filter's (median over scenes)\n`);
