import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pictureBytes, pixelLayout } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg, seriesPattern } from '@thawline/media';
import {
  clipsFor,
  FORMS,
  formSchema,
  isSeries,
  noTiming,
  type Project,
  type RenderFormInput,
  renderedAt,
  type Source,
  settledForm,
  type Timeline,
  timelineAsSource,
  unheldBy,
} from '@thawline/project';
import { after, changed, fileSource, projectOf, rendered, withOver } from '../fixtures/project.fixture.js';
import { measureReceipt, type RenderInput } from '../index.js';

/** Timelines whose transparency is kept, in every form that has it, and over colours in those that have not. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-alpha-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 48 };
const N = SIZE.width * SIZE.height;
const FRAMES = 8;
const context = { media: ffmpeg, progress: () => undefined };

const opaqueAt = (k: number, i: number): number =>
  Math.max(0, Math.min(1, (16 - Math.hypot((i % SIZE.width) - 24 - k, Math.floor(i / SIZE.width) - 24)) / 7));
const alphaAt = (k: number, i: number): number => Math.round(255 * opaqueAt(k, i));
const lumaAt = (k: number, i: number): number => 60 + (((i % SIZE.width) * 3 + k) % 150);

/** A disc with a soft edge, luma, chroma and alpha for each pixel; beneath nothing lies noise. */
function straightDisc(k: number): Uint8Array {
  const out = new Uint8Array(4 * N);
  for (let i = 0; i < N; i++) {
    const hidden = alphaAt(k, i) === 0;
    out[i] = hidden ? (i * 97 + k * 31) % 256 : lumaAt(k, i);
    out[N + i] = hidden ? (i * 53) % 256 : 90;
    out[2 * N + i] = hidden ? (i * 29) % 256 : 170;
    out[3 * N + i] = alphaAt(k, i);
  }
  return out;
}

const disc = join(folder, 'disc.mkv');
const ground = join(folder, 'ground.mkv');
const COLOUR = { primaries: null, transfer: null, matrix: 'smpte170m', range: 'limited' as const };
const levelAt = (i: number): number => 70 + (i % SIZE.width);

beforeAll(async () => {
  const form = { ...SIZE, rate: rate(25), form: 'mkv', colour: COLOUR } as const;
  const discs = Array.from({ length: FRAMES }, (_, k) => straightDisc(k));
  await ffmpeg.encode(disc, { ...form, pixelFormat: 'yuva444p' }, discs);
  const grounds = Array.from({ length: FRAMES }, () =>
    Uint8Array.from({ length: (N * 3) / 2 }, (_, i) => (i < N ? levelAt(i) : 128)),
  );
  await ffmpeg.encode(ground, { ...form, pixelFormat: 'yuv420p' }, grounds);
});

async function written(input: RenderInput, name: string, form: RenderFormInput, pixelFormat: string) {
  const { paths } = await rendered(input, join(folder, name), form);
  const [path = ''] = paths;
  const series = form.kind && isSeries(form.kind) ? seriesPattern(path, FORMS[form.kind].ending) : null;
  const probe = series ? await ffmpeg.probeSeries(series, { pictures: FRAMES, rate: rate(25) }) : await ffmpeg.probe(path);
  const pictures: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(series ?? path, probe, { pixelFormat, colour: COLOUR })) pictures.push(picture);
  const receipt = await measureReceipt(context, { input, form: formSchema.parse(form), files: paths });
  return { probe, pictures, receipt };
}

const alphaOff = (picture: Uint8Array, k: number): number =>
  Math.max(...Array.from({ length: N }, (_, i) => Math.abs((picture[3 * N + i] as number) - alphaAt(k, i))));

test('a clip that is alone passes sample by sample, what lies where nothing is seen and all', async () => {
  const input = await projectOf(SIZE, [disc, 'nearest', 0]);
  const form = { kind: 'mkv', chroma: '444', over: 'nothing' } as const;
  const { pictures, receipt, probe } = await written(input, 'alone', form, 'yuva444p');
  expect(probe.pixelFormat).toBe('yuva444p');
  pictures.forEach((picture, k) => {
    expect(Buffer.compare(picture, straightDisc(k))).toBe(0);
  });
  expect(receipt.differs).toBe(0);
  expect(receipt.lines.find((l) => l.what === 'alpha')).toMatchObject({ same: true, measured: 'each frame its own, straight' });
});

