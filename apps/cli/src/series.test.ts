import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg, seriesPattern } from '@thawline/media';

/** Numbered pictures from the shell: under any names, in and out. */
const bin = new URL('../bin/thawline.mjs', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'thawline-numbered-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 36 };
const N = SIZE.width * SIZE.height;

function thawline(...args: string[]): { code: number | null; out: string; err: string } {
  const run = spawnSync(process.execPath, [bin, ...args], { cwd: folder, encoding: 'utf8' });
  return { code: run.status, out: run.stdout, err: run.stderr };
}

beforeAll(async () => {
  // Take 7, from 98 on, over the change of digits.
  mkdirSync(join(folder, 'take'));
  const made = join(folder, 'made');
  mkdirSync(made);
  const pictures = Array.from({ length: 6 }, (_, k) => Uint8Array.from({ length: 3 * N }, (_, i) => (i * 3 + k * 40) % 256));
  await ffmpeg.encode(seriesPattern(made, 'png'), { ...SIZE, rate: rate(25), pixelFormat: 'gbrp', form: 'png' }, pictures);
  for (const [k, name] of readdirSync(made).sort().entries())
    copyFileSync(join(made, name), join(folder, 'take', `take7_${98 + k}.png`));
});

const of = (name: string): Buffer => readFileSync(join(folder, name));

test('a folder of numbered pictures is made into a film, and into numbered pictures again, sample by sample', async () => {
  const film = thawline('make', 'take', 'film.mkv', '--rate', '24', '--from', '24', '--json');
  expect(film).toMatchObject({ code: 0 });
  expect(JSON.parse(film.out)).toMatchObject({ frames: 6, real: 6 });
  mkdirSync(join(folder, 'out'));
  expect(thawline('make', 'film.mkv', 'out/shot-####.png', '--rate', '24').code).toBe(0);
  expect(readdirSync(join(folder, 'out')).sort()).toEqual(Array.from({ length: 6 }, (_, k) => `shot-000${k}.png`));
  const size = { pixelFormat: 'gbrp' };
  for (const k of [0, 5]) {
    const [a, b] = [`take/take7_${98 + k}.png`, `out/shot-000${k}.png`].map((name) => join(folder, name)) as [string, string];
    const [one, other] = await Promise.all(
      [a, b].map(
        async (path) =>
          (
            await ffmpeg
              .openPictures(path, await ffmpeg.probe(path), size)
              [Symbol.asyncIterator]()
              .next()
          ).value,
      ),
    );
    expect(Buffer.compare(one as Uint8Array, other as Uint8Array)).toBe(0);
  }
});

test('at twice the rate by motion straight into TIFF; what is there already is never replaced', () => {
  mkdirSync(join(folder, 'slow'));
  writeFileSync(join(folder, 'slow', 'f03.tif'), 'kept');
  const stopped = thawline('make', 'take', 'slow/f##.tif', '--rate', '50', '--from', '25', '--method', 'motion');
  expect(stopped).toMatchObject({ code: 1 });
  expect(stopped.err).toContain('f03.tif is there already');
  expect(readdirSync(join(folder, 'slow'))).toEqual(['f03.tif']);
  expect(of('slow/f03.tif').toString()).toBe('kept');
  rmSync(join(folder, 'slow', 'f03.tif'));
  expect(thawline('make', 'take', 'slow/f##.tif', '--rate', '50', '--from', '25', '--method', 'motion').code).toBe(0);
  expect(readdirSync(join(folder, 'slow'))).toHaveLength(12);
  const read = thawline('probe', 'slow', '--rate', '50', '--json');
  expect(JSON.parse(read.out)).toMatchObject({ pictures: 12 });
});

test('what is missing is said in a sentence: the rate, the pictures, one series', () => {
  expect(thawline('make', 'take', 'x.mkv', '--rate', '25').err).toContain('numbered pictures want --from');
  mkdirSync(join(folder, 'empty'));
  expect(thawline('make', 'empty', 'x.mkv', '--rate', '25', '--from', '25').err).toContain('empty holds no numbered pictures');
  const nowhere = thawline('make', 'take', 'nowhere/x-##.png', '--rate', '25', '--from', '25');
  expect(nowhere).toMatchObject({ code: 1 });
  expect(nowhere.err).toContain('nowhere');
  expect(nowhere.err).not.toContain('ENOENT');
  mkdirSync(join(folder, 'two'));
  for (const name of ['a1', 'a2', 'a3', 'b1', 'b2', 'b3'])
    copyFileSync(join(folder, 'take', 'take7_98.png'), join(folder, 'two', `${name}.png`));
  expect(thawline('make', 'two', 'x.mkv', '--rate', '25', '--from', '25').err).toContain('two holds 2 series');
  expect(thawline('make', 'film.mkv', 'x.png', '--rate', '25')).toMatchObject({ code: 2 });
});
