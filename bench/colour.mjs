/**
 * npm run bench -- colour [--write]: patches of colour through every path there is, held to sums written out from the recommendations: how far they are
 * off at most, in code values of 10 bit. What comes into a timeline's frames is done by FFmpeg's own `scale` and by its `zscale` (an implementation of
 * others) in the same run; what goes out is read back from each form. `--write` puts the tables into docs/formats.md.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pictureBytes, pixelLayout, samplesOf } from '../packages/core/dist/picture/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { codesOf, MEANINGS, PATCHES, signalsAfter } from '../packages/rig/dist/index.js';
import { writeTable } from './writtenTable.mjs';

const folder = mkdtempSync(join(tmpdir(), 'thawline-colour-'));
const SIZE = { width: 320, height: 160 };
const N = SIZE.width * SIZE.height;
/** Patches stand side by side, each so wide: coders see flat blocks. */
const WIDE = 32;
const RATE = { num: 25, den: 1 };
const OUT = 'yuv444p10le';

const luma = (bits, encoding) => (signals) => codesOf(signals, encoding, bits);
const rgb =
  (bits) =>
  ([r, g, b]) =>
    [g, b, r].map((v) => v * (2 ** bits - 1));

function painted(pixelFormat, codesFor) {
  const layout = pixelLayout(pixelFormat);
  const out = new Uint8Array(pictureBytes(layout, SIZE.width, SIZE.height));
  const samples = samplesOf(layout, out);
  const shift = layout.chroma ?? { shiftX: 0, shiftY: 0 };
  let at = 0;
  for (let plane = 0; plane < 3; plane++) {
    const [across, down] = plane === 0 ? [SIZE.width, SIZE.height] : [SIZE.width >> shift.shiftX, SIZE.height >> shift.shiftY];
    const wide = plane === 0 ? WIDE : WIDE >> shift.shiftX;
    for (let i = 0; i < across * down; i++)
      samples[at + i] = Math.round(codesFor(PATCHES[Math.floor((i % across) / wide)])[plane]);
    at += across * down;
  }
  return out;
}

/** How far the middles of patches are off at most, where the sums stay within what pictures hold. */
function worst(samples, wantedFor) {
  let most = 0;
  PATCHES.forEach((patch, k) => {
    wantedFor(patch).forEach((want, plane) => {
      if (want < 64 || want > (plane === 0 ? 940 : 960)) return;
      const at = plane * N + (SIZE.height / 2) * SIZE.width + k * WIDE + WIDE / 2;
      most = Math.max(most, Math.abs(samples[at] - want));
    });
  });
  return most;
}

async function first(path, probe, request) {
  for await (const picture of ffmpeg.openPictures(path, probe, request))
    return samplesOf(pixelLayout(request.pixelFormat), picture);
  throw new Error(`nothing in ${path}`);
}

/** The same file by one filter of FFmpeg alone. */
function byFilter(path, filter) {
  const args = ['-nostdin', '-v', 'error', '-i', path, '-frames:v', '1', '-vf', `${filter},format=${OUT}`];
  const run = spawnSync('ffmpeg', [...args, '-f', 'rawvideo', '-pix_fmt', OUT, 'pipe:1'], { maxBuffer: 1 << 28 });
  return run.status === 0 ? new Uint16Array(new Uint8Array(run.stdout).buffer) : null;
}

const SCALE_NAMES = { bt470bg: 'bt470', bt2020nc: 'bt2020' };
const number = (value) => (value === null ? '–' : value.toFixed(2));

/** [what it is, format, bits, meaning of it, RGB] */
const SOURCES = [
  ['RGB, 8 bit', 'gbrp', 8, 'BT.709', true],
  ['RGB, 10 bit', 'gbrp10le', 10, 'BT.709', true],
  ['RGB, 16 bit', 'gbrp16le', 16, 'BT.709', true],
  ['BT.601, 8 bit', 'yuv444p', 8, 'BT.601', false],
  ['BT.601, 16 bit', 'yuv444p16le', 16, 'BT.601', false],
  ['BT.709, 10 bit, full range', 'yuv444p10le', 10, 'BT.709', false, 'full'],
  ['BT.2020, 10 bit', 'yuv444p10le', 10, 'BT.2020', false],
  ['PQ, 10 bit', 'yuv444p10le', 10, 'PQ', false],
  ['PQ, RGB of 16 bit', 'gbrp16le', 16, 'PQ', true],
  ['HLG, 10 bit', 'yuv444p10le', 10, 'HLG', false],
  ['HLG, RGB of 16 bit', 'gbrp16le', 16, 'HLG', true],
];
const TARGETS = ['BT.709', 'BT.2020', 'PQ', 'HLG'];

