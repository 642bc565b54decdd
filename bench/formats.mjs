/**
 * npm run bench -- formats [--write]: every kind of stored picture through every form that `make` writes, for real: what comes back is held against
 * what went in, sample by sample. `--write` puts the table into docs/formats.md.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lossWords, pixelWords, workingFormat } from '../packages/core/dist/picture/index.js';
import { codedOf, ffmpeg } from '../packages/media/dist/index.js';
import { make, makeLosses, makeRefusal } from '../packages/work/dist/index.js';
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
  const picture = `testsrc2=s=160x120:r=25:d=0.2,format=gbrap16le,geq=r='r(X,Y)':g='g(X,Y)':b='b(X,Y)+mod(X*7+Y*3,64)*16':a='clip(65535*(1.5-hypot(X-50-2*N,Y-60)/24),0,65535)',format=${format}`;
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

const rows = [];
for (const format of STORED) {
  const input = stored(format);
  const cells = [];
  for (const ending of Object.keys(FORMS)) cells.push(await cell(input, format, ending));
  rows.push([pixelWords(format), `\`${format}\``, ...cells]);
  console.log(rows.at(-1).join(' | '));
}
rmSync(folder, { recursive: true, force: true });

const head = ['Stored', 'as FFmpeg names it', ...Object.entries(FORMS).map(([ending, coder]) => `.${ending} (${coder})`)];
const table = [head, head.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`);
if (process.argv.includes('--write')) writeTable('docs/formats.md', 'formats', table);
