/**
 * npm run bench -- receipts [EDITS [SEED]]: random edits of every fit, form, size and material, each rendered and measured (nothing may be
 * objected to), then written once more with a fault planted (which has to be told, at its place). Default 300, seed 1. What went wrong is
 * listed with its number; a number behind the seed (`receipts 1 SEED:NUMBER`) runs that edit again.
 */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '../packages/core/dist/time/index.js';
import { onTheWay } from '../packages/core/dist/truth/index.js';
import { ffmpeg, seriesPattern } from '../packages/media/dist/index.js';
import { settledForm } from '../packages/project/dist/index.js';
import { composed } from '../packages/work/dist/compose/compose.js';
import { measureReceipt, mixedSound, renderTimeline } from '../packages/work/dist/index.js';
import { editOf } from './randomEdits.mjs';

const edits = Number(process.argv[2] ?? 300);
const [seed, only] = (process.argv[3] ?? '1').split(':').map(Number);
const say = (line) => process.stdout.write(`${line}\n`);

const luma = (picture, { width, height }, layout10) =>
  layout10 ? new Uint16Array(picture.buffer, picture.byteOffset, width * height) : picture.subarray(0, width * height);

/** Largest difference of two frames' luma, in 8-bit steps. */
function apart(a, b, size, deep) {
  const [x, y] = [luma(a, size, deep), luma(b, size, deep)];
  let most = 0;
  for (let i = 0; i < x.length; i++) most = Math.max(most, Math.abs(x[i] - y[i]));
  return deep ? most / 4 : most;
}

/** Differences that coding may take away are no fault that anybody could tell. */
const SEEN_STEPS = 40;

const FAULTS = [
  'hold',
  'skip',
  'swap',
  'black',
  'white',
  'foreign',
  'again',
  'band',
  'short',
  'long',
  'rate',
  'late',
  'mute',
  'shift',
];

/** The frames with a fault in them, and where; null where none of that kind can be seen in them. */
function faulty(kind, frames, size, deep, { below }) {
  const n = frames.length;
  const same = (a, b) => apart(frames[a], frames[b], size, deep) < SEEN_STEPS;
  const margin = n > 20 ? 6 : 1;
  const places = Array.from({ length: n }, (_, i) => i).filter((i) => i > margin && i < n - margin);
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
      return at(
        (i) => !same(i, i - 1),
        (i) => put(i, frames[i - 1]),
      );
    case 'swap':
      return at(
        (i) => !same(i, i - 1),
        (i) => frames.map((f, k) => (k === i ? frames[i - 1] : k === i - 1 ? frames[i] : f)),
      );
    case 'again':
      return at(
        (i) => i >= 5 && !same(i, i - 5) && !same(i, i - 1) && !same(i, i + 1),
        (i) => put(i, frames[i - 5]),
      );
    case 'skip':
      return at(
        (i) => !same(i, i + 1),
        (i) => [...frames.slice(0, i), ...frames.slice(i + 1), frames[n - 1]],
      );
    case 'shift':
      return at(
        (i) => !same(i, i - 1),
        () => [frames[0], ...frames.slice(0, n - 1)],
      );
    case 'black':
      return at(
        (i) => apart(frames[i], filled(deep ? 64 : 16), size, deep) >= SEEN_STEPS,
        (i) => put(i, filled(deep ? 64 : 16)),
      );
    case 'white':
      return at(
        (i) => apart(frames[i], filled(deep ? 940 : 235), size, deep) >= SEEN_STEPS,
        (i) => put(i, filled(deep ? 940 : 235)),
      );
    case 'foreign': {
      const other = frames[0].slice();
      const plane = luma(other, size, deep);
      for (let i = 0; i < plane.length; i++)
        plane[i] = ((((i * 7) % size.width) + Math.floor(i / size.width) * 3) % 200) * (deep ? 4 : 1) + 20;
      return at(
        () => true,
        (i) => put(i, other),
      );
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
  const request = {
    width,
    height,
    rate: at,
    colour,
    pixelFormat: input.look.pixelFormat,
    form: own.kind === 'png' ? 'png' : own.kind,
    codec: own.codec,
    crf: own.quality,
  };
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
    yield* mixedSound({ media: ffmpeg }, input);
  }
  await ffmpeg.join(
    path,
    {
      parts: [{ path: part, pictures: frames.length }],
      rate: at,
      form: own.kind,
      ...(heard ? { sound: { sampleRate: 48000, channels: 2 } } : {}),
    },
    heard ? sound() : undefined,
  );
  return [path];
}

/** A fault is in the file where coding left so much of the way to the wrong picture, and of the untouched render's less than half of it. */
const LEFT_SHARE = 0.75;
const OWN_SHARE = 0.5;
/** A faint fault is planted at so many places before another kind is. */
const TRIES = 4;

/**
 * Whether a frame that was put in another one's place can be told in the file: there it lies nearer to that one's picture than to its own,
 * and in the untouched render it does not. At low quality a coder may show the picture before by itself; then both files are the same.
 */
