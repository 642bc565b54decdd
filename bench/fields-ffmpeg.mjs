/**
 * npm run bench -- fields-ffmpeg [--only=NAME]: what a check says of fields woven of FFmpeg's own test sources, which are unlike the rig's scenes:
 * of either order, flagged the other way round, after a still of two seconds, whole, and film by 2:3 of either order; 720x576, through H.264 at
 * crf 23 and MPEG-2 at 8 Mbit/s, those made last at 50 Mbit/s, too. Names each clip of which kind or order is wrong, with all that was told of it. Clips are kept in .cache/trials.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { basename, join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { measureFields } from '../packages/work/dist/index.js';

const only = process.argv.find((a) => a.startsWith('--only='))?.split('=')[1] ?? '';
const FOLDER = join('.cache', 'trials', 'fields-ffmpeg');
const [SIZE, SECONDS] = ['720x576', 4];
const FILM = '24000/1001';

const SOURCES = {
  card: (r) => `testsrc2=s=${SIZE}:r=${r}:d=${SECONDS}`,
  fractal: (r) => `mandelbrot=s=${SIZE}:r=${r}:end_scale=0.2:end_pts=400,trim=duration=${SECONDS}`,
  scrolling: (r) => `smptehdbars=s=${SIZE}:r=${r}:d=${SECONDS},scroll=horizontal=0.004:vertical=0.0016`,
  'scrolling slowly': (r) => `smptehdbars=s=${SIZE}:r=${r}:d=${SECONDS},scroll=horizontal=0.0008`,
  'scrolling down': (r) => `testsrc=s=${SIZE}:r=${r}:d=${SECONDS},scroll=vertical=0.003`,
  shades: (r) => `gradients=s=${SIZE}:r=${r}:d=${SECONDS}:speed=0.02:n=6:seed=4`,
  'card in noise': (r) => `testsrc2=s=${SIZE}:r=${r}:d=${SECONDS},noise=alls=18:allf=t`,
  turning: (r) => `testsrc2=s=${SIZE}:r=${r}:d=${SECONDS},rotate=a=t*0.5`,
};
/** Made last. What they showed has been mended since, so that they are looked at as well: for a first sight, make others. */
const LATER = {
  'inset moves': (r) =>
    `pal100bars=s=${SIZE}:r=${r}:d=${SECONDS}[b];testsrc2=s=160x120:r=${r}:d=${SECONDS}[o];[b][o]overlay=x=100+60*t:y=200+80*sin(2*t)`,
  'inset creeps': (r) =>
    `smptehdbars=s=${SIZE}:r=${r}:d=${SECONDS}[b];testsrc=s=192x144:r=${r}:d=${SECONDS}[o];[b][o]overlay=x=300+12*t:y=180`,
  triangle: (r) => `sierpinski=s=${SIZE}:r=${r}:seed=7:jump=60:type=triangle,trim=duration=${SECONDS}`,
  carpet: (r) => `sierpinski=s=${SIZE}:r=${r}:seed=3:jump=40,trim=duration=${SECONDS}`,
  life: (r) =>
    `life=s=180x144:r=${r}:mold=10:ratio=0.2:seed=9:life_color=#C83232,scale=${SIZE}:flags=neighbor,trim=duration=${SECONDS}`,
  'card at night': (r) => `testsrc2=s=${SIZE}:r=${r}:d=${SECONDS},lutyuv=y=16+(val-16)*0.12,noise=c0s=7:c0f=t`,
  'shades round': (r) => `gradients=s=${SIZE}:r=${r}:d=${SECONDS}:speed=0.03:n=4:seed=11:type=radial`,
  'fractal in grain': (r) =>
    `mandelbrot=s=${SIZE}:r=${r}:end_scale=0.1:end_pts=300,trim=duration=${SECONDS},noise=alls=25:allf=t+u`,
  'rolling card': (r) => `testsrc=s=${SIZE}:r=${r}:d=${SECONDS},rotate=a=0.2*sin(3*t):c=gray`,
};
const woven = (first) => `tinterlace=interleave_${first},setfield=${first === 'top' ? 'tff' : 'bff'}`;
const WAYS = {
  top: { rate: 50, filter: woven('top'), kind: 'interlaced', first: 'top' },
  bottom: { rate: 50, filter: woven('bottom'), kind: 'interlaced', first: 'bottom' },
  'top, flagged bottom': { rate: 50, filter: `${woven('top')},setfield=bff`, kind: 'interlaced', first: 'top' },
  'still, then top': {
    rate: 50,
    filter: `tpad=start_duration=2:start_mode=clone,${woven('top')}`,
    kind: 'interlaced',
    first: 'top',
  },
  whole: { rate: 25, filter: 'setfield=prog', kind: 'none', first: null },
  film: { rate: FILM, filter: 'telecine=first_field=top:pattern=23,setfield=tff', kind: 'pulldown', first: 'top' },
  'film, bottom': {
    rate: FILM,
    filter: 'telecine=first_field=bottom:pattern=23,setfield=bff',
    kind: 'pulldown',
    first: 'bottom',
  },
};
const CODERS = {
  h264: { ending: 'mp4', args: ['-c:v', 'libx264', '-crf', '23'] },
  // Of the highest rate that it is used at for delivery.
  'mpeg2-50': {
    ending: 'mpg',
    args: ['-c:v', 'mpeg2video', '-b:v', '50M', '-maxrate', '50M', '-bufsize', '6M', '-qmin', '1'],
    later: true,
  },
  mpeg2: { ending: 'mpg', args: ['-c:v', 'mpeg2video', '-b:v', '8M', '-maxrate', '9M', '-bufsize', '2M'] },
};

function made(path, graph, args) {
  if (existsSync(path)) return;
  mkdirSync(FOLDER, { recursive: true });
  const part = join(FOLDER, `part-${basename(path)}`);
  const all = ['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', graph, '-pix_fmt', 'yuv420p', ...args, part];
  const { status, stderr } = spawnSync('ffmpeg', all, { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
  renameSync(part, path);
}

for (const [set, sources] of Object.entries({ 'looked at': SOURCES, 'made last': LATER })) {
  const right = { clips: 0, kind: 0, order: 0 };
  for (const [name, source] of Object.entries(sources).filter(([n]) => n.includes(only)))
    for (const [way, { rate, filter, kind, first }] of Object.entries(WAYS))
      for (const [coder, { ending, args, later }] of Object.entries(CODERS)) {
        if (later && sources !== LATER) continue;
        const path = join(FOLDER, `${name}-${way}-${coder}.${ending}`.replaceAll(/[ ,]+/g, '-'));
        made(path, `${source(rate)},${filter}`, way === 'whole' ? args : [...args, '-flags', '+ilme+ildct']);
        const found = await measureFields(
          { media: ffmpeg, progress: () => undefined },
          { path, probe: await ffmpeg.probe(path) },
        );
        const [isKind, isOrder] = [found.kind === kind, found.first === first];
        right.clips++;
        right.kind += isKind ? 1 : 0;
        right.order += isOrder ? 1 : 0;
        if (isKind && isOrder) continue;
        const told = found.stretches
          .map((s) => `${s.from}-${s.to} ${s.kind} ${s.first ?? ''} ${s.certainty.toFixed(3)}`)
          .join(', ');
        process.stdout.write(`${name}, ${way}, ${coder}: ${told}\n`);
      }
  process.stdout.write(`${set}: ${right.clips} clips, kind right on ${right.kind}, order on ${right.order}\n`);
}
