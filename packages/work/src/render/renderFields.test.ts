import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { filmOfField, framesOfFilm } from '@thawline/core/fields';
import { rate } from '@thawline/core/time';
import { ffmpeg, type Probe } from '@thawline/media';
import { formSchema, type RenderFormInput, renderedAt, timelineLength } from '@thawline/project';
import { projectOf, rendered } from '../fixtures/project.fixture.js';
import { measureReceipt } from '../index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-fields-'));
const [fast, usual, film] = [join(folder, 'fast.mkv'), join(folder, 'usual.mkv'), join(folder, 'film.mkv')];
const SIZE = { width: 160, height: 96 };

beforeAll(() => {
  for (const [path, perSecond] of [
    [fast, 50],
    [usual, 25],
    [film, '24000/1001'],
  ] as const) {
    const source = ['-f', 'lavfi', '-i', `testsrc2=s=160x96:r=${perSecond}:d=2`, '-pix_fmt', 'yuv420p'];
    const colours = ['-colorspace', 'smpte170m', '-color_range', 'tv'];
    execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...source, '-c:v', 'ffv1', ...colours, path]);
  }
}, 60_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const pictures = async (path: string, probe: Probe): Promise<Uint8Array[]> => {
  const found: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p' })) found.push(picture.slice());
  return found;
};
/** Whether lines of one field of luma are the same. */
function sameField(a: Uint8Array | undefined, b: Uint8Array | undefined, parity: number): boolean {
  for (let y = parity; y < SIZE.height; y += 2)
    for (let x = y * SIZE.width; x < (y + 1) * SIZE.width; x++) if (a?.[x] !== b?.[x]) return false;
  return true;
}

test.each(['top', 'bottom'] as const)(
  'each field shows its own moment, bit for bit, and the file says which comes first: %s',
  async (order) => {
    const input = await projectOf(SIZE, [fast, 'nearest', 0]);
    const { paths, frames } = await rendered(input, join(folder, order), { kind: 'mkv', fields: { order } });
    const path = paths[0] ?? '';
    const probe = await ffmpeg.probe(path);
    expect(frames).toBe(50);
    expect(probe).toMatchObject({ pictures: 50, fields: order, measured: { rate: rate(25) } });
    const [written, source] = [await pictures(path, probe), await pictures(fast, await ffmpeg.probe(fast))];
    const first = order === 'top' ? 0 : 1;
    for (let n = 0; n < 50; n++) {
      expect(sameField(written[n], source[2 * n], first)).toBe(true);
      expect(sameField(written[n], source[2 * n + 1], 1 - first)).toBe(true);
    }
  },
);

test('a timeline of two fields a frame is rendered so where nothing else is asked, and in whole pictures where that is', async () => {
  const whole = await projectOf(SIZE, [fast, 'nearest', 0]);
  const input = { ...whole, timeline: { ...whole.timeline, fields: 'bottom' as const } };
  const source = await pictures(fast, await ffmpeg.probe(fast));
  const written = async (name: string, form: RenderFormInput) => {
    const { paths } = await rendered(input, join(folder, name), form);
    const probe = await ffmpeg.probe(paths[0] ?? '');
    return { probe, found: await pictures(paths[0] ?? '', probe) };
  };
  const own = await written('own', { kind: 'mkv' });
  expect(own.probe).toMatchObject({ pictures: 50, fields: 'bottom' });
  expect(own.found.every((p, n) => sameField(p, source[2 * n], 1) && sameField(p, source[2 * n + 1], 0))).toBe(true);
  const first = await written('first', { kind: 'mkv', fields: 'whole' });
  expect(first.probe).toMatchObject({ pictures: 50, fields: 'progressive' });
  expect(first.found.every((p, n) => Buffer.compare(p, source[2 * n] as Uint8Array) === 0)).toBe(true);
  const y4m = await written('y4m', { kind: 'y4m' });
  expect(y4m.found.every((p, n) => Buffer.compare(p, source[2 * n] as Uint8Array) === 0)).toBe(true);
});