async function survives(kind, { frames: wrong, at }, frames, { files, untouched }, size, { pixelFormat, colour }) {
  if (!['hold', 'swap', 'again'].includes(kind) || files[0].endsWith('.y4m') || !/\.\w+$/.test(files[0])) return true;
  const deep = pixelFormat.includes('10');
  const bytes = (picture) => ({ ...size, data: Uint8Array.from(luma(picture, size, deep), (v) => (deep ? v >> 2 : v)) });
  const request = { pixelFormat, colour, from: at, count: 1 };
  const shareOf = async (path) => {
    for await (const picture of ffmpeg.openPictures(path, await ffmpeg.probe(path), request))
      return onTheWay(bytes(picture.slice()), bytes(frames[at]), bytes(wrong[at])).share;
    return Number.NaN;
  };
  return !((await shareOf(files[0])) < LEFT_SHARE || (await shareOf(untouched)) >= OWN_SHARE);
}

const tally = { objections: [], missed: [], misplaced: [], planted: 0, rendered: 0, skipped: 0 };
const began = performance.now();
let closely = 0;
for (let number = only ?? 0; number < (only === undefined ? edits : only + 1); number++) {
  const folder = mkdtempSync(join(tmpdir(), 'thawline-receipts-'));
  try {
    const edit = await editOf(seed, number);
    const { form, notes } = edit;
    const progress = (_done, _of, what) => {
      if (what === 'looking closely') closely++;
    };
    const work = join(folder, 'work');
    const mute = { ...form, timecode: false };
    const unplaced = await renderTimeline(
      { media: ffmpeg, progress: () => undefined },
      { input: edit.input, form: mute, path: join(folder, 'out.x'), work, cache: null },
    );
    const paths = await unplaced.place();
    const receipt = await measureReceipt({ media: ffmpeg, progress }, { input: unplaced.input, form: mute, files: paths });
    tally.rendered++;
    if (receipt.differs > 0) {
      const lines = receipt.lines.filter((l) => !l.same).map((l) => `${l.what}: ${l.asked} / ${l.measured}`);
      tally.objections.push(
        `${number}: ${lines.join(', ')} ${JSON.stringify(receipt.wrong.slice(0, 4).map((w) => [w.frame, w.frames, w.shows]))} (${notes})`,
      );
      say(`objection ${tally.objections.at(-1)}`);
    }
    const deep = unplaced.input.look.pixelFormat.includes('10');
    const frames = [];
    for await (const frame of composed({ media: ffmpeg }, unplaced.input, edit.input.timeline)) frames.push(frame.slice());
    let kind = FAULTS[number % FAULTS.length];
    const heard = form.sound !== 'off' && receipt.loudness !== null && !['y4m', 'png'].includes(form.kind);
    if ((kind === 'late' || kind === 'mute') && !heard) kind = 'hold';
    if (kind === 'rate' && form.kind === 'png') kind = 'swap';
    const quiet = ['y4m', 'png'].includes(form.kind) ? { ...mute, sound: 'off' } : mute;
    const planted = { input: unplaced.input, form: quiet, colour: unplaced.colour };
    const ending = form.kind === 'png' ? '' : `.${form.kind}`;
    let [made, files] = [null, []];
    for (let i = 0; i < FAULTS.length; i++) {
      made = faulty(kind, frames, edit.input.timeline, deep, edit.chance);
      files = made ? await write(kind, planted, made.frames, join(folder, `planted${i}${ending}`)) : [];
      if (made && (await survives(kind, made, frames, { files, untouched: paths[0] }, edit.input.timeline, planted.input.look)))
        break;
      // Coding may make of a faint fault what was asked for: there is none in the file then, and another one is planted.
      if (!made || i >= TRIES) kind = ['hold', 'black', 'foreign', 'band'][i % 4];
      made = null;
    }
    if (!made) {
      tally.skipped++;
      continue;
    }
    const found = await measureReceipt({ media: ffmpeg, progress }, { input: unplaced.input, form: quiet, files });
    tally.planted++;
    const told = `${number}: ${kind}${made.at === null ? '' : ` at ${made.at}`}; told ${JSON.stringify(found.wrong.slice(0, 5).map((w) => [w.frame, w.frames, w.shows]))} (${notes})`;
    if (found.differs === 0) {
      tally.missed.push(told);
      say(`missed ${told}`);
    } else if (
      made.at !== null &&
      kind !== 'shift' &&
      !found.wrong.some((w) => w.frame <= made.at + 1 && w.frame + w.frames >= made.at - 1)
    ) {
      tally.misplaced.push(told);
      say(`misplaced ${told}`);
    }
    if ((number + 1) % 20 === 0)
      say(`${number + 1} edits, ${((performance.now() - began) / 1000).toFixed(0)} s, ${closely} close looks`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
say(
  `${tally.rendered} edits rendered: ${tally.objections.length} objected to. ${tally.planted} faults planted: ${tally.missed.length} missed, ${tally.misplaced.length} told at another place; ${tally.skipped} too short to hold one. ${((performance.now() - began) / 1000).toFixed(0)} s.`,
);
if (tally.objections.length + tally.missed.length + tally.misplaced.length > 0) process.exitCode = 1;
