import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { channelNotes, formSchema, type RenderFormInput, settledForm } from '@thawline/project';
import { click, source as film, numbered } from '../fixtures/numbered.fixture.js';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { make, makeLosses, measureReceipt, type RenderInput, SOUND_RATE } from '../index.js';

/** More than two channels of sound: each comes out where it went in, or it is told before and after. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-channels-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 64, height: 36 };
const context = { media: ffmpeg, progress: () => undefined };
const SECONDS = 2;

/** Each channel a tone of its own, a little louder than the one before; all begin, softly, at a sample. */
function tones(channels: number): Float32Array {
  const out = new Float32Array(SECONDS * SOUND_RATE * channels);
  for (let n = SOUND_RATE / 2; n < SECONDS * SOUND_RATE; n++)
    for (let c = 0; c < channels; c++)
      out[n * channels + c] = 0.05 * (c + 2) * softly(n) * Math.sin((2 * Math.PI * 60 * (c + 1) * n) / SOUND_RATE);
  return out;
}

const softly = (n: number): number => Math.min(1, (n - SOUND_RATE / 2) / 4800);

async function wide(channels: number): Promise<string> {
  const path = join(folder, `wide-${channels}.mkv`);
  const sound = { sampleRate: SOUND_RATE, channels, codec: 'pcm24' as const };
  const pictures = Array.from({ length: SECONDS * 25 }, (_, k) => numbered(k));
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', sound }, pictures, [tones(channels)]);
  return path;
}

/** Loudest sample of each channel of a file. */
async function levels(path: string): Promise<number[]> {
  const { sound } = await ffmpeg.probe(path);
  const channels = sound?.channels ?? 0;
  const most = new Array<number>(channels).fill(0);
  for await (const block of ffmpeg.openSound(path, { sampleRate: SOUND_RATE, channels, asStored: true }))
    for (let i = 0; i < block.length; i++)
      most[i % channels] = Math.max(most[i % channels] as number, Math.abs(block[i] as number));
  return most;
}

/** How far a channel's level is from its tone's at most, from one on. */
const mostOff = (found: readonly number[], from = 0): number =>
  Math.max(...found.map((level, c) => (c < from ? 0 : Math.abs(level - 0.05 * (c + 2)))));

async function written(input: RenderInput, name: string, form: RenderFormInput) {
  const { paths } = await rendered(input, join(folder, name), form);
  const { lines } = await measureReceipt(context, { input, form: formSchema.parse(form), files: paths });
  return { path: paths.at(-1) ?? '', sound: lines.find((l) => l.what === 'sound'), wrong: lines.filter((l) => !l.same) };
}

test.each([
  [6, 'mkv', 'flac', 0.001],
  [4, 'mkv', 'pcm16', 0.001],
  [8, 'mov', 'pcm24', 0.001],
  [12, 'wav', 'pcm32f', 0.001],
  [6, 'mp4', 'aac', 0.03],
  [6, 'webm', 'opus', 0.03],
  [7, 'mp4', 'aac', 0.03],
] as const)('%d channels in %s as %s: each is where it was', async (channels, kind, soundCodec, off) => {
  const input = await projectOf(SIZE, [await wide(channels), 'nearest', 0]);
  const { path, sound, wrong } = await written(input, `all-${channels}-${kind}`, { kind, sound: 'all', soundCodec });
  expect(wrong).toEqual([]);
  expect(sound?.measured).toContain(`${channels} channels, 2.0`);
  const found = await levels(path);
  expect(found).toHaveLength(channels);
  expect(mostOff(found)).toBeLessThan(off);
});

test('stereo beside six channels is in the first two, and at another speed all of them go along', async () => {
  const stereo = await film(folder, 'stereo.mkv', rate(25), 50, click(2, 24_000));
  const both = await projectOf(SIZE, [await wide(6), 'nearest', 0], [stereo, 'nearest', 50]);
  const slow = after(both, { type: 'retimeClip', timelineId: 't', clipId: 'c1', speed: rate(1, 2), follow: 'move' });
  const { path, wrong } = await written(slow, 'both', { kind: 'mkv', sound: 'all' });
  expect(wrong).toEqual([]);
  const found = await levels(path);
  expect(found[0]).toBeGreaterThan(0.75);
  expect(mostOff(found, 2)).toBeLessThan(0.02);
});

test('mixed to two, or held by no coding, it is told before; and the receipt tells a file that has lost some', async () => {
  const input = await projectOf(SIZE, [await wide(12), 'nearest', 0]);
  const notes = (form: RenderFormInput) => channelNotes(input.project, input.timeline, null, settledForm(formSchema.parse(form)));
  expect(notes({})).toEqual(['Sound of up to 12 channels is mixed to two, unless all channels are kept.']);
  expect(notes({ sound: 'all' })).toEqual([
    'AAC cannot hold 12 channels here: sound is mixed to two. PCM holds up to 32, FLAC 8.',
  ]);
  expect(notes({ kind: 'mov', sound: 'all' })).toEqual([]);
  expect(notes({ sound: 'off' })).toEqual([]);
  const mixed = await written(input, 'mixed', { kind: 'mp4', sound: 'all' });
  // Odd ones left, even ones right, the twelfth being the loudest.
  const [left = 0, right = 0] = await levels(mixed.path);
  expect(right).toBeGreaterThan(left);
  expect(left).toBeGreaterThan(0.1);
  expect(mixed.wrong).toEqual([]);
  expect(mixed.sound?.asked).not.toContain('channels');
  const form = formSchema.parse({ kind: 'mov', sound: 'all' });
  const { paths } = await rendered(input, join(folder, 'lost'), { ...form, sound: 'stereo' });
  const { lines } = await measureReceipt(context, { input, form, files: paths });
  expect(lines.find((l) => l.what === 'sound')).toMatchObject({ same: false, asked: expect.stringContaining('12 channels') });
});

test('made at another rate, a file keeps its channels where the form holds them, and else tells it', async () => {
  const path = await wide(6);
  const probe = await ffmpeg.probe(path);
  const output = join(folder, 'made.mkv');
  const { notKept } = await make(context, { input: path, probe, output, options: { rate: rate(50), method: 'nearest' } });
  expect(notKept).toEqual([]);
  expect(mostOff(await levels(output))).toBeLessThan(0.001);
  const twelve = await ffmpeg.probe(await wide(12));
  expect(makeLosses(twelve, 'x.mp4', { rate: rate(50) })).toEqual(['12 channels of sound are mixed to 2']);
});
