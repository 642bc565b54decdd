import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { readForm } from './render.js';

/** Rendering from the shell, as a person has it. */
const bin = new URL('../bin/thawline.mjs', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'thawline-shell-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [96, 56];

function thawline(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
  return new Promise((resolve) => {
    const run = spawn(process.execPath, [bin, ...args], { cwd: folder });
    let [out, err] = ['', ''];
    run.stdout.on('data', (chunk) => {
      out += chunk;
    });
    run.stderr.on('data', (chunk) => {
      err += chunk;
    });
    run.on('close', (code) => resolve({ code, out, err }));
  });
}

const picture = (k: number): Uint8Array =>
  Uint8Array.from({ length: (WIDTH * HEIGHT * 3) / 2 }, (_, i) =>
    i < WIDTH * HEIGHT ? 120 + 70 * Math.sin(((i % WIDTH) + k * 2.1) * 0.3) : 128,
  );
const film = (name: string, numbers: readonly number[], height = HEIGHT): Promise<void> =>
  ffmpeg.encode(
    join(folder, name),
    { width: WIDTH, height, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' },
    numbers.map((k) => picture(k).subarray(0, (WIDTH * height * 3) / 2)),
  );

const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: 25 });
const edit = (name: string, from: number, length: number) => ({
  OTIO_SCHEMA: 'Timeline.1',
  name,
  global_start_time: time(90_000),
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        name: 'V',
        children: [
          {
            OTIO_SCHEMA: 'Clip.2',
            name: 'film',
            source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(from), duration: time(length) },
            media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'film.mp4' } },
          },
        ],
      },
    ],
  },
});

beforeAll(async () => {
  await film(
    'film.mp4',
    Array.from({ length: 80 }, (_, k) => k),
  );
  writeFileSync(join(folder, 'cut.otio'), JSON.stringify(edit('Cut', 10, 50)));
  writeFileSync(join(folder, 'gone.otio'), JSON.stringify(edit('Cut', 0, 5)).replaceAll('film.mp4', 'nowhere.mp4'));
});

test('an edit is written, measured and told; a name that is taken gets a number', async () => {
  const { code, out } = await thawline('render', 'cut.otio', 'out.mp4', '--receipt', 'receipt.json', '--json');
  expect(code).toBe(0);
  const told = JSON.parse(out);
  expect(told).toMatchObject({ files: [join(folder, 'out.mp4')], timeline: 'Cut', receipt: { differs: 0, frames: 50 } });
  expect(JSON.parse(readFileSync(join(folder, 'receipt.json'), 'utf8'))).toEqual(told.receipt);
  const again = await thawline('render', 'cut.otio', 'out.mp4', '--form', 'mp4:quality=30,sound=off', '--rate', '50');
  expect(again).toMatchObject({ code: 0, out: `${join(folder, 'out (2).mp4')}: 100 frames at 50, as asked\n` });
  expect(readdirSync(folder).filter((n) => n.startsWith('.'))).toEqual([]);
});

test('frames of two fields are asked for in the form, and found in the file', async () => {
  const { code, out } = await thawline('render', 'cut.otio', 'fields.mp4', '--form', 'mp4:fields=bottom,lowpass=light', '--json');
  expect(code).toBe(0);
  const { receipt } = JSON.parse(out) as { receipt: { differs: number; lines: { what: string; measured: string }[] } };
  expect(receipt.differs).toBe(0);
  expect(receipt.lines).toContainEqual(expect.objectContaining({ what: 'fields', measured: 'bottom field first' }));
  const whole = await thawline('render', 'cut.otio', 'fields.webm', '--form', 'webm:fields=top');
  expect(whole.code).toBe(2);
  expect(whole.err).toContain('WebM holds whole pictures: fields go into mp4, mkv, mov.');
});

test('lines that H.264 cannot share between two fields are told before anything is written; Matroska takes them', async () => {
  await film('low.mkv', [0, 1, 2, 3, 4, 5, 6, 7, 8, 9], 54);
  writeFileSync(join(folder, 'low.otio'), JSON.stringify(edit('Cut', 0, 10)).replaceAll('film.mp4', 'low.mkv'));
  for (const call of [
    ['render', 'low.otio', 'low.mp4', '--form', 'mp4:fields=top'],
    ['make', 'low.mkv', 'low.mp4', '--rate', '25', '--interlaced', 'top'],
  ])
    expect(await thawline(...call)).toMatchObject({ code: 2, err: expect.stringContaining('this has 54. Matroska takes it') });
  expect(await thawline('render', 'low.otio', 'low-fields.mkv', '--form', 'mkv:fields=top')).toMatchObject({ code: 0 });
  expect(readdirSync(folder)).not.toContain('low.mp4');
});