async function intoFrames() {
  const rows = [];
  for (const [name, format, bits, meaning, isRgb, range = 'limited'] of SOURCES) {
    const space = MEANINGS[meaning];
    const own = { matrix: space.matrix, range };
    const path = join(folder, `${name.replaceAll(/[^a-z0-9]+/gi, '-')}.mkv`);
    const said = {
      primaries: space.primaries,
      transfer: space.transfer,
      matrix: isRgb ? null : own.matrix,
      range: isRgb ? 'full' : range,
    };
    const codesFor = isRgb ? rgb(bits) : luma(bits, own);
    const request = { ...SIZE, rate: RATE, pixelFormat: format, form: 'mkv', colour: said };
    await ffmpeg.encode(path, request, [painted(format, codesFor)]);
    const probe = await ffmpeg.probe(path);
    for (const target of TARGETS) {
      const to = MEANINGS[target];
      const wanted = (patch) => codesOf(signalsAfter(patch, space, to), to);
      // What was rounded when it was stored is no fault of any path.
      const rounding = bits === 8 ? (isRgb ? 876 / 255 / 2 : 3) : bits === 10 ? 0.8 : 0;
      const ours = worst(await first(path, probe, { pixelFormat: OUT, colour: to }), wanted);
      const into = `out_color_matrix=${SCALE_NAMES[to.matrix] ?? to.matrix}:out_range=limited:flags=accurate_rnd+full_chroma_int`;
      const from = isRgb ? 'in_range=full' : `in_color_matrix=${SCALE_NAMES[own.matrix] ?? own.matrix}:in_range=${range}`;
      const scaled = byFilter(path, `scale=iw:ih:${from}:${into}`);
      const light = `primariesin=${space.primaries}:transferin=${space.transfer}:primaries=${to.primaries}:transfer=${to.transfer}:npl=203`;
      const given = isRgb ? 'matrixin=gbr:rangein=full' : `matrixin=${own.matrix}:rangein=${range}`;
      const zscaled = byFilter(path, `zscale=${given}:${light}:matrix=${to.matrix}:range=limited`);
      rows.push([name, target, ours, rounding, zscaled && worst(zscaled, wanted), scaled && worst(scaled, wanted)]);
    }
  }
  return rows;
}

/** [what it is, form, codec, format of the frames, quality] */
const FORMS = [
  ['FFV1, 10 bit', 'mkv', 'ffv1', 'yuv444p10le'],
  ['FFV1, 8 bit', 'mkv', 'ffv1', 'yuv444p'],
  ['H.264, 10 bit, quality 0', 'mp4', 'h264', 'yuv444p10le', 0],
  ['H.264, 8 bit, quality 18', 'mp4', 'h264', 'yuv420p', 18],
  ['HEVC, 10 bit, quality 0', 'mp4', 'hevc', 'yuv420p10le', 0],
  ['HEVC, 10 bit, quality 20', 'mp4', 'hevc', 'yuv420p10le', 20],
  ['VP9, 10 bit, quality 0', 'webm', 'vp9', 'yuv444p10le', 0],
  ['AV1, 10 bit, quality 24', 'webm', 'av1', 'yuv420p10le', 24],
  ['ProRes 422 HQ', 'mov', 'prores', 'yuv422p10le'],
  ['ProRes 4444', 'mov', 'prores', 'yuv444p10le'],
  ['DNxHR, 10 bit', 'mov', 'dnxhr', 'yuv422p10le'],
  ['DNxHR 444', 'mov', 'dnxhr', 'yuv444p10le'],
  ['MPEG-2, 4:2:2, quality 1', 'mov', 'mpeg2', 'yuv422p', 1],
  ['Y4M, 10 bit', 'y4m', undefined, 'yuv444p10le'],
  ['PNG, 8 bit', 'png', undefined, 'gbrp'],
  ['PNG, 16 bit', 'png', undefined, 'gbrp16le'],
  ['TIFF, 16 bit', 'tiff', undefined, 'gbrp16le'],
  ['EXR, half floats', 'exr', undefined, 'gbrp16le'],
  ['FFV1, RGB of 16 bit', 'mkv', 'ffv1', 'gbrp16le'],
];

/** Forms of a folder of numbered pictures. */
const SERIES = new Set(['png', 'tiff', 'exr']);

async function outOfFrames() {
  const rows = [];
  const to = MEANINGS['BT.709'];
  for (const [i, [name, form, codec, format, crf]] of FORMS.entries()) {
    const { bits } = pixelLayout(format);
    const path = SERIES.has(form) ? join(mkdtempSync(join(folder, 'series-')), `%08d.${form}`) : join(folder, `out-${i}.${form}`);
    const isRgb = /^gbr/.test(format);
    const picture = painted(format, isRgb ? rgb(bits) : luma(bits, to));
    const request = {
      ...SIZE,
      rate: RATE,
      pixelFormat: format,
      form,
      colour: to,
      ...(codec ? { codec } : {}),
      ...(crf === undefined ? {} : { crf }),
    };
    await ffmpeg.encode(path, request, [picture, picture.slice(), picture.slice()]);
    const read = SERIES.has(form) ? await ffmpeg.probeSeries(path, { pictures: 3, rate: RATE }) : await ffmpeg.probe(path);
    // Y4M says nothing of its colours: whoever opens it has to be told.
    const probe = form === 'y4m' ? { ...read, colour: to } : read;
    // Against what went in, at the frames' own depth.
    const back = await first(path, probe, { pixelFormat: OUT, colour: to });
    const up = 2 ** (10 - bits);
    const most = 2 ** bits - 1;
    const went = (patch) =>
      isRgb
        ? codesOf(
            patch.map((v) => Math.round(v * most) / most),
            to,
            10,
          )
        : codesOf(patch, to, bits).map((code) => Math.round(code) * up);
    rows.push([name, worst(back, went)]);
  }
  return rows;
}

const into = await intoFrames();
const out = await outOfFrames();
rmSync(folder, { recursive: true, force: true });
const tables = [
  '| source | frames of | off at most | of it rounding in the file | zscale alone | scale alone |',
  '|---|---|---|---|---|---|',
  ...into.map(([name, target, ...numbers]) => `| ${name} | ${target} | ${numbers.map(number).join(' | ')} |`),
  '',
  '| written as | off at most |',
  '|---|---|',
  ...out.map(([name, off]) => `| ${name} | ${number(off)} |`),
];
console.log(tables.join('\n'));
if (process.argv.includes('--write')) writeTable('docs/formats.md', 'colour', tables);
