/**
 * npm run bench -- formats [--write]: every kind of stored picture through every form that `make` writes, and through every form and codec of a render
 * with what it has nearest to the source, for real: what comes back is held against what went in, sample by sample. `--write` puts the tables into
 * docs/formats.md.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lossWords, pixelWords, workingFormat } from '../packages/core/dist/picture/index.js';
import { codedOf, ffmpeg, seriesPattern } from '../packages/media/dist/index.js';
import {
  bearsAlpha,
  CODECS,
  chromaWords,
  formSchema,
  isSeries,
  keepsAlpha,
  likeSources,
  pictureNotes,
  FORMS as RENDERS,
  settledForm,
} from '../packages/project/dist/index.js';
import { make, makeLosses, makeRefusal, measureReceipt, renderTimeline } from '../packages/work/dist/index.js';
import { timelineOf } from './timeline.mjs';
import { writeTable } from './writtenTable.mjs';

const folder = mkdtempSync(join(tmpdir(), 'thawline-formats-'));
const STORED = [
  ...['yuv420p', 'yuv422p', 'yuv444p', 'yuv411p', 'yuv420p10le', 'yuv422p10le', 'yuv444p10le', 'yuv444p12le', 'yuv420p16le'],
  ...[
    'yuva420p',
    'yuva422p10le',
    'yuva444p10le',
    'yuva444p16le',
    'bgr0',
    'bgra',
    'gbrp10le',
    'gbrp12le',
    'gbrp16le',
    'gbrap12le',
  ],
  ...['gbrap16le', 'gray', 'gray10le', 'gray16le', 'ya8'],
];
const FORMS = { mkv: 'FFV1', mov: 'ProRes', mp4: 'H.264', webm: 'VP9', y4m: 'Y4M' };

function stored(format) {
  const path = join(folder, `${format}.mkv`);
  const rgb = /gbr|bgr|ya8/.test(format);
  const picture = `testsrc2=s=256x144:r=25:d=0.2,format=gbrap16le,geq=r='r(X,Y)':g='g(X,Y)':b='b(X,Y)+mod(X*7+Y*3,64)*16':a='clip(65535*(1.5-hypot(X-90-2*N,Y-70)/30),0,65535)',format=${format}`;
  const tags = [
    '-color_range',
    rgb ? 'pc' : 'tv',
    '-colorspace',
    rgb ? 'rgb' : 'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'bt709',
  ];
  const run = spawnSync(
    'ffmpeg',
    ['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', picture, '-c:v', 'ffv1', ...tags, path],
    { encoding: 'utf8' },
  );
  if (run.status !== 0) throw new Error(run.stderr);
  return path;
}

async function pictures(path, pixelFormat) {
  const found = [];
  for await (const picture of ffmpeg.openPictures(path, await ffmpeg.probe(path), { pixelFormat })) found.push(picture);
  return found;
}

async function cell(input, format, ending) {
  const probe = await ffmpeg.probe(input);
  const output = join(folder, `${format}-out.${ending}`);
  const refused = makeRefusal(probe, output, {}) !== null;
  const options = { rate: { num: 25, den: 1 }, method: 'nearest', ...(refused ? { over: [0, 0, 0] } : {}) };
  const told = makeLosses(probe, output, options).filter((loss) => !/colour tags|alpha is not kept/.test(loss));
  await make({ media: ffmpeg, progress: () => undefined }, { input, probe, output, options });
  const working = workingFormat(format);
  const coded = codedOf({ form: ending, pixelFormat: working });
  const alpha = refused ? 'alpha not borne (refused, or over a colour)' : '';
  if (told.length > 0 || alpha) return [alpha, ...told].filter(Boolean).join('; ');
  const [before, after] = [await pictures(input, working), await pictures(output, working)];
  const same = before.length === after.length && before.every((p, k) => Buffer.compare(p, after[k]) === 0);
  if (same) return '**same bits**';
  const words = lossWords(working, coded);
  if (words.length > 0) return words.join('; ');
  return coded.format === working.replace('yuvj', 'yuv') ? 'samples as they are, coded' : `as ${pixelWords(coded.format)}, coded`;
}

/** Forms of renders, each with each of its codecs, at the finest quality. */
const WRITTEN = Object.entries(RENDERS)
  .filter(([kind]) => kind !== 'wav')
  .flatMap(([kind, { codecs, words }]) =>
    (codecs.length > 0 ? codecs : [null]).map((codec) => ({
      name: codec ? CODECS[codec].words : words,
      form: { kind, codec, quality: codec ? (CODECS[codec].quality?.best ?? null) : null, sound: 'off' },
    })),
  );

const context = { media: ffmpeg, progress: () => undefined };