test('a clip of the timeline’s own rate shows each picture in both fields: frames are what they were', async () => {
  const input = await projectOf(SIZE, [usual, 'nearest', 0]);
  const { paths } = await rendered(input, join(folder, 'plain'), { kind: 'mkv', fields: { order: 'top' } });
  const path = paths[0] ?? '';
  const [written, source] = [await pictures(path, await ffmpeg.probe(path)), await pictures(usual, await ffmpeg.probe(usual))];
  expect(written.map((w, n) => Buffer.compare(Buffer.from(w), Buffer.from(source[n] as Uint8Array)))).toEqual(
    written.map(() => 0),
  );
});

const receiptOf = async (path: string, form: RenderFormInput, asked = form) => {
  const input = await projectOf(SIZE, [fast, 'nearest', 0]);
  const { paths } = await rendered(input, path, form);
  const request = { input, form: formSchema.parse(asked), files: paths };
  return measureReceipt({ media: ffmpeg, progress: () => undefined }, request);
};

test('the receipt measures kind and order, from the file and from its pictures', async () => {
  const receipt = await receiptOf(join(folder, 'coded'), { kind: 'mp4', fields: { order: 'top', lowPass: 'light' } });
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  expect(receipt).toMatchObject({ differs: 0, wrong: [] });
  expect(receipt.lines.filter((l) => l.what === 'fields' || l.what === 'order').map((l) => [l.asked, l.measured])).toEqual([
    ['top field first', 'top field first'],
    ['top', 'interlaced, top field first, by its pictures'],
  ]);
}, 60_000);

test('a file in the other order, and one of whole pictures, are told', async () => {
  const other = await receiptOf(
    join(folder, 'other'),
    { kind: 'mp4', fields: { order: 'bottom' } },
    { kind: 'mp4', fields: { order: 'top' } },
  );
  expect(other.lines.filter((l) => !l.same).map((l) => l.what)).toEqual(expect.arrayContaining(['fields', 'pictures']));
  const whole = await receiptOf(join(folder, 'whole'), { kind: 'mp4' }, { kind: 'mp4', fields: { order: 'top' } });
  expect(whole.lines.find((l) => l.what === 'fields')).toMatchObject({ measured: 'whole pictures', same: false });
}, 60_000);

test.each(['prores', 'mpeg2'] as const)(
  'MOV holds fields as %s, and all is as asked',
  async (codec) => {
    const receipt = await receiptOf(join(folder, codec), { kind: 'mov', codec, fields: { order: 'bottom' } });
    expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
    expect(receipt.lines.filter((l) => l.what === 'fields' || l.what === 'coding').map((l) => l.measured)).toEqual([
      codec === 'prores' ? 'prores, yuv422p10le, HQ' : 'mpeg2video, yuv420p',
      'bottom field first',
    ]);
  },
  60_000,
);

test('film is spread over fields by 2:3, found so in its pictures, and told as asked', async () => {
  const input = await projectOf(SIZE, [film, 'nearest', 0]);
  const timeline = { ...input.timeline, rate: rate(24000, 1001) };
  const edit = { ...input.project, timelines: [timeline] };
  const form = formSchema.parse({ kind: 'mkv', fields: { order: 'bottom', pulldown: true } });
  const spread = { ...input, ...renderedAt(edit, timeline, form) };
  const { paths } = await rendered(spread, join(folder, 'spread'), form);
  const path = paths[0] ?? '';
  const probe = await ffmpeg.probe(path);
  expect(probe).toMatchObject({
    pictures: framesOfFilm(timelineLength(timeline)),
    fields: 'bottom',
    measured: { rate: rate(30000, 1001) },
  });
  const [written, source] = [await pictures(path, probe), await pictures(film, await ffmpeg.probe(film))];
  for (const [n, frame] of written.entries()) {
    // The clip is two frames longer than its source: those hold its last picture.
    const of = (field: number) => source[Math.min(source.length - 1, filmOfField(field))];
    expect(sameField(frame, of(2 * n), 1)).toBe(true);
    expect(sameField(frame, of(2 * n + 1), 0)).toBe(true);
  }
  const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, { input: spread, form, files: paths });
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  expect(receipt.lines.find((l) => l.what === 'order')?.measured).toMatch(/film by 2:3, bottom field first/);
}, 60_000);
