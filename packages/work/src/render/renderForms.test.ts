import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { FORM_KINDS, FORMS, formSchema, gradesOf, type RenderFormInput, settledForm } from '@thawline/project';
import { click, heard } from '../fixtures/numbered.fixture.js';
import { projectOf, rendered } from '../fixtures/project.fixture.js';
import { measureReceipt, type RenderInput } from '../index.js';

/** Every grade of every codec and every coding of sound, written in parts, joined, and read again by the receipt. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-forms-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 256, height: 144 };
const N = SIZE.width * SIZE.height;
const context = { media: ffmpeg, progress: () => undefined };
let input: RenderInput;

beforeAll(async () => {
  const path = join(folder, 'film.mkv');
  const pictures = Array.from({ length: 24 }, (_, k) =>
    Uint8Array.from({ length: (N * 3) / 2 }, (_, i) =>
      i < N ? 40 + ((i * 7 + (i >> 8) * 13 + k * 5) % 170) : 110 + ((i + k) % 30),
    ),
  );
  const sound = { sampleRate: 48_000, channels: 2 };
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', sound }, pictures, [
    click(0.96, 24_000),
  ]);
  input = await projectOf(SIZE, [path, 'nearest', 0]);
});

async function written(name: string, form: RenderFormInput) {
  const { paths } = await rendered(input, join(folder, name), form);
  const receipt = await measureReceipt(context, { input, form: formSchema.parse(form), files: paths });
  return { paths, receipt, bytes: statSync(paths[0] ?? '').size };
}

test.each([
  ['ProRes', { kind: 'mov', sound: 'off' }],
  ['DNxHR', { kind: 'mov', codec: 'dnxhr', sound: 'off' }],
] as const)('%s: each grade is the one that was asked for, and has fewer bits than the one before', async (name, form) => {
  const grades = gradesOf(settledForm(formSchema.parse(form)));
  expect(grades.length).toBeGreaterThan(2);
  const sizes: number[] = [];
  for (const grade of grades.keys()) {
    const { receipt, bytes } = await written(`${name}-${grade}`, { ...form, grade });
    expect({ grade: grades[grade], lines: receipt.lines.filter((l) => !l.same) }).toEqual({ grade: grades[grade], lines: [] });
    sizes.push(bytes);
  }
  for (let i = 1; i < sizes.length; i++) expect(sizes[i] as number).toBeLessThan(sizes[i - 1] as number);
});

test('a grade that was not asked for is told', async () => {
  const { paths } = await rendered(input, join(folder, 'proxy'), { kind: 'mov', grade: 3, sound: 'off' });
  const form = formSchema.parse({ kind: 'mov', sound: 'off' });
  const { lines } = await measureReceipt(context, { input, form, files: paths });
  expect(lines.find((l) => l.what === 'coding')).toMatchObject({ same: false, measured: 'prores, yuv422p10le, Proxy' });
});

/** What lies beside numbered pictures and Y4M is the WAV that sound alone is. */
const SOUNDS = FORM_KINDS.filter((kind) => FORMS[kind].sound !== 'beside').flatMap((kind) =>
  FORMS[kind].sounds.map((soundCodec) => [kind, soundCodec] as const),
);

test.each([...SOUNDS, ['tiff', 'pcm16'] as const])(
  '%s with %s: its sound is that, as long as the film, and begins at its sample',
  async (kind, soundCodec) => {
    const { paths, receipt } = await written(`sound-${kind}-${soundCodec}`, { kind, soundCodec });
    expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
    const at = (await heard(paths.at(-1) ?? '')).findIndex((v) => v > 0.3);
    expect(Math.abs(at - 24_000)).toBeLessThanOrEqual(5);
  },
);
