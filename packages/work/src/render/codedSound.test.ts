import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { formSchema, type RenderFormInput, settledForm } from '@thawline/project';
import { HEIGHT, source, WIDTH } from '../fixtures/numbered.fixture.js';
import { projectOf, rendered } from '../fixtures/project.fixture.js';
import { loudnessOfFile, measureReceipt, type RenderInput, SOUND_RATE } from '../index.js';
import { codeSound } from './codedSound.js';

/** How loud files come out, against how loud they were asked for. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-level-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Clicks and noise up to full scale: what codecs overshoot on. */
function loud(seconds: number, amplitude: number): Float32Array {
  const sound = new Float32Array(Math.round(seconds * SOUND_RATE) * 2);
  let seed = 11;
  for (let n = 0; n < sound.length / 2; n++) {
    seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
    const burst = n % 9000 < 900 ? 1 : 0.2;
    const value = amplitude * burst * Math.sign(seed / 2_147_483_648 - 0.5);
    sound[2 * n] = sound[2 * n + 1] = value;
  }
  return sound;
}

let input: RenderInput;
let quiet: RenderInput;
beforeAll(async () => {
  const size = { width: WIDTH, height: HEIGHT };
  input = await projectOf(size, [await source(folder, 'loud.mkv', rate(25), 50, loud(2, 0.9)), 'nearest', 0]);
  quiet = await projectOf(size, [await source(folder, 'quiet.mkv', rate(25), 50, loud(2, 0.02)), 'nearest', 0]);
});

test('coding adds to the peak of loud sound, and that is told', async () => {
  const { mix, coded, bytes } = await codeSound({ media: ffmpeg }, input, settledForm(formSchema.parse({})), folder);
  expect((coded.peak ?? 0) - (mix.peak ?? 0)).toBeGreaterThan(0.1);
  expect(bytes).toBeGreaterThan(10_000);
});

test.each([{ kind: 'mp4' }, { kind: 'webm' }] as const)(
  'a peak that is asked for is that of the file as it decodes, up and down: %p',
  async (kind) => {
    for (const [of, name] of [
      [input, 'down'],
      [quiet, 'up'],
    ] as const) {
      const form: RenderFormInput = { ...kind, peak: -1 };
      const made = await rendered(of, join(folder, `${name}-${kind.kind}.x`), form);
      const file = made.paths.at(-1) ?? '';
      const { peak } = await loudnessOfFile({ media: ffmpeg }, file);
      expect(peak).toBeLessThanOrEqual(-0.99);
      expect(peak).toBeGreaterThan(-1.3);
      const receipt = await measureReceipt(
        { media: ffmpeg, progress: () => undefined },
        { input: made.input, form: formSchema.parse(form), files: made.paths },
      );
      expect(receipt.lines.find((l) => l.what === 'peak')).toMatchObject({ asked: '\u22121.0 dBTP', same: true });
      expect(receipt.differs).toBe(0);
    }
  },
);

test('a file above the peak that was asked for is told', async () => {
  const made = await rendered(input, join(folder, 'above.mp4'), {});
  const form = formSchema.parse({ peak: -1 });
  const receipt = await measureReceipt(
    { media: ffmpeg, progress: () => undefined },
    { input: made.input, form, files: made.paths },
  );
  expect(receipt.lines.filter((l) => !l.same).map((l) => l.what)).toEqual(['peak']);
});