test('at half opacity alpha is half, and colour that is seen stays as it is', async () => {
  const whole = await projectOf(SIZE, [disc, 'nearest', 0]);
  const input = after(whole, { type: 'setOpacity', timelineId: 't', clipIds: ['c0'], opacity: 0.5 });
  const { pictures } = await written(input, 'half', { kind: 'mkv', chroma: '444', over: 'nothing' }, 'yuva444p');
  for (const k of [0, 5]) {
    const picture = pictures[k] as Uint8Array;
    for (let i = 0; i < N; i++) {
      const alpha = alphaAt(k, i);
      expect(Math.abs((picture[3 * N + i] as number) - alpha / 2)).toBeLessThanOrEqual(0.51);
      if (alpha === 0) continue;
      expect(picture[i]).toBe(lumaAt(k, i));
      expect([picture[N + i], picture[2 * N + i]]).toEqual([90, 170]);
    }
    // Nothing is left of what nobody sees.
    const hidden = Array.from({ length: N }, (_, i) => i).filter((i) => alphaAt(k, i) === 0);
    expect(hidden.every((i) => picture[i] === 16 && picture[N + i] === 128 && picture[2 * N + i] === 128)).toBe(true);
  }
});

test('a ground without alpha beneath it is all there, and the disc over it by the sum', async () => {
  const below = await withOver(await projectOf(SIZE, [ground, 'nearest', 0]), disc, 0);
  const { pictures } = await written(below, 'over', { kind: 'mkv', chroma: '444', over: 'nothing' }, 'yuva444p');
  const picture = pictures[3] as Uint8Array;
  expect(picture.subarray(3 * N).every((alpha) => alpha === 255)).toBe(true);
  expect(lumaOff(picture, 3)).toBeLessThan(1);
});

/** How far luma of the disc over the ground is from the sum. */
const lumaOff = (picture: Uint8Array, k: number): number =>
  Math.max(
    ...Array.from({ length: N }, (_, i) => {
      const share = alphaAt(k, i) / 255;
      return Math.abs((picture[i] as number) - (16 + (lumaAt(k, i) - 16) * share + (levelAt(i) - 16) * (1 - share)));
    }),
  );

test.each([
  ['8 bit', { depth: 8 }],
  ['16 bit', { depth: 16 }],
  ['12 bit, with alpha', { depth: 12, over: 'nothing' }],
] as const)('layers are laid in red, green and blue of %s', async (name, more) => {
  const below = await withOver(await projectOf(SIZE, [ground, 'nearest', 0]), disc, 0);
  const { pictures, receipt } = await written(below, `rgb ${name}`, { kind: 'mkv', chroma: 'rgb', ...more }, 'yuv444p');
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  // Some of its colours are none that red, green and blue can be.
  for (const k of [0, 5]) expect(lumaOff(pictures[k] as Uint8Array, k)).toBeLessThan(2);
});

test.each([
  ['webm', { kind: 'webm', quality: 0 }, 'yuva420p', 0],
  ['mov', { kind: 'mov' }, 'yuva444p12le', 0],
  ['png', { kind: 'png' }, 'rgba', 0],
  ['png of 16 bit', { kind: 'png', depth: 10 }, 'rgba64be', 0],
  ['tiff', { kind: 'tiff' }, 'rgba', 0],
  ['tiff of 16 bit', { kind: 'tiff', depth: 10 }, 'rgba64le', 0],
  ['exr', { kind: 'exr' }, 'gbrapf32le', 1],
  ['mkv of 10 bit', { kind: 'mkv', depth: 10, chroma: '422' }, 'yuva422p10le', 0],
] as const)('transparency is kept in %s', async (name, form, format, off) => {
  const input = await projectOf(SIZE, [disc, 'nearest', 0]);
  const { probe, pictures, receipt } = await written(input, `kept-${name}`, { ...form, over: 'nothing' }, 'yuva444p');
  expect(probe.pixelFormat).toBe(format);
  expect(pictures).toHaveLength(FRAMES);
  for (const k of [0, FRAMES - 1]) expect(alphaOff(pictures[k] as Uint8Array, k)).toBeLessThanOrEqual(off + 1);
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  expect(receipt.differs).toBe(0);
});

/** The input with a timeline of its own on the second lane, in which the disc stands alone from frame 2 on, for four frames. */
async function withPlaced(input: RenderInput): Promise<RenderInput> {
  const probe = await ffmpeg.probe(disc);
  const source = fileSource('disc', probe);
  const inner = { id: 'n', name: 'Inner', rate: rate(25), ...SIZE, startFrame: 0, dropFrame: false };
  const empty = changed(input.project, { type: 'addSources', sources: [source] }, { type: 'addTimeline', timeline: inner });
  let made = 0;
  const newId = () => `n${made++}`;
  const placed = (project: Project, timelineId: string, what: Source, start: number, laneId: string) => {
    const timeline = project.timelines.find((t) => t.id === timelineId) as Timeline;
    const clips = clipsFor({ timeline, source: what, fit: 'nearest', start, newId }, noTiming);
    return changed(project, {
      type: 'placeClips',
      timelineId,
      clips: clips.map((c) => ({ ...c, laneId, start, length: c.length })),
    });
  };
  const filled = placed(empty, 'n', source, 2, 'p1');
  const nested = filled.timelines.find((t) => t.id === 'n') as Timeline;
  const project = placed(filled, 't', timelineAsSource(filled, nested), 0, 'p2');
  return {
    project,
    timeline: project.timelines.find((t) => t.id === 't') as Timeline,
    files: { ...input.files, disc: { path: disc, probe } },
  };
}

