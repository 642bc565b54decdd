/**
 * npm run bench -- receipts [EDITS [SEED]]: random edits of every fit, form, size and material, each rendered and measured (nothing may be
 * objected to), then written once more with a fault planted (which has to be told, at its place). Default 300, seed 1. What went wrong is
 * listed with its number; a number alone (`receipts 1 SEED:NUMBER`) runs that edit again.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '../packages/core/dist/time/index.js';
import { ffmpeg, seriesPattern } from '../packages/media/dist/index.js';
import {
  emptyProject,
  formSchema,
  plainClip,
  renderedAt,
  settledForm,
  timelineLength,
} from '../packages/project/dist/index.js';
import { composed } from '../packages/work/dist/compose.js';
import { measureReceipt, mixedSound, renderTimeline, sourceFacts } from '../packages/work/dist/index.js';

const edits = Number(process.argv[2] ?? 300);
const [seed, only] = (process.argv[3] ?? '1').split(':').map(Number);
const say = (line) => process.stdout.write(`${line}\n`);
const kept = '.cache/bench-receipts';
mkdirSync(kept, { recursive: true });

/** Numbers that look drawn by chance and are the same each time. */
function chanceFrom(start) {
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
  flashes: (s, r, d) => `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=8:allf=t,geq=lum='if(eq(mod(N,7),3),220+lum(X,Y)/8,lum(X,Y))':cb='cb(X,Y)':cr='cr(X,Y)'`,
  fades: (s, r, d) => `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=4:allf=t,fade=t=in:d=1.2,fade=t=out:st=${d - 1.5}:d=1.2`,
  // A stretch of black, and one that stands.
  black: (s, r, d) =>
    `testsrc2=s=${s}:r=${r}:d=${d},geq=lum='if(between(T,1,1.6),16,lum(X,Y))':cb='if(between(T,1,1.6),128,cb(X,Y))':cr='if(between(T,1,1.6),128,cr(X,Y))',loop=loop=12:size=1:start=45`,
  cuts: (s, r, d) => `testsrc2=s=${s}:r=${r}:d=${d},noise=alls=6:allf=t,geq=lum='if(mod(floor(N/9),2),255-lum(X,Y),lum(X,Y))':cb='cb(X,Y)':cr='cr(X,Y)'`,
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
function sourceOf(material, [width, height], at, interlaced, codec) {
  const name = `${material}-${width}x${height}-${at.num}-${at.den}${interlaced ? '-i' : ''}-${codec}`;
  const path = join(kept, `${name}.${codec === 'ffv1' ? 'mkv' : 'mp4'}`);
  if (existsSync(path)) return path;
  const graph = MATERIALS[material](`${width}x${height}`, `${at.num * (interlaced ? 2 : 1)}/${at.den}`, SECONDS);
  const coded = codec === 'ffv1' ? ['-c:v', 'ffv1'] : ['-c:v', 'libx264', '-preset', 'fast', '-crf', '20'];
  const sound = ['-f', 'lavfi', '-i', `anoisesrc=d=${SECONDS}:a=0.2:seed=4,afade=t=in:d=0.5`];
  run([
    ...['-f', 'lavfi', '-i', `${graph}${interlaced ? `,${INTERLACED}` : ''},format=yuv420p`, ...sound],
    ...['-t', String(SECONDS), '-pix_fmt', 'yuv420p', ...coded, ...(interlaced ? ['-flags', '+ilme+ildct'] : [])],
    ...['-c:a', codec === 'ffv1' ? 'flac' : 'aac', path],
  ]);
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

/** A timeline of a few clips, each edited in some way; sometimes placed in another, sometimes rendered at another rate. */
async function editOf(number) {
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
    const path = sourceOf(material, size, own, interlaced, pick(['h264', 'ffv1']));
    const probe = await ffmpeg.probe(path);
    const id = `s${i}`;
    sources.push({ id, mediaId: id, name: material, ...sourceFacts(probe), timecode: null, numbers: null, claimed: null, readAt: null, lost: null });
    files[id] = { path, probe, identity: path };
    notes.push(`${material}${interlaced ? ' interlaced' : ''} ${size.join('x')} at ${own.num}/${own.den}`);
  }
  const lanes = [
    { id: 'p', kind: 'picture', name: 'P', kept: null },
    { id: 'q', kind: 'sound', name: 'S', kept: null },
  ];
  const empty = { id: 't', name: 'T', rate: at, width, height, startFrame: 0, dropFrame: false, lanes, marks: [], range: null, kept: null };
  let start = below(3);
  const clips = [];
  for (let i = 0; i < 3; i++) {
    const source = sources[below(2)];
    const fit = pick(['nearest', 'blend', 'motion', 'motion', 'pictures', 'freeze']);
    const length = 10 + below(16);
    const curve =
      fit !== 'pictures' && fit !== 'freeze' && below(3) === 0
        ? [
            { frame: 0, picture: below(20), way: pick(['even', 'held', 'eased']) },
            { frame: 6 + below(10), picture: below(40), way: 'even' },
          ]
        : null;
    const clip = {
      ...plainClip(source.id),
      ...{ id: `c${i}`, laneId: 'p', start, length, fit, curve, inPicture: below(30) },
      speed: pick([rate(1), rate(1), rate(1, 2), rate(1, 4), rate(2), rate(1001, 1000)]),
      shutter: below(5) === 0 ? pick([90, 180, 360]) : 0,
      framing: pick(['inside', 'fill', 'as-is']),
      mix: pick(['stored', 'light']),
    };
    clips.push(clip);
    if (below(2)) clips.push({ ...clip, id: `d${i}`, laneId: 'q', curve: null, shutter: 0, fit: 'nearest' });
    notes.push(`${source.name} ${fit}${curve ? ' curve' : ''}${clip.shutter ? ` ${clip.shutter}\u00b0` : ''}`);
    start += length + (below(4) === 0 ? 3 : 0);
  }
  let timeline = { ...empty, clips };
  const timelines = [timeline];
  if (below(6) === 0) {
    const outer = { ...empty, id: 'o', rate: pick(RATES) };
    const nested = { ...plainClip('t'), id: 'n', laneId: 'p', start: 0, length: 40, fit: pick(['nearest', 'blend', 'motion']) };
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
  const most = Math.min(rendered.range.to, rendered.range.from + 70);
  const input = { ...rendered, files, range: { from: rendered.range.from, to: most } };
  notes.push(`in ${at.num}/${at.den} ${width}x${height}`, JSON.stringify({ ...pickForm(form) }));
  return { input, form, notes: notes.join('; '), chance: { below, pick }, length: timelineLength(timeline) };
}

const pickForm = ({ kind, codec, quality, depth, rate: r, way }) => ({ kind, codec, quality, depth, ...(r ? { rate: `${r.num}/${r.den}`, way } : {}) });

const luma = (picture, { width, height }, layout10) => (layout10 ? new Uint16Array(picture.buffer, picture.byteOffset, width * height) : picture.subarray(0, width * height));

/** Largest difference of two frames' luma, in 8-bit steps. */
function apart(a, b, size, deep) {
  const [x, y] = [luma(a, size, deep), luma(b, size, deep)];
  let most = 0;
  for (let i = 0; i < x.length; i++) most = Math.max(most, Math.abs(x[i] - y[i]));
  return deep ? most / 4 : most;
}

/** Differences that coding may take away are no fault that anybody could tell. */
const SEEN_STEPS = 40;

const FAULTS = ['hold', 'skip', 'swap', 'black', 'white', 'foreign', 'again', 'band', 'short', 'long', 'rate', 'late', 'mute', 'shift'];

/** The frames with a fault in them, and where; null where none of that kind can be seen in them. */
function faulty(kind, frames, size, deep, { below }) {
  const n = frames.length;
  const same = (a, b) => apart(frames[a], frames[b], size, deep) < SEEN_STEPS;
  const places = Array.from({ length: n }, (_, i) => i).filter((i) => i > 6 && i < n - 6);
  const first = places.length > 0 ? below(places.length) : 0;
  const turned = [...places.slice(first), ...places.slice(0, first)];
  const most = deep ? 65535 : 255;
  const filled = (value) => {
    const out = frames[0].slice();
    luma(out, size, deep).fill(value);
    return out;
  };
  const at = (test, make) => {
    const i = turned.find(test);
    return i === undefined ? null : { frames: make(i), at: i };
  };
  const put = (i, picture) => frames.map((f, k) => (k === i ? picture : f));
  switch (kind) {
    case 'hold':
      return at((i) => !same(i, i - 1), (i) => put(i, frames[i - 1]));
    case 'swap':
      return at((i) => !same(i, i - 1), (i) => frames.map((f, k) => (k === i ? frames[i - 1] : k === i - 1 ? frames[i] : f)));
    case 'again':
      return at((i) => !same(i, i - 5) && !same(i, i - 1) && !same(i, i + 1), (i) => put(i, frames[i - 5]));
    case 'skip':
      return at((i) => !same(i, i + 1), (i) => [...frames.slice(0, i), ...frames.slice(i + 1), frames[n - 1]]);
    case 'shift':
      return at((i) => !same(i, i - 1), () => [frames[0], ...frames.slice(0, n - 1)]);
    case 'black':
      return at((i) => apart(frames[i], filled(deep ? 64 : 16), size, deep) >= SEEN_STEPS, (i) => put(i, filled(deep ? 64 : 16)));
    case 'white':
      return at((i) => apart(frames[i], filled(deep ? 940 : 235), size, deep) >= SEEN_STEPS, (i) => put(i, filled(deep ? 940 : 235)));
    case 'foreign': {
      const other = frames[0].slice();
      const plane = luma(other, size, deep);
      for (let i = 0; i < plane.length; i++) plane[i] = ((((i * 7) % size.width) + Math.floor(i / size.width) * 3) % 200) * (deep ? 4 : 1) + 20;
      return at(() => true, (i) => put(i, other));
    }
    case 'band':
      return at(
        () => true,
        (i) => {
          const torn = frames[i].slice();
          const plane = luma(torn, size, deep);
          const row = Math.floor(size.height / 3);
          for (let y = row; y < row + 32; y++)
            for (let x = 0; x < size.width; x++) plane[y * size.width + x] = ((x * 37 + y * 91) % 200) * (deep ? 4 : 1) + 20;
          return put(i, torn);
        },
      );
    case 'short':
      return { frames: frames.slice(0, n - 2), at: null };
    case 'long':
      return { frames: [...frames, frames[n - 1]], at: null };
    default:
      return most > 0 ? { frames, at: null } : null;
  }
}

/** Writes frames as a render would, with a fault of the file's own where it is of that kind. */
async function write(kind, { input, form, colour }, frames, path) {
  const { width, height } = input.timeline;
  const own = settledForm(form);
  const at = kind === 'rate' ? rate(input.timeline.rate.num * 1001, input.timeline.rate.den * 1000) : input.timeline.rate;
  const request = { width, height, rate: at, colour, pixelFormat: input.look.pixelFormat, form: own.kind === 'png' ? 'png' : own.kind, codec: own.codec, crf: own.quality };
  if (own.kind === 'png') {
    mkdirSync(path);
    await ffmpeg.encode(seriesPattern(path, 'png'), request, frames);
    return [path];
  }
  if (own.kind === 'y4m') {
    await ffmpeg.encode(path, request, frames);
    return [path];
  }
  const part = `${path}.part.${own.codec === 'ffv1' ? 'mkv' : 'mp4'}`;
  await ffmpeg.encode(part, { ...request, form: own.codec === 'ffv1' ? 'mkv' : 'mp4' }, frames);
  const heard = form.sound !== 'off' && kind !== 'mute';
  async function* sound() {
    if (kind === 'late') yield new Float32Array(2 * 4800);
    yield* mixedSound(ffmpeg, input);
  }
  await ffmpeg.join(
    path,
    {
      ...{ parts: [{ path: part, pictures: frames.length }], rate: at, form: own.kind },
      ...(heard ? { sound: { sampleRate: 48000, channels: 2 } } : {}),
    },
    heard ? sound() : undefined,
  );
  return [path];
}

const tally = { objections: [], missed: [], misplaced: [], planted: 0, rendered: 0, skipped: 0 };
const began = performance.now();
let closely = 0;
for (let number = only ?? 0; number < (only === undefined ? edits : only + 1); number++) {
  const folder = mkdtempSync(join(tmpdir(), 'thawline-receipts-'));
  try {
    const edit = await editOf(number);
    const { form, notes } = edit;
    const progress = (_done, _of, what) => {
      if (what === 'looking closely') closely++;
    };
    const work = join(folder, 'work');
    const mute = { ...form, timecode: false };
    const unplaced = await renderTimeline(ffmpeg, { input: edit.input, form: mute, path: join(folder, 'out.x'), work, cache: null }, () => undefined);
    const paths = await unplaced.place();
    const receipt = await measureReceipt(ffmpeg, { input: unplaced.input, form: mute, files: paths }, progress);
    tally.rendered++;
    if (receipt.differs > 0) {
      const lines = receipt.lines.filter((l) => !l.same).map((l) => `${l.what}: ${l.asked} / ${l.measured}`);
      tally.objections.push(`${number}: ${lines.join(', ')} ${JSON.stringify(receipt.wrong.slice(0, 4).map((w) => [w.frame, w.frames, w.shows]))} (${notes})`);
      say(`objection ${tally.objections.at(-1)}`);
    }
    const deep = unplaced.input.look.pixelFormat.includes('10');
    const frames = [];
    for await (const frame of composed(ffmpeg, unplaced.input, edit.input.timeline)) frames.push(frame.slice());
    let kind = FAULTS[number % FAULTS.length];
    const heard = form.sound !== 'off' && receipt.loudness !== null && !['y4m', 'png'].includes(form.kind);
    if ((kind === 'late' || kind === 'mute') && !heard) kind = 'hold';
    if (kind === 'rate' && form.kind === 'png') kind = 'swap';
    let made = null;
    for (let i = 0; !made && i < FAULTS.length; i++) {
      made = faulty(kind, frames, edit.input.timeline, deep, edit.chance);
      if (!made) kind = ['hold', 'black', 'foreign', 'band'][i % 4];
    }
    const quiet = ['y4m', 'png'].includes(form.kind) ? { ...mute, sound: 'off' } : mute;
    const planted = { input: unplaced.input, form: quiet, colour: unplaced.colour };
    const ending = form.kind === 'png' ? '' : `.${form.kind}`;
    const files = await write(kind, planted, made.frames, join(folder, `planted${ending}`));
    const found = await measureReceipt(ffmpeg, { input: unplaced.input, form: quiet, files }, progress);
    tally.planted++;
    const told = `${number}: ${kind}${made.at === null ? '' : ` at ${made.at}`}; told ${JSON.stringify(found.wrong.slice(0, 5).map((w) => [w.frame, w.frames, w.shows]))} (${notes})`;
    if (found.differs === 0) {
      tally.missed.push(told);
      say(`missed ${told}`);
    } else if (made.at !== null && kind !== 'shift' && !found.wrong.some((w) => w.frame <= made.at + 1 && w.frame + w.frames >= made.at - 1)) {
      tally.misplaced.push(told);
      say(`misplaced ${told}`);
    }
    if ((number + 1) % 20 === 0) say(`${number + 1} edits, ${((performance.now() - began) / 1000).toFixed(0)} s, ${closely} close looks`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
say(`${tally.rendered} edits rendered: ${tally.objections.length} objected to. ${tally.planted} faults planted: ${tally.missed.length} missed, ${tally.misplaced.length} told at another place. ${((performance.now() - began) / 1000).toFixed(0)} s.`);
if (tally.objections.length + tally.missed.length + tally.misplaced.length > 0) process.exitCode = 1;
setTimeout(() => console.log(process.getActiveResourcesInfo()), 1500).unref();
