/**
 * npm run bench -- pulldown [SEED] [--only=NAME] [--all]: film whose pictures were spread over fields, put together again, beside FFmpeg's own
 * fieldmatch and decimate in the same run. Scenes are the rig's; each is spread by 2:3, clean, under noise, coded as fields (H.264, MPEG-2), and with its
 * beat broken by frames left out; FFmpeg's filters are given the order that is true. A picture is back where it is as near to the film's own as the
 * coder left its fields, within a tenth of the error and one squared step; each picture of film counts once. Clips are kept in .cache/pulldown.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpeg, probeWithFields } from '../packages/media/dist/index.js';
import { hasFilm, runsFor } from '../packages/project/dist/index.js';
import { normal, pulldownScenes, random, woven } from '../packages/rig/dist/index.js';
import { measureFields } from '../packages/work/dist/index.js';

const asked = process.argv.slice(2);
const seed = Number(asked.find((a) => /^\d+$/.test(a)) ?? 101);
const only = asked.find((a) => a.startsWith('--only='))?.split('=')[1] ?? '';
const [WIDTH, HEIGHT, FILM] = [320, 240, 96];
const LUMA = WIDTH * HEIGHT;
const BYTES = (LUMA * 3) / 2;
const folder = join('.cache', 'pulldown');
mkdirSync(folder, { recursive: true });

const ILACE = ['-flags', '+ilme+ildct'];
const CODERS = {
  clean: { ending: 'mkv', args: ['-c:v', 'ffv1'], noise: 0 },
  noisy: { ending: 'mkv', args: ['-c:v', 'ffv1'], noise: 3 },
  h264: { ending: 'mp4', args: ['-c:v', 'libx264', '-crf', '21', ...ILACE, '-x264-params', 'tff=1'], noise: 0.5 },
  mpeg2: { ending: 'mpg', args: ['-c:v', 'mpeg2video', '-b:v', '5M', '-bf', '2', ...ILACE, '-top', '1'], noise: 0.5 },
  broken: { ending: 'mp4', args: ['-c:v', 'libx264', '-crf', '18', ...ILACE, '-x264-params', 'tff=1'], noise: 0.5 },
};
/** Stored frames left out of the broken ones: edits made after the film was spread. */
const CUTS = [
  [23, 25],
  [52, 53],
  [81, 84],
];

function noisy(picture, sigma, next) {
  if (sigma === 0) return picture;
  const out = picture.slice();
  for (let i = 0; i < LUMA; i++) out[i] = Math.max(0, Math.min(255, Math.round(out[i] + normal(next) * sigma)));
  return out;
}

/** Which picture of film each field shows, by stored frame; after the cuts where the beat is broken. */
function spread(broken) {
  const fields = [];
  for (let picture = 0; picture < FILM; picture++) for (let i = 0; i < (picture % 2 === 0 ? 2 : 3); i++) fields.push(picture);
  const frames = Array.from({ length: fields.length >> 1 }, (_, n) => [fields[2 * n], fields[2 * n + 1]]);
  return broken ? frames.filter((_, n) => !CUTS.some(([from, to]) => n >= from && n < to)) : frames;
}

