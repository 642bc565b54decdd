import { appendFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { formSchema, type RenderFormInput } from '@thawline/project';
import { HEIGHT, numbered, source, WIDTH } from '../fixtures/numbered.fixture.js';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { fingerprintOfAll, measureReceipt, type Receipt, type RenderInput, SOUND_RATE } from '../index.js';

/** What receipts say of files that were rendered here, and of files that only look as if they were. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-receipt-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;

/** Noise that is nowhere like itself, with silence at both ends. */
function noise(seconds: number): Float32Array {
  const sound = new Float32Array(Math.round(seconds * SOUND_RATE) * 2);
  let seed = 7;
  for (let n = SOUND_RATE / 4; n < sound.length / 2 - SOUND_RATE / 4; n++) {
    seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
    sound[2 * n] = sound[2 * n + 1] = (seed / 2_147_483_648 - 0.5) * 0.5;
  }
  return sound;
}

const measured = (input: RenderInput, files: readonly string[], form: RenderFormInput = {}): Promise<Receipt> =>
  measureReceipt({ media: ffmpeg, progress: quiet }, { input, form: formSchema.parse(form), files });

const differing = (receipt: Receipt): string[] => receipt.lines.filter((l) => !l.same).map((l) => l.what);
const line = (receipt: Receipt, what: string) => receipt.lines.find((l) => l.what === what);

let input: RenderInput;
beforeAll(async () => {
  input = await projectOf({ width: WIDTH, height: HEIGHT }, [
    await source(folder, 'clean.mkv', rate(25), 75, noise(3)),
    'nearest',
    0,
  ]);
});

/** A file as if it had been rendered, its frames by number. */
async function pretend(name: string, numbers: readonly number[], r = rate(25)): Promise<string> {
  const path = join(folder, name);
  const request = { width: WIDTH, height: HEIGHT, rate: r, pixelFormat: 'yuv420p', form: 'mp4' as const };
  const colour = { matrix: 'smpte170m', range: 'limited' as const, primaries: null, transfer: null };
  await ffmpeg.encode(path, { ...request, colour }, numbers.map(numbered));
  return path;
}
const COUNT = Array.from({ length: 75 }, (_, k) => k);
const MUTE = { sound: 'off', timecode: false } as const;

test.each([
  { kind: 'mp4' },
  { kind: 'mp4', depth: 10 },
  { kind: 'webm' },
  { kind: 'mkv' },
  { kind: 'mov' },
  { kind: 'mov', codec: 'mpeg2' },
  { kind: 'y4m' },
  { kind: 'png' },
  { kind: 'wav' },
] as const)('of a render as %p everything is as asked', async (form) => {
  const { paths, files } = await rendered(
    input,
    join(folder, `asked-${form.kind}-${'depth' in form}-${'codec' in form}.x`),
    form,
  );
  const receipt = await measured(input, paths, form);
  expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  expect(receipt).toMatchObject({ differs: 0, wrong: [], frames: 75 });
  expect(receipt.files).toHaveLength(files.length);
  expect(line(receipt, 'sync')?.measured).toMatch(/^[+−]?0\.\d ms at start, [+−]?0\.\d ms at end$/);
  expect(receipt.peak).toBeGreaterThan(-14);
});

test('one held frame is found exactly, with the pictures asked for and shown, and is one thing that differs', async () => {
  const path = await pretend(
    'held.mp4',
    COUNT.map((k) => (k === 31 ? 30 : k)),
  );
  const receipt = await measured(input, [path], MUTE);
  expect(receipt.wrong).toEqual([
    { frame: 31, frames: 1, shows: 30, asked: { source: 'i0', picture: 31 }, shown: { source: 'i0', picture: 30 } },
  ]);
  expect(receipt.differs).toBe(1);
  expect(differing(receipt)).toEqual(['held', 'hitches', 'pictures']);
  expect(line(receipt, 'held')?.measured).toBe('1');
});

test('pictures that are left out, shifted ever after and strange to all are told as stretches', async () => {
  const shifted = [...COUNT.slice(0, 20), ...COUNT.slice(29)];
  const receipt = await measured(input, [await pretend('skip.mp4', shifted)], MUTE);
  expect(receipt.wrong).toMatchObject([{ frame: 20, frames: 46, shows: 29 }]);
  expect(differing(receipt)).toEqual(['frames', 'length', 'hitches', 'pictures']);
  const strange = await measured(
    input,
    [
      await pretend(
        'strange.mp4',
        COUNT.map((k) => (k === 40 ? 1060 + 32 : k)),
      ),
    ],
    MUTE,
  );
  expect(strange.wrong).toMatchObject([{ frame: 40, frames: 1, shows: null, shown: null }]);
});

test('another rate, another sound and another coding are each told', async () => {
  const slow = await measured(input, [await pretend('slow.mp4', COUNT, rate(24))], MUTE);
  expect(differing(slow)).toEqual(['rate', 'length']);
  const silent = await measured(input, [await pretend('silent.mp4', COUNT)], { timecode: false });
  expect(differing(silent)).toEqual(['sound']);
  const own = input.timeline.clips.filter((c) => c.link !== null).map((c) => c.id);
  const late = after(input, { type: 'setSound', timelineId: 't', clipIds: own, level: 0 });
  const { paths } = await rendered(late, join(folder, 'late.mkv'), { kind: 'mkv' });
  const slipped = { ...late, timeline: { ...late.timeline, clips: late.timeline.clips.map((c) => ({ ...c, slip: 8000 })) } };
  const apart = await measured(slipped, paths, { kind: 'mkv' });
  expect(differing(apart)).toEqual(['sync']);
  expect(line(apart, 'sync')?.measured).toBe('+8.0 ms at start, +8.0 ms at end');
  // Of pictures and of sound.
  expect(differing(await measured(input, paths, { kind: 'mp4' }))).toEqual(['coding', 'sound']);
});

test('a dissolve is as asked where it is written, and another one is made anew', async () => {
  const pictures = input.timeline.clips[0]?.id ?? '';
  const cut = after(
    input,
    { type: 'splitClips', timelineId: 't', clipIds: [pictures], frame: 40, seed: 's' },
    { type: 'slipClips', timelineId: 't', clipIds: ['s-0'], byPictures: -20 },
  );
  const over = (before: number): RenderInput =>
    after(cut, { type: 'setDissolve', timelineId: 't', clipId: 's-0', before, after: 6 });
  const cache = join(folder, 'dissolve-cache');
  const first = await rendered(over(6), join(folder, 'over.mp4'), MUTE, cache);
  expect(await measured(first.input, first.paths, MUTE)).toMatchObject({ differs: 0, wrong: [], frames: 75 });
  const other = await rendered(over(3), join(folder, 'over-2.mp4'), MUTE, cache);
  // What lies behind it is there already.
  expect(other.reused).toBe(29);
  expect(await measured(other.input, other.paths, MUTE)).toMatchObject({ differs: 0 });
  // Cut instead of dissolved: told.
  const { paths } = await rendered(cut, join(folder, 'cut.mp4'), MUTE);
  const told = await measured(first.input, paths, MUTE);
  expect(told.wrong.length).toBeGreaterThan(0);
  expect(Math.min(...told.wrong.map((w) => w.frame))).toBeLessThanOrEqual(36);
});

test('equal neighbours are not called wrong, and are counted', async () => {
  const flat = await projectOf({ width: WIDTH, height: HEIGHT }, [await source(folder, 'flat.mkv', rate(25), 1), 'nearest', 0]);
  const { paths } = await rendered(flat, join(folder, 'flat.mp4'), { quality: 40 });
  expect(await measured(flat, paths, { quality: 40 })).toMatchObject({ differs: 0, wrong: [] });
});

test('a file that is changed has another fingerprint', async () => {
  const path = await pretend('print.mp4', COUNT.slice(0, 5));
  const before = await fingerprintOfAll([path]);
  expect(await fingerprintOfAll([path])).toBe(before);
  appendFileSync(path, 'x');
  expect(await fingerprintOfAll([path])).not.toBe(before);
});