test('a timeline that is placed is seen through where nothing is in it, and as its clips are', async () => {
  const input = await withPlaced(await projectOf(SIZE, [ground, 'nearest', 0]));
  const { pictures, receipt } = await written(input, 'placed', { kind: 'mkv', chroma: '444' }, 'yuv444p');
  expect(receipt.differs).toBe(0);
  // Before its first clip the ground alone.
  const before = pictures[1] as Uint8Array;
  expect(Array.from({ length: N }, (_, i) => Math.abs((before[i] as number) - levelAt(i))).every((off) => off <= 1)).toBe(true);
  for (const k of [0, 3]) expect(lumaOff(pictures[k + 2] as Uint8Array, k)).toBeLessThan(1.1);
});

test('transparency of a placed timeline is kept, at the timeline’s rate and at another', async () => {
  const alone = await withPlaced({ ...(await projectOf(SIZE)), files: {} });
  const form = { kind: 'mkv', chroma: '444', over: 'nothing' } as const;
  const { pictures, receipt } = await written(alone, 'placed-clear', form, 'yuva444p');
  expect(receipt.differs).toBe(0);
  const clear = pictures[1] as Uint8Array;
  expect(clear.subarray(3 * N).every((alpha) => alpha === 0)).toBe(true);
  for (const k of [0, 3]) expect(alphaOff(pictures[k + 2] as Uint8Array, k)).toBeLessThanOrEqual(1);
  const twice = { ...formSchema.parse(form), rate: rate(50) };
  const { project, timeline, range } = renderedAt(alone.project, alone.timeline, twice);
  const fast = await written({ ...alone, project, timeline, range }, 'placed-fast', form, 'yuva444p');
  expect(fast.receipt.differs).toBe(0);
  expect(fast.pictures).toHaveLength(2 * pictures.length);
  for (const k of [0, 3]) expect(alphaOff(fast.pictures[2 * (k + 2)] as Uint8Array, k)).toBeLessThanOrEqual(1);
});

test('a file whose alpha was lost, or is that of other frames, is told', async () => {
  const input = await projectOf(SIZE, [disc, 'nearest', 0]);
  const form = formSchema.parse({ kind: 'mkv', chroma: '444', over: 'nothing' });
  const told = async (name: string, pixelFormat: string, pictures: Uint8Array[]) => {
    const path = join(folder, `${name}.mkv`);
    await ffmpeg.encode(path, { ...SIZE, rate: rate(25), form: 'mkv', colour: COLOUR, pixelFormat }, pictures);
    const { lines } = await measureReceipt(context, { input, form, files: [path] });
    return lines.find((l) => l.what === 'alpha');
  };
  const flat = Array.from({ length: FRAMES }, (_, k) => straightDisc(k).slice(0, 3 * N));
  expect(await told('flat', 'yuv444p', flat)).toMatchObject({ same: false, measured: 'none' });
  const all = Array.from({ length: FRAMES }, (_, k) => straightDisc(k).fill(255, 3 * N));
  expect(await told('filled', 'yuva444p', all)).toMatchObject({ same: false });
});

test('where a form has no alpha it is refused, or goes over the colour that was chosen', async () => {
  const timeline = { rate: rate(25), ...SIZE };
  const refused = (form: RenderFormInput) => unheldBy(settledForm(formSchema.parse(form)), timeline);
  expect(refused({ kind: 'mp4', over: 'nothing' })).toMatch(/^H\.264 cannot keep transparency: FFV1, VP9/);
  expect(refused({ kind: 'webm', codec: 'av1', over: 'nothing' })).toMatch(/^AV1 cannot/);
  expect(refused({ kind: 'y4m', over: 'nothing' })).toMatch(/^Y4M cannot/);
  expect(refused({ kind: 'webm', over: 'nothing' })).toBeNull();
  expect(refused({ kind: 'mp4', over: '#ff0000' })).toBeNull();
  const input = await projectOf(SIZE, [disc, 'nearest', 0]);
  const { pictures, receipt } = await written(input, 'red', { kind: 'mkv', chroma: '444', over: '#ff0000' }, 'yuv444p');
  expect(receipt.differs).toBe(0);
  // Red of BT.601: 16 + 219 x 0.299, 128 - 224 x 0.299 / 1.772, 128 + 112.
  const layout = pixelLayout('yuv444p');
  expect(pictures[0]).toHaveLength(layout ? pictureBytes(layout, SIZE.width, SIZE.height) : 0);
  expect([0, N, 2 * N].map((at) => pictures[0]?.[at])).toEqual([81, 90, 240]);
});
