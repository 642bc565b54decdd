/**
 * npm run bench -- check-ffmpeg [--later] [--all]: how well a check finds cuts, faulty, missing and repeated pictures in FFmpeg's own test sources, which
 * are unlike the rig's scenes: fractals, test cards, cellular automata, shades, pans and shakes over them, noise. Each by H.264 and MPEG-2;
 * --later: only those that nothing was set by. --all names what is wrong.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { random } from '../packages/rig/dist/random.js';
import { runInThread } from '../packages/work/dist/index.js';
import { certaintyTable } from './checked.mjs';

const [WIDTH, HEIGHT, PICTURES, MORE] = [480, 270, 90, 12];
const [LUMA, SIZE] = [WIDTH * HEIGHT, (WIDTH * HEIGHT * 3) / 2];
const FOLDER = join('.cache', 'trials', 'ffmpeg');
const VIEW = `${WIDTH}x${HEIGHT}:r=25`;
// Zooms in no further: what moves is what is cut out of it.
const FRACTAL = 'mandelbrot=s=1600x900:r=25:end_pts=1000000000';

/** Kinds that were looked at, by the round that they came in: where each has its faults follows from its place among those of its round. */
const FIRST = {
  zoom: `mandelbrot=s=${VIEW}:start_scale=0.3:end_scale=0.01`,
  card: `testsrc2=s=${VIEW}`,
  life: 'life=s=240x135:r=25:mold=10:ratio=0.1:seed=7:death_color=#303030:life_color=#e0e0e0,scale=480:270',
  triangles: `sierpinski=s=${VIEW}:seed=3`,
  automaton: `cellauto=s=${VIEW}:rule=110:seed=5`,
  shades: `gradients=s=${VIEW}:seed=4:speed=0.05`,
  turning: "testsrc=s=800x600:r=25,rotate='0.02*n':ow=480:oh=270",
  pan: `${FRACTAL},crop=480:270:x='5*n':y='2*n'`,
  shaken: `${FRACTAL},crop=480:270:x='500+9*sin(n*1.7)+7*sin(n*0.63)':y='350+8*sin(n*1.13+1)'`,
  grain: `${FRACTAL},crop=480:270:x='3*n':y='100',noise=alls=18:allf=t`,
};
const SECOND = {
  waves: `nullsrc=s=${VIEW},geq=lum='128+60*sin(X/17+N/3)+50*sin(Y/11-N/5)':cb=128:cr=128`,
  crawl: `smptebars=s=${VIEW},scroll=horizontal=0.0125`,
  swing: `${FRACTAL},crop=960:540:300:200,rotate='0.12*sin(n/9)',crop=480:270`,
  approach: `${FRACTAL},crop=480:270:500:300,scale=w='2*trunc(240*(1+0.012*n))':h=-2:eval=frame,crop=480:270`,
  lines: `${FRACTAL},crop=480:270:x='4*n':y='100+n',edgedetect=low=0.02:high=0.06`,
  soft: `${FRACTAL},crop=480:270:x='7*n':y='200',gblur=sigma=5`,
  dusk: `${FRACTAL},crop=480:270:x='900-4*n':y='3*n',eq=contrast=0.35:brightness=-0.25,noise=alls=6:allf=t`,
  mirror: `${FRACTAL},crop=480:270:x='3*n':y='250',split[a][b];[a]crop=240:270:0:0[c];[b]crop=240:270:240:0,hflip[d];[c][d]hstack`,
  weave: `${FRACTAL},crop=480:270:x='400+1.6*n+1.2*sin(n*2.1)':y='300+1.3*sin(n*1.3)',noise=alls=10:allf=t,eq=brightness='0.012*sin(n*1.9)':eval=frame`,
  ease: `${FRACTAL},crop=480:270:x='500+300*sin(n/24)':y='300'`,
};
/** Kinds that were made after all that decides was set: a table of their own. They count as looked at when the next ones are made. */
const LATER = {
  inset: `${FRACTAL},crop=480:270:500:300[b];testsrc2=s=160x120:r=25[a];[b][a]overlay=x='20+3*n':y='60+n'`,
  smoke: `cellauto=s=${VIEW}:rule=18:seed=9,gblur=sigma=3`,
  cloud: `nullsrc=s=1000x400:r=25,geq=lum=128:cb=128:cr=128,noise=alls=100:all_seed=3,gblur=sigma=4,crop=480:270:x='4*n':y='n'`,
  rolling: `testsrc2=s=${VIEW},rotate='0.03*n'`,
  retreat: `mandelbrot=s=${VIEW}:start_scale=0.02:end_scale=1`,
  stripes: `nullsrc=s=${VIEW},geq=lum='if(lt(mod(X+5*N,60),30),190,70)+20*sin(Y/9)':cb=128:cr=128`,
  carpet: `sierpinski=s=${VIEW}:type=carpet:seed=5`,
  counter: `testsrc=s=${VIEW}`,
  half: `${FRACTAL},split[a][b];[a]crop=240:270:x='6*n':y='200'[c];[b]crop=240:270:900:300[d];[c][d]hstack`,
  heave: `${FRACTAL},crop=480:270:500:300,geq=lum='lum(X+6*sin(N/5+Y/40),Y)':cb='cb(X,Y)':cr='cr(X,Y)'`,
};
const ENCODERS = {
  h264: ['-c:v', 'libx264', '-crf', '22', '-preset', 'fast'],
  mpeg2: ['-c:v', 'mpeg2video', '-b:v', '4M', '-bf', '2'],
};

