/**
 * Random edits for benches: material of many kinds as FFmpeg's generators make it, clips of every fit, speed, curve and shutter, placed
 * timelines, forms, sizes and rates. The same seed and number give the same edit.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { rate } from '../packages/core/dist/time/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { emptyProject, formSchema, plainClip, renderedAt } from '../packages/project/dist/index.js';
import { sourceFromProbe } from '../packages/work/dist/index.js';

const kept = '.cache/bench-edits';
mkdirSync(kept, { recursive: true });

/** Numbers that look drawn by chance and are the same each time. */
export function chanceFrom(start) {
  let state = (start * 2_654_435_761 + 12_345) >>> 0;
  const next = () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
  for (let i = 0; i < 8; i++) next();
  return { below: (n) => Math.floor(next() * n), pick: (list) => list[Math.floor(next() * list.length)] };
}

const RATES = [rate(24), rate(25), rate(30), rate(50), rate(24000, 1001), rate(30000, 1001), rate(60000, 1001), rate(12)];
const SIZES = [
  [320, 180],
  [426, 240],
  [640, 360],
  [480, 360],
  [360, 640],
];
const SECONDS = 4;
/** Sources of longer edits. */
const LONG_SECONDS = 20;

/** What is filmed, as FFmpeg's generators make it: a filter graph for a size, a rate and a length in seconds. */
const MATERIALS = {
  chart: (s, r, d) => `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=8:allf=t`,
  zoom: (s, r, d) => `mandelbrot=s=${s}:r=${r}:end_pts=200,trim=duration=${d},noise=alls=4:allf=t`,
  // A texture that passes by slowly, with a camera's noise.
  pan: (s, r, d) =>
    `cellauto=s=${s}:r=${r}:rule=110:seed=5:full=1,trim=duration=${d},gblur=sigma=3,scroll=horizontal=0.004,noise=alls=6:allf=t`,
  // A white square of 12 samples on black.
  dot: (s, r, d) => `color=black:s=${s}:r=${r}:d=${d}[b];color=white:s=12x12:r=${r}:d=${d}[w];[b][w]overlay=x='20+4*n':y='30+n'`,
  // A dot of a few samples on grey, slowly.
  speck: (s, r, d) => `color=gray:s=${s}:r=${r}:d=${d}[b];color=white:s=4x4:r=${r}:d=${d}[w];[b][w]overlay=x='20+2*n':y='40'`,
  lines: (s, r, d) => `color=0x808080:s=${s}:r=${r}:d=${d},geq=lum='128+90*gt(mod(X+3*N,40),37)':cb=128:cr=128`,
  // Every seventh picture is nearly white.
  flashes: (s, r, d) =>
    `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=8:allf=t,geq=lum='if(eq(mod(N,7),3),220+lum(X,Y)/8,lum(X,Y))':cb='cb(X,Y)':cr='cr(X,Y)'`,
  fades: (s, r, d) => `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=4:allf=t,fade=t=in:d=1.2,fade=t=out:st=${d - 1.5}:d=1.2`,
  // A stretch of black, and one that stands.
  black: (s, r, d) =>
    `testsrc2=s=${s}:r=${r}:d=${d},geq=lum='if(between(T,1,1.6),16,lum(X,Y))':cb='if(between(T,1,1.6),128,cb(X,Y))':cr='if(between(T,1,1.6),128,cr(X,Y))',loop=loop=12:size=1:start=45`,
  cuts: (s, r, d) =>
    `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=6:allf=t,geq=lum='if(mod(floor(N/9),2),255-lum(X,Y),lum(X,Y))':cb='cb(X,Y)':cr='cr(X,Y)'`,
  grain: (s, r, d) => `color=0x707070:s=${s}:r=${r}:d=${d},noise=alls=40:allf=t,gblur=sigma=1`,
  screen: (s, r, d) =>
    `color=white:s=${s}:r=${r}:d=${d},drawgrid=w=40:h=24:c=gray[b];color=black:s=14x18:r=${r}:d=${d}[w];[b][w]overlay=x='mod(floor(n/8)*26,W)':y=60`,
  life: (s, r, d) => `life=s=${s}:r=${r}:mold=8:seed=3:ratio=0.1:death_color=0x404040:life_color=white,trim=duration=${d}`,
};
const INTERLACED = 'tinterlace=mode=interleave_top,fieldorder=tff';

function run(args) {
  const { status, stderr } = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
}

/** A source of a material as a camera's file; made once. */
function sourceOf(material, [width, height], at, interlaced, codec, seconds) {
  const name = `${material}-${width}x${height}-${at.num}-${at.den}${interlaced ? '-i' : ''}-${codec}-${seconds}`;
  const path = join(kept, `${name}.${codec === 'ffv1' ? 'mkv' : 'mp4'}`);
  if (existsSync(path)) return path;
  const graph = MATERIALS[material](`${width}x${height}`, `${at.num * (interlaced ? 2 : 1)}/${at.den}`, seconds);
  const coded = codec === 'ffv1' ? ['-c:v', 'ffv1'] : ['-c:v', 'libx264', '-preset', 'fast', '-crf', '20'];
  const sound = ['-f', 'lavfi', '-i', `anoisesrc=d=${seconds}:a=0.2:seed=4,afade=t=in:d=0.5`];
  run([
    ...['-f', 'lavfi', '-i', `${graph}${interlaced ? `,${INTERLACED}` : ''},format=yuv420p`, ...sound],
    ...['-t', String(seconds), '-pix_fmt', 'yuv420p', ...coded, ...(interlaced ? ['-flags', '+ilme+ildct'] : [])],
    ...['-c:a', codec === 'ffv1' ? 'flac' : 'aac', `${path}.unfinished.${codec === 'ffv1' ? 'mkv' : 'mp4'}`],
  ]);
  renameSync(`${path}.unfinished.${codec === 'ffv1' ? 'mkv' : 'mp4'}`, path);
  return path;
}

