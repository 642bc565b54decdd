/**
 * npm run bench -- alpha: whether colour beside alpha is straight or multiplied, as measured when a file is read, on kinds of pictures that the measure
 * was set by, on kinds that were looked at since, and on kinds kept out. Each is stored straight, straight with nothing under nothing, and multiplied,
 * by FFV1, ProRes 4444 and VP9. Names each that is told wrong. "unknown" counts as neither right nor wrong: it is said to be taken as straight.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-alpha-'));
const SIZE = '240x180';
const keyed = (source, alpha) =>
  `${source.replace('SIZE', `s=${SIZE}:r=25`)},trim=duration=0.4,format=gbrap,geq=r='r(X,Y)':g='g(X,Y)':b='b(X,Y)':a='clip(${alpha},0,255)'`;
const ROUND = '255*(1.5-hypot(X-90-3*N,Y-90)/44)';
const colour = (r, g, b, alpha) =>
  `color=black:s=${SIZE}:r=25,trim=duration=0.4,format=gbrap,geq=r=${r}:g=${g}:b=${b}:a='clip(${alpha},0,255)'`;

const SET_BY = {
  'card in a disc': keyed('testsrc2=SIZE', ROUND),
  'light smoke': colour(230, 225, 235, '128+100*sin(X/9)*cos(Y/7)'),
  'dark disc': colour(20, 25, 15, ROUND),
};
/** What they showed has been mended since: they are looked at. */
const LOOKED_AT = {
  glow: colour(250, 150, 40, '255*exp(-pow(hypot(X-120,Y-90)/50,2))'),
  'shades, fading to the right': keyed('gradients=SIZE:seed=4:n=4', '255*(1-X/240)'),
  'fractal keyed by itself': keyed('mandelbrot=SIZE', '(r(X,Y)+g(X,Y)+b(X,Y))*0.6'),
  'noise in a disc': keyed('nullsrc=SIZE,noise=alls=80:allf=t', ROUND),
  'thin stripes': colour(210, 60, 90, '128+127*sin(X*0.9+N)'),
  'blurred cells': keyed('life=SIZE:mold=10:ratio=0.3:seed=5:life_color=#C0A060', '255*(0.5+0.5*sin(X/13)*sin(Y/11))'),
  'dark card in a disc': keyed('testsrc2=SIZE,lutrgb=r=val*0.12:g=val*0.12:b=val*0.12', ROUND),
  'card behind glass': keyed('testsrc2=SIZE', '90+60*sin(X/20)*cos(Y/17)'),
  'faint smoke': colour(240, 240, 240, '50+45*sin(X/15+N)*cos(Y/12)'),
  'hard square': colour(200, 190, 60, '255*clip(60.5-max(abs(X-120-N),abs(Y-90)),0,1)'),
  'grey card, hard edges': keyed('testsrc=SIZE,hue=s=0', '255*clip(70.5-hypot(X-120,Y-90),0,1)'),
  'black letters': colour(2, 2, 2, '255*clip(1.5-abs(mod(X+2*N,30)-15)/3,0,1)*lt(Y,150)'),
};
/** Made last, and not looked at: what they show is told, not mended. */
const KEPT_OUT = {
  'triangles behind a soft wipe': keyed('sierpinski=SIZE:seed=7:type=triangle', '255*clip((X-60-4*N)/40,0,1)'),
  'shades round, feathered box': keyed(
    'gradients=SIZE:seed=11:type=radial',
    '255*min(clip((110-abs(X-120))/14,0,1),clip((80-abs(Y-90))/14,0,1))',
  ),
  'cells, soft holes': keyed(
    'cellauto=SIZE:rule=110,lutrgb=r=val*0.8:g=val*0.5:b=val*0.3',
    '255-160*exp(-pow(hypot(mod(X,60)-30,mod(Y,60)-30)/12,2))',
  ),
  'white letters': colour(245, 245, 245, '255*clip(1.5-abs(mod(X+2*N,26)-13)/3,0,1)*gt(Y,40)'),
  'blue lights': colour(40, 80, 240, '120*exp(-pow(hypot(X-70,Y-60)/25,2))+200*exp(-pow(hypot(X-170-2*N,Y-120)/18,2))'),
  'bars fading out': keyed('smptebars=SIZE', '255*(1-N/12)'),
  'brown shadow': colour(40, 28, 16, '160*exp(-pow(abs(Y-120)/25,2))*(0.6+0.4*sin(X/30))'),
  'grain over green, oval': keyed('color=0x306030:SIZE,noise=alls=30:allf=t', '255*(1.4-hypot((X-120)/1.6,Y-90)/50)'),
};
const WAYS = {
  straight: ['straight', ''],
  'straight over nothing': [
    'straight',
    `,geq=r='r(X,Y)*gt(alpha(X,Y),0)':g='g(X,Y)*gt(alpha(X,Y),0)':b='b(X,Y)*gt(alpha(X,Y),0)':a='alpha(X,Y)'`,
  ],
  multiplied: ['multiplied', ',premultiply=inplace=1'],
};
const CODERS = {
  FFV1: ['mkv', '-c:v', 'ffv1', '-pix_fmt', 'bgra'],
  ProRes: ['mov', '-c:v', 'prores_ks', '-profile:v', '4444', '-pix_fmt', 'yuva444p10le'],
  VP9: [
    'webm',
    '-c:v',
    'libvpx-vp9',
    '-crf',
    '30',
    '-b:v',
    '0',
    '-deadline',
    'realtime',
    '-cpu-used',
    '6',
    '-pix_fmt',
    'yuva420p',
  ],
};

for (const [title, kinds] of [
  ['set by', SET_BY],
  ['looked at', LOOKED_AT],
  ['kept out', KEPT_OUT],
]) {
  const count = { right: 0, unknown: 0, wrong: 0 };
  for (const [kind, picture] of Object.entries(kinds)) {
    for (const [way, [wanted, filter]] of Object.entries(WAYS)) {
      for (const [coder, [ending, ...args]] of Object.entries(CODERS)) {
        const path = join(folder, `clip.${ending}`);
        const run = spawnSync(
          'ffmpeg',
          ['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', `${picture}${filter}`, ...args, path],
          { encoding: 'utf8' },
        );
        if (run.status !== 0) throw new Error(`${kind}: ${run.stderr}`);
        const { alpha } = await ffmpeg.probe(path);
        const told = alpha === wanted ? 'right' : alpha === 'unknown' ? 'unknown' : 'wrong';
        count[told]++;
        if (told !== 'right') console.log(`  ${kind}, ${way}, ${coder}: ${alpha}`);
      }
    }
  }
  console.log(`${title}: ${count.right} right, ${count.unknown} unknown, ${count.wrong} wrong`);
}
rmSync(folder, { recursive: true, force: true });