test('numbered pictures are named by the path, and measured by it again', async () => {
  const { code, out, err } = await thawline(
    'render',
    'cut.otio',
    'shots/thaw-####.png',
    '--form',
    'png:depth=16,sound=off,first=1001',
  );
  expect({ code, err }).toMatchObject({ code: 0 });
  expect(out).toContain('as asked');
  const names = readdirSync(join(folder, 'shots')).sort();
  expect([names[0], names.at(-1), names.length]).toEqual(['thaw-1001.png', 'thaw-1050.png', 50]);
  const form = ['--form', 'png:depth=16,sound=off,first=1001'];
  expect((await thawline('receipt', 'shots/thaw-####.png', '--against', 'cut.otio', ...form)).code).toBe(0);
  expect((await thawline('render', 'cut.otio', 'shots/a#b#.png')).err).toContain('wants one run of #');
});

test('a file is measured against an edit: what was put in is found', async () => {
  await film(
    'faulty.mp4',
    Array.from({ length: 50 }, (_, k) => 10 + (k === 20 ? 19 : k)),
  );
  const { code, out } = await thawline('receipt', 'faulty.mp4', '--against', 'cut.otio', '--form', 'mp4:timecode=off', '--json');
  expect(code).toBe(1);
  const asked = { source: 'film.mp4', picture: 30 };
  expect(JSON.parse(out).wrong).toEqual([{ frame: 20, frames: 1, shows: 19, asked, shown: { source: 'film.mp4', picture: 29 } }]);
});

test('what is wrong with a call or its files is told in a sentence', async () => {
  const gone = await thawline('render', 'gone.otio', 'never.mp4');
  expect(gone).toMatchObject({ code: 1, out: '' });
  expect(gone.err).toContain('names nowhere.mp4, which is not to be found');
  const named = await thawline('render', 'cut.otio', 'never.mp4', '--timeline', 'Other');
  expect(named.err).toContain('no timeline "Other". There are "Cut".');
  expect((await thawline('render', 'cut.otio', 'never.xyz')).code).toBe(2);
  expect((await thawline('receipt', 'film.mp4')).code).toBe(2);
  expect((await thawline('receipt', 'no.mp4', '--against', 'cut.otio')).err).toContain('no.mp4 is not there');
  expect(readdirSync(folder).filter((n) => n.startsWith('never'))).toEqual([]);
});

test('forms are said in a word, and more behind a colon', () => {
  expect(readForm(undefined, 'webm')).toMatchObject({ kind: 'webm', codec: 'vp9', quality: 24 });
  expect(readForm('mov:over=nothing', 'mov')).toMatchObject({ codec: 'prores', chroma: '444', over: 'nothing' });
  expect(readForm('mov:grade=proxy', 'mov')).toMatchObject({ codec: 'prores', grade: 3 });
  expect(readForm('mov:dnxhr,grade=lb,sound=pcm16', 'mov')).toMatchObject({ codec: 'dnxhr', grade: 2, soundCodec: 'pcm16' });
  expect(readForm('png:name=shot-####,first=1001', 'png')).toMatchObject({ numbered: { name: 'shot-####', first: 1001 } });
  expect(readForm('png:name=shot', 'png')).toContain('wants a run of # where the number goes');
  expect(readForm('png:name=a/####', 'png')).toContain('wants a run of #');
  expect(readForm('mkv:first=7', 'mkv')).toBe('Matroska is no folder of numbered pictures: it takes no name and first.');
  expect(readForm('mkv:sound=all,chroma=rgb,depth=16', 'mkv')).toMatchObject({ sound: 'all', chroma: 'rgb', depth: 16 });
  expect(readForm('mov:grade=best', 'mov')).toBe('"best" is no grade of this form. There are hq, 422, lt, proxy.');
  expect(readForm('mkv:sound=pcm32f', 'mkv')).toMatchObject({ soundCodec: 'pcm32f', sound: 'stereo' });
  expect(readForm('mp4:over=white', 'mp4')).toMatchObject({ over: '#ffffff' });
  expect(readForm('mp4:over=snow', 'mp4')).toMatch(/^"snow" is no colour\./);
  expect(readForm('webm:av1,quality=40,depth=10', 'mp4')).toMatchObject({ codec: 'av1', quality: 40, depth: 10 });
  expect(readForm('mp4:timecode=off', 'x')).toMatchObject({ timecode: false, sound: 'stereo', quality: 18 });
  expect(readForm('mov:mpeg2,quality=5', 'x')).toMatchObject({ kind: 'mov', codec: 'mpeg2', quality: 5, depth: 8 });
  expect(readForm('avi', 'x')).toContain('"avi" is no form');
  expect(readForm('mp4:loud', 'x')).toContain('"loud" is not understood');
  expect(readForm('mkv:fields=whole', 'x')).toMatchObject({ fields: 'whole' });
  expect(readForm('mkv', 'x')).toMatchObject({ fields: null });
  expect(readForm('mov:mpeg2,pulldown=2:3', 'x')).toMatchObject({ fields: { order: 'top', pulldown: true } });
  expect(readForm('mp4:fields=left', 'x')).toContain('"left" is no order of fields');
  expect(readForm('mp4:fields=top,lowpass=much', 'x')).toContain('"much" is no low-pass. There are off, light, strong.');
});