const FORMS = [
  { kind: 'mp4' },
  { kind: 'mp4' },
  { kind: 'mp4', depth: 10 },
  { kind: 'mp4', quality: 30 },
  { kind: 'webm' },
  { kind: 'webm', codec: 'av1' },
  { kind: 'mkv' },
  { kind: 'mkv', depth: 10 },
  { kind: 'y4m' },
  { kind: 'png' },
];

/**
 * A timeline of a few clips, each edited in some way; sometimes placed in another, sometimes rendered at another rate.
 * @param longer clips are so many times as long
 */
export async function editOf(seed, number, { longer = 1, most = 70 } = {}) {
  const { below, pick } = chanceFrom(seed * 1000 + number);
  const materials = Object.keys(MATERIALS);
  const at = pick(RATES);
  const [width, height] = pick(SIZES);
  const files = {};
  const sources = [];
  const notes = [];
  for (let i = 0; i < 2; i++) {
    const material = i === 0 ? materials[number % materials.length] : pick(materials);
    const size = below(3) === 0 ? pick(SIZES) : [width, height];
    const own = pick(RATES);
    const interlaced = below(6) === 0;
    const path = sourceOf(material, size, own, interlaced, pick(['h264', 'ffv1']), longer > 1 ? LONG_SECONDS : SECONDS);
    const probe = await ffmpeg.probe(path);
    const id = `s${i}`;
    sources.push(sourceFromProbe(probe, { id, mediaId: id, name: material }));
    files[id] = { path, probe, identity: path };
    notes.push(`${material}${interlaced ? ' interlaced' : ''} ${size.join('x')} at ${own.num}/${own.den}`);
  }
  const lanes = [
    { id: 'p', kind: 'picture', name: 'P', kept: null },
    { id: 'q', kind: 'sound', name: 'S', kept: null },
  ];
  const empty = {
    id: 't',
    name: 'T',
    rate: at,
    width,
    height,
    startFrame: 0,
    dropFrame: false,
    lanes,
    marks: [],
    range: null,
    kept: null,
  };
  let start = below(3);
  const clips = [];
  for (let i = 0; i < 3; i++) {
    const source = sources[below(2)];
    const fit = pick(['nearest', 'blend', 'motion', 'motion', 'pictures', 'freeze']);
    const length = (10 + below(16)) * longer;
    const curve =
      fit !== 'pictures' && fit !== 'freeze' && below(3) === 0
        ? [
            { frame: 0, picture: below(20), way: pick(['even', 'held', 'eased']) },
            { frame: 6 + below(10), picture: below(40), way: 'even' },
          ]
        : null;
    const clip = {
      ...plainClip(source.id),
      id: `c${i}`,
      laneId: 'p',
      start,
      length,
      fit,
      curve,
      inPicture: below(30),
      speed: pick([rate(1), rate(1), rate(1, 2), rate(1, 4), rate(2), rate(1001, 1000)]),
      shutter: below(5) === 0 ? pick([90, 180, 360]) : 0,
      framing: pick(['inside', 'fill', 'as-is']),
      mix: pick(['stored', 'light']),
      ...(i > 0 && below(4) === 0 ? { dissolve: { before: below(6), after: 1 + below(6) } } : {}),
    };
    clips.push(clip);
    if (below(2)) clips.push({ ...clip, id: `d${i}`, laneId: 'q', curve: null, shutter: 0, fit: 'nearest' });
    notes.push(
      `${source.name} ${fit}${curve ? ' curve' : ''}${clip.shutter ? ` ${clip.shutter}\u00b0` : ''}${clip.dissolve ? ' dissolve' : ''}`,
    );
    start += length + (below(4) === 0 ? 3 : 0);
  }
  let timeline = { ...empty, clips };
  const timelines = [timeline];
  if (below(6) === 0) {
    const outer = { ...empty, id: 'o', rate: pick(RATES) };
    const nested = {
      ...plainClip('t'),
      id: 'n',
      laneId: 'p',
      start: 0,
      length: 40 * longer,
      fit: pick(['nearest', 'blend', 'motion']),
    };
    timeline = { ...outer, clips: [nested] };
    timelines.push(timeline);
    notes.push(`placed, ${nested.fit}`);
  }
  const form = formSchema.parse({
    ...pick(FORMS),
    sound: clips.some((c) => c.laneId === 'q') ? 'stereo' : 'off',
    rate: below(6) === 0 ? pick(RATES) : null,
    way: pick(['nearest', 'blend', 'motion']),
  });
  const project = { ...emptyProject('Bench'), sources, timelines };
  const rendered = renderedAt(project, timeline, form);
  const to = Math.min(rendered.range.to, rendered.range.from + most);
  const input = { ...rendered, files, range: { from: rendered.range.from, to } };
  notes.push(`in ${at.num}/${at.den} ${width}x${height}`, JSON.stringify({ ...pickForm(form) }));
  return { input, form, notes: notes.join('; '), chance: { below, pick } };
}

const pickForm = ({ kind, codec, quality, depth, rate: r, way }) => ({
  kind,
  codec,
  quality,
  depth,
  ...(r ? { rate: `${r.num}/${r.den}`, way } : {}),
});