const flat = (luma) => Buffer.alloc(SIZE, 128).fill(luma, 0, LUMA);

/** Blocks of a band that come from elsewhere in the picture, as a damaged slice leaves them. */
function torn(picture, k) {
  const out = Buffer.from(picture);
  const next = random(k);
  for (let top = 96; top < 160; top += 16)
    for (let left = 0; left < WIDTH; left += 16) {
      const [x, y] = [Math.floor(next() * (WIDTH - 16)), Math.floor(next() * (HEIGHT - 16))];
      for (let j = 0; j < 16; j++) picture.copy(out, (top + j) * WIDTH + left, (y + j) * WIDTH + x, (y + j) * WIDTH + x + 16);
    }
  return out;
}

const lit = (picture) => Buffer.from(picture.map((v, i) => (i < LUMA ? Math.min(235, v * 1.3 + 35) : v)));

/** A dark bar that goes by quickly. */
function barred(picture, k) {
  const out = Buffer.from(picture);
  const left = ((k * 37) % (WIDTH + 200)) - 100;
  for (let y = 0; y < HEIGHT; y++)
    out.fill(30, y * WIDTH + Math.max(0, left), y * WIDTH + Math.max(0, Math.min(WIDTH, left + 36)));
  return out;
}

/** What is done to a source, by its pictures, those of the next source, and three places; and what is to be told of it. */
const CHANGES = {
  clean: (own) => ({ picture: own }),
  black: (own, _other, at) => ({ picture: (k) => (at.includes(k) ? flat(16) : own(k)), faults: at, kind: 'black' }),
  foreign: (own, other, at) => ({ picture: (k) => (at.includes(k) ? other(1)(k) : own(k)), faults: at, kind: 'foreign' }),
  damaged: (own, _other, at) => ({ picture: (k) => (at.includes(k) ? torn(own(k), k) : own(k)), faults: at, kind: 'damaged' }),
  swapped: (own, _other, at) => ({
    picture: (k) => own(at.includes(k) ? k + 1 : at.includes(k - 1) ? k - 1 : k),
    faults: at,
    kind: 'swapped',
  }),
  backward: (own, _other, at) => ({ picture: (k) => own(at.includes(k) ? k - 4 : k), faults: at, kind: 'backward' }),
  missing: (own, _other, at) => ({ picture: (k) => own(k + at.filter((a) => k >= a).length), jumps: at }),
  'every 2': (own) => ({ picture: (k) => own(k >> 1), rate: 12.5 }),
  'a cut every 9': (_own, other) => ({
    picture: (k) => other(3 * Math.floor(k / 9))(k),
    cuts: Array.from({ length: 9 }, (_, i) => 9 * (i + 1)),
  }),
  strobe: (own) => ({ picture: (k) => (k % 13 < 3 ? lit(own(k)) : own(k)) }),
  bar: (own) => ({ picture: (k) => barred(own(k), k) }),
};

/** Trials of sources, the foreign pictures in each being those of the next one. */
function trialsOf(sources) {
  const names = Object.keys(sources);
  const pictures = Object.fromEntries(names.map((name) => [name, rawOf(sources[name])]));
  return names.flatMap((name, n) =>
    Object.entries(CHANGES).map(([about, change], c) => {
      const next = random(100 * n + c);
      const at = [15, 40, 65].map((k) => k + Math.floor(next() * 10));
      const of = (source) => (k) => pictures[source].subarray(k * SIZE, (k + 1) * SIZE);
      const other = (steps) => of(names[(n + steps) % names.length]);
      return { name, about, cuts: [], faults: [], jumps: [], rate: 25, ...change(of(name), other, at) };
    }),
  );
}

function rawOf(source) {
  const args = ['-v', 'error', '-nostdin', '-f', 'lavfi', '-i', source, '-frames:v', String(PICTURES + MORE)];
  return spawnSync('ffmpeg', [...args, '-pix_fmt', 'yuv420p', '-f', 'rawvideo', 'pipe:1'], { maxBuffer: 2 ** 30 }).stdout;
}