async function rendered(input, format, form) {
  const work = mkdtempSync(join(folder, 'work-'));
  const path = join(folder, `render-${format}-${form.kind}-${form.codec}`);
  const unplaced = await renderTimeline(context, { input, form, path, work, cache: null });
  const paths = await unplaced.place();
  const receipt = await measureReceipt(context, { input: unplaced.input, form, files: paths });
  const [main] = paths;
  const rate = { num: 25, den: 1 };
  const source = isSeries(form.kind) ? seriesPattern(main, RENDERS[form.kind].ending) : main;
  const probe = isSeries(form.kind) ? await ffmpeg.probeSeries(source, { pictures: 5, rate }) : await ffmpeg.probe(source);
  return { source, probe, receipt };
}

async function renderCell(input, format, { form: asked }) {
  const timeline = await timelineOf(input, 1);
  const probe = await ffmpeg.probe(input);
  const first = formSchema.parse({ ...asked, depth: 8 });
  const isClear = probe.alpha !== undefined && probe.alpha !== 'opaque';
  const over = isClear && bearsAlpha(settledForm(first)) ? 'nothing' : '#000000';
  const nearest = likeSources(timeline.project, timeline.timeline, null, { ...first, over }) ?? {};
  const form = settledForm({ ...first, over, ...nearest });
  const { source, probe: written, receipt } = await rendered(timeline, format, form);
  const wrong = receipt.lines.filter((line) => !line.same).map((line) => `${line.what}: ${line.measured}`);
  if (wrong.length > 0 || receipt.differs > 0) throw new Error(`${format} as ${JSON.stringify(form)}: ${wrong.join(', ')}`);
  // Grey is compared as the luma that frames are.
  const working = workingFormat(format).replace(/^gray/, 'yuv420p');
  // Y4M and numbered pictures say nothing of their colours.
  const said = RENDERS[form.kind].codecs.length === 0 && form.kind !== 'exr' ? { ...written, colour: probe.colour } : written;
  const read = async (path, known) => {
    const found = [];
    for await (const picture of ffmpeg.openPictures(path, known, { pixelFormat: working })) found.push(picture);
    return found;
  };
  const [before, after] = [await read(input, probe), await read(source, said)];
  const same = before.length === after.length && before.every((p, k) => Buffer.compare(p, after[k]) === 0);
  const as = form.kind === 'exr' ? 'half floats' : `${chromaWords(form.chroma)}, ${form.depth} bit`;
  if (same) return `**same bits** (${as})`;
  const notes = pictureNotes(timeline.project, timeline.timeline, null, form)
    .filter((note) => !/^Where its pictures are seen through/.test(note))
    .map((note) => note.replace(/^[^:]+: /, '').replace(/\.$/, ''));
  const alpha = isClear && !keepsAlpha(form) ? ['alpha not borne (refused, or over a colour)'] : [];
  return `${as}${[...alpha, ...notes].map((note) => `; ${note}`).join('')}`;
}

/** `--only yuv411p,gray`: these rows alone are made anew. */
const only = process.argv[process.argv.indexOf('--only') + 1]?.split(',');
const asked = process.argv.includes('--only') ? STORED.filter((format) => only?.includes(format)) : STORED;

/** Rows of a table of docs/formats.md, with those that were made anew in their places. */
function renewed(name, rows) {
  if (asked.length === STORED.length) return rows;
  const [, text = ''] =
    new RegExp(`<!-- ${name} -->\\n([\\s\\S]*?)<!-- /${name} -->`).exec(readFileSync('docs/formats.md', 'utf8')) ?? [];
  const there = text
    .trim()
    .split('\n')
    .slice(2)
    .map((line) => line.slice(2, -2).split(' | '));
  return there.map((row) => rows.find(([first]) => first === row[0]) ?? row);
}

const table = (head, rows) => [head, head.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`);
const [rows, renders] = [[], []];
for (const format of asked) {
  const input = stored(format);
  const cells = [];
  for (const ending of Object.keys(FORMS)) cells.push(await cell(input, format, ending));
  rows.push([pixelWords(format), `\`${format}\``, ...cells]);
  console.log(rows.at(-1).join(' | '));
  const written = [];
  for (const one of WRITTEN)
    written.push(
      await renderCell(input, format, one).catch((cause) => {
        throw new Error(`${format} as ${one.name}`, { cause });
      }),
    );
  renders.push([pixelWords(format), ...written]);
  console.log(renders.at(-1).join(' | '));
}
rmSync(folder, { recursive: true, force: true });

if (process.argv.includes('--write')) {
  const made = ['Stored', 'as FFmpeg names it', ...Object.entries(FORMS).map(([ending, coder]) => `.${ending} (${coder})`)];
  writeTable('docs/formats.md', 'formats', table(made, renewed('formats', rows)));
  writeTable('docs/formats.md', 'renders', table(['Stored', ...WRITTEN.map((one) => one.name)], renewed('renders', renders)));
}