function clipOf(scene, name, coder, broken) {
  const stem = join(folder, `${seed}-${scene.name.replaceAll(/[ ,]+/g, '-')}-${name}`);
  const [path, raw] = [`${stem}.${coder.ending}`, `${stem}.film`];
  const frames = spread(broken);
  if (!existsSync(path)) {
    const next = random(seed + 5);
    const film = Array.from({ length: FILM }, (_, k) => noisy(scene.picture(k, WIDTH, HEIGHT), coder.noise, next));
    writeFileSync(raw, Buffer.concat(film));
    const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${WIDTH}x${HEIGHT}`, '-r', '30000/1001', '-i', '-'];
    const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, ...coder.args, path], {
      input: Buffer.concat(frames.map(([a, b]) => woven(film[a], film[b], WIDTH, HEIGHT))),
    });
    if (made.status !== 0) throw new Error(made.stderr.toString());
  }
  const all = new Uint8Array(readFileSync(raw));
  return { path, frames, film: Array.from({ length: FILM }, (_, k) => all.subarray(k * BYTES, (k + 1) * BYTES)) };
}

const error = (a, b) => {
  let sum = 0;
  for (let i = 0; i < LUMA; i++) sum += (a[i] - b[i]) ** 2;
  return sum / LUMA;
};

/** Film pictures that came back, each once, and how many pictures there are. */
function scored(pictures, { film, frames }, stored) {
  // What the coder did to a picture's own fields: the mean over all that it has.
  const loss = new Map();
  frames.forEach(([a, b], n) => {
    for (const [parity, k] of [
      [0, a],
      [1, b],
    ]) {
      let sum = 0;
      for (let y = parity; y < HEIGHT; y += 2)
        for (let x = 0; x < WIDTH; x++) sum += (stored[n][y * WIDTH + x] - film[k][y * WIDTH + x]) ** 2;
      const known = loss.get(k) ?? { worst: 0, parities: new Set() };
      loss.set(k, { worst: Math.max(known.worst, sum / (LUMA / 2)), parities: known.parities.add(parity) });
    }
  });
  const whole = [...loss].filter(([, { parities }]) => parities.size === 2).map(([k]) => k);
  const back = new Set();
  let doubled = 0;
  let at = 0;
  for (const picture of pictures) {
    let best = -1;
    let least = Number.POSITIVE_INFINITY;
    for (let k = Math.max(0, at - 4); k < Math.min(FILM, at + 12); k++) {
      const off = error(picture, film[k]);
      if (off < least) [best, least] = [k, off];
    }
    at = Math.max(at, best);
    if (least > (loss.get(best)?.worst ?? 0) * 1.1 + 1) continue;
    if (back.has(best)) doubled++;
    back.add(best);
  }
  return { share: whole.filter((k) => back.has(k)).length / whole.length, whole: whole.length, count: pictures.length, doubled };
}

async function read(path, probe) {
  const found = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p' })) found.push(picture.slice());
  return found;
}

function theirs(path) {
  const args = [
    '-nostdin',
    '-v',
    'error',
    '-i',
    path,
    '-vf',
    'fieldmatch=order=tff:combmatch=full,decimate',
    '-fps_mode',
    'passthrough',
  ];
  const done = spawnSync('ffmpeg', [...args, '-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-'], { maxBuffer: 1 << 30 });
  const all = new Uint8Array(done.stdout);
  return Array.from({ length: all.length / BYTES }, (_, k) => all.subarray(k * BYTES, (k + 1) * BYTES));
}

const rows = [];
process.stdout.write(
  `seed ${seed}\nclip                              ours back  count  doubled   theirs back  count  doubled   whole\n`,
);
for (const scene of pulldownScenes(seed).filter((s) => s.name.includes(only)))
  for (const [name, coder] of Object.entries(CODERS)) {
    const clip = clipOf(scene, name, coder, name === 'broken');
    const stored = await ffmpeg.probe(clip.path);
    const finding = await measureFields({ media: ffmpeg, progress: () => undefined }, { path: clip.path, probe: stored });
    const runs = runsFor({ frames: stored.pictures, flag: stored.fields, finding }, { way: 'film', order: 'measured' });
    const ours = scored(await read(clip.path, probeWithFields(stored, runs)), clip, await read(clip.path, stored));
    const other = scored(theirs(clip.path), clip, await read(clip.path, stored));
    const found = hasFilm(finding) && finding.first === 'top';
    rows.push({ scene, name, ours, other, found });
    const cells = [ours, other].map(
      (s) => `${(s.share * 100).toFixed(1).padStart(7)}  ${String(s.count).padStart(5)}  ${String(s.doubled).padStart(5)}`,
    );
    process.stdout.write(
      `${`${scene.name}${scene.keptOut ? ' *' : ''}, ${name}`.padEnd(34)} ${cells.join('      ')}    ${ours.whole}${found ? '' : '  not found'}\n`,
    );
    if (asked.includes('--all') && ours.share < other.share)
      process.stdout.write(
        `  ${JSON.stringify(finding.stretches.map((s) => [s.from, s.to, s.kind, s.first]))} ${JSON.stringify(runs.map((r) => [r.from, r.to, r.way, r.passed]))}\n`,
      );
  }
for (const keptOut of [false, true]) {
  const some = rows.filter((r) => r.scene.keptOut === keptOut);
  if (some.length === 0) continue;
  const mean = (of) => ((100 * some.reduce((sum, r) => sum + of(r), 0)) / some.length).toFixed(2);
  process.stdout.write(
    `${keptOut ? '* kept out of tuning' : 'tuned on'}: back ${mean((r) => r.ours.share)} %, theirs ${mean((r) => r.other.share)} %; as many or more on ${some.filter((r) => r.ours.share >= r.other.share).length} of ${some.length} clips; found with its order on ${some.filter((r) => r.found).length}\n`,
  );
}