async function written(trial, encoder) {
  const path = join(FOLDER, `${trial.about}-${trial.name}.${encoder}.mkv`.replaceAll(' ', '-'));
  if (existsSync(path)) return path;
  const partial = path.replace('.mkv', '.partial.mkv');
  const input = [
    '-f',
    'rawvideo',
    '-pix_fmt',
    'yuv420p',
    '-video_size',
    `${WIDTH}x${HEIGHT}`,
    '-framerate',
    '25',
    '-i',
    'pipe:0',
  ];
  const child = spawn('ffmpeg', ['-v', 'error', '-y', ...input, ...ENCODERS[encoder], '-threads', '1', `file:${partial}`]);
  const ended = new Promise((resolve) => child.once('exit', resolve));
  child.stdin.end(Buffer.concat(Array.from({ length: PICTURES }, (_, k) => trial.picture(k))));
  if ((await ended) !== 0) throw new Error(`FFmpeg did not write ${path}`);
  renameSync(partial, path);
  return path;
}

mkdirSync(FOLDER, { recursive: true });
const worker = new URL('../packages/work/dist/jobs/worker.js', import.meta.url);

async function checked(sources) {
  const queue = trialsOf(sources).flatMap((trial) => Object.keys(ENCODERS).map((encoder) => ({ trial, encoder })));
  const results = [];
  await Promise.all(
    Array.from({ length: availableParallelism() }, async () => {
      for (let task = queue.shift(); task; task = queue.shift()) {
        const path = await written(task.trial, task.encoder);
        const specification = { path, probe: await ffmpeg.probe(path) };
        const { verdict } = await runInThread(worker, { kind: 'check', specification }, { progress: () => undefined });
        results.push({ ...task, ...scored(task.trial, verdict), verdict });
      }
    }),
  );
  return results;
}

/** Of what is there what is told, and what is told that is not there. */
function scored({ cuts, faults, kind, jumps, rate }, verdict) {
  const counted = (wanted, told) => {
    const right = told.filter((one) => wanted.includes(one)).length;
    return { right, wanted: wanted.length, false: told.length - right };
  };
  const wanted = faults.map((k) => `${k} ${kind}`);
  return {
    cuts: counted(cuts, verdict.cuts),
    faults: counted(
      wanted,
      verdict.faults.map((f) => `${f.picture} ${f.kind}`),
    ),
    jumps: counted(jumps, verdict.jumps),
    rate: Math.abs(verdict.trueRate / rate - 1) < 0.005,
    held: rate === 25 ? verdict.held.length : 0,
  };
}

function row(title, rows) {
  const found = (what) => {
    const sum = (key) => rows.reduce((all, r) => all + r[what][key], 0);
    const [right, wanted, wrong] = ['right', 'wanted', 'false'].map(sum);
    return wanted + wrong === 0 ? '' : `${right}/${wanted}${wrong > 0 ? ` +${wrong}` : ''}`;
  };
  const rates = `${rows.filter((r) => r.rate).length}/${rows.length}`;
  return `| ${[title, rows.length, found('cuts'), found('faults'), found('jumps'), rates, rows.reduce((n, r) => n + r.held, 0)].join(' | ')} |`;
}

const HEADS = ['clips', 'clips', 'cuts', 'faults', 'missing pictures', 'rate right', 'held that are not'];

/** What was found, by what was done to the sources and by source. */
function tables(results) {
  const out = [`| ${HEADS.join(' | ')} |`, `| ${HEADS.map(() => '---').join(' | ')} |`];
  const rowsOf = (key) =>
    [...new Set(results.map((r) => r.trial[key]))].map((value) =>
      row(
        value,
        results.filter((r) => r.trial[key] === value),
      ),
    );
  const faults = results.flatMap(({ trial, verdict }) =>
    verdict.faults.map((f) => ({ certainty: f.certainty, right: f.kind === trial.kind && trial.faults.includes(f.picture) })),
  );
  return [...out, ...rowsOf('about'), ...rowsOf('name'), row('all', results), certaintyTable(faults)].join('\n');
}

function listed(results) {
  for (const { trial, encoder, cuts, faults, jumps, rate, held, verdict } of results) {
    if ([cuts, faults, jumps].every((c) => c.right === c.wanted && c.false === 0) && rate && held === 0) continue;
    const told = verdict.faults.map((f) => `${f.picture} ${f.kind}`).join(', ');
    process.stdout.write(
      `${trial.about}, ${trial.name} (${encoder}): cuts ${verdict.cuts}; faults ${told}; jumps ${verdict.jumps}; held ${verdict.held}; ${verdict.kind} ${verdict.trueRate.toFixed(2)}; wanted cuts ${trial.cuts}, ${trial.kind ?? ''} ${trial.faults}, jumps ${trial.jumps}\n`,
    );
  }
}

for (const [title, ...rounds] of [
  ['Kinds that were looked at', FIRST, SECOND],
  ['Kinds that were not', LATER],
]) {
  if (process.argv.includes('--later') && !rounds.includes(LATER)) continue;
  const results = [];
  for (const sources of rounds) results.push(...(await checked(sources)));
  process.stdout.write(`${title}\n\n${tables(results)}\n\n`);
  if (process.argv.includes('--all')) listed(results);
}
