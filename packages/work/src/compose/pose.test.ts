import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PLAIN_POSE, type Point, type Pose, pictureBytes, pixelLayout } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { type CommandInput, formSchema, framedBy, sourceOf } from '@thawline/project';
import { after, changed, projectOf, rendered, timelineOf, withOver } from '../fixtures/project.fixture.js';
import { measureReceipt, type RenderInput } from '../index.js';
import { composed } from './compose.js';

/** Pictures laid by hand over a ground: where each sample comes to lie, and what is seen beside it. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-pose-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const FRAME = { width: 96, height: 64 };
const N = FRAME.width * FRAME.height;
const OWN = { width: 48, height: 32 };
const COLOUR = { primaries: null, transfer: null, matrix: 'smpte170m', range: 'limited' as const };

const groundAt = (x: number, y: number): number => 40 + ((x + 2 * y) % 60);
const pictureAt = (x: number, y: number, k: number): number => 120 + ((5 * x + 3 * y + k) % 100);

const [ground, picture] = [join(folder, 'ground.mkv'), join(folder, 'picture.mkv')];
beforeAll(async () => {
  const made = (size: { width: number; height: number }, luma: (x: number, y: number, k: number) => number, chroma: number) =>
    Array.from({ length: 4 }, (_, k) => {
      const n = size.width * size.height;
      return Uint8Array.from({ length: (n * 3) / 2 }, (_, i) =>
        i < n ? luma(i % size.width, Math.floor(i / size.width), k) : chroma,
      );
    });
  const form = { rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', colour: COLOUR } as const;
  await ffmpeg.encode(ground, { ...form, ...FRAME }, made(FRAME, groundAt, 100));
  await ffmpeg.encode(picture, { ...form, ...OWN }, made(OWN, pictureAt, 160));
});

/** The picture over the ground, pixel for pixel, laid so. */
async function laidInput(pose: Partial<Pose>, ...more: CommandInput[]): Promise<RenderInput> {
  const input = await withOver(await projectOf(FRAME, [ground, 'nearest', 0]), picture, 0);
  const clipIds = input.timeline.clips.filter((c) => c.sourceId === 'over').map((c) => c.id);
  return after(
    input,
    { type: 'setFraming', timelineId: 't', clipIds, framing: 'as-is' },
    { type: 'setPose', timelineId: 't', clipIds, pose },
    ...more,
  );
}

async function frames(input: RenderInput, pixelFormat = 'yuv420p'): Promise<Uint8Array[]> {
  const found: Uint8Array[] = [];
  const look = { pixelFormat, colour: COLOUR };
  for await (const frame of composed({ media: ffmpeg }, { ...input, look }, FRAME)) found.push(frame.slice());
  return found;
}

/** What each pixel of a frame should be: the picture's where the way back leads into it. */
function wanted(k: number, back: (x: number, y: number) => Point | null): number[] {
  return Array.from({ length: N }, (_, i) => {
    const [x, y] = [i % FRAME.width, Math.floor(i / FRAME.width)];
    const own = back(x, y);
    return own ? pictureAt(own.x, own.y, k) : groundAt(x, y);
  });
}
const inPicture = (x: number, y: number): Point | null => (x >= 0 && y >= 0 && x < OWN.width && y < OWN.height ? { x, y } : null);

test('without a pose a picture that leaves the frame free shows what lies beneath beside it', async () => {
  const [, frame] = await frames(await laidInput({}));
  expect([...(frame as Uint8Array).subarray(0, N)]).toEqual(wanted(1, (x, y) => inPicture(x - 24, y - 16)));
});

test.each([
  ['moved by even pixels', { x: 8 / 96, y: -10 / 64 }, (x: number, y: number) => inPicture(x - 32, y - 6)],
  ['moved by odd pixels', { x: 7 / 96, y: -3 / 64 }, (x: number, y: number) => inPicture(x - 31, y - 13)],
  ['half outside', { x: -40 / 96, y: 30 / 64 }, (x: number, y: number) => inPicture(x + 16, y - 46)],
  ['a quarter clockwise', { turn: 90 }, (x: number, y: number) => inPicture(y - 8, OWN.height - 1 - (x - 32))],
  ['two quarters', { turn: 180 }, (x: number, y: number) => inPicture(47 - (x - 24), 31 - (y - 16))],
  ['a quarter the other way', { turn: -90 }, (x: number, y: number) => inPicture(OWN.width - 1 - (y - 8), x - 32)],
  [
    'cut at three sides',
    { crop: { left: 0.25, top: 0.125, right: 0, bottom: 0.5 } },
    (x: number, y: number) => (x - 24 >= 12 && y - 16 >= 4 && y - 16 < 16 ? inPicture(x - 24, y - 16) : null),
  ],
] as const)('%s: each sample of luma lies where it should, bit for bit', async (_, pose, back) => {
  for (const [k, frame] of (await frames(await laidInput(pose as Partial<Pose>))).entries()) {
    const luma = [...frame.subarray(0, N)];
    const want = wanted(k, back);
    // Pixels that share colour with one beside the picture keep their own luma all the same.
    expect(luma.filter((v, i) => v !== want[i]).length).toBe(0);
  }
});

test('turned freely the picture is soft at its edge alone, and covers what its outline in the browser covers', async () => {
  const input = await laidInput({ turn: 25, scaleX: 1.25, x: 0.05, crop: { ...PLAIN_POSE.crop, left: 0.2 } });
  const clip = input.timeline.clips.find((c) => c.sourceId === 'over');
  const source = clip && sourceOf(input.project, clip.sourceId);
  if (!clip || !source) throw new Error('no clip');
  const { seen } = framedBy(source, input.timeline, clip);
  const [frame] = await frames(input, 'yuv444p');
  const distance = (x: number, y: number): number =>
    Math.min(
      ...seen.map((p, i) => {
        const q = seen[(i + 1) % seen.length] as Point;
        const [ax, ay, bx, by] = [p.x * 96, p.y * 64, q.x * 96, q.y * 64];
        return ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / Math.hypot(bx - ax, by - ay);
      }),
    );
  let [inside, outside] = [0, 0];
  for (let i = 0; i < N; i++) {
    const [x, y] = [i % 96, Math.floor(i / 96)];
    const d = distance(x + 0.5, y + 0.5);
    // The ground's chroma is 100, the picture's 160.
    if (d > 1.5) {
      inside++;
      expect(frame?.[N + i]).toBe(160);
    }
    if (d < -1.5) {
      outside++;
      expect([frame?.[i], frame?.[N + i]]).toEqual([groundAt(x, y), 100]);
    }
  }
  expect(inside).toBeGreaterThan(400);
  expect(outside).toBeGreaterThan(2000);
});

test('with nothing beneath, a form that keeps alpha has the same outline', async () => {
  const whole = await laidInput({ x: 0.1, scaleX: 0.5, scaleY: 0.5 });
  const project = changed(whole.project, { type: 'removeClips', timelineId: 't', clipIds: ['c0'] });
  const [frame] = await frames({ ...whole, project, timeline: timelineOf(project) }, 'yuva444p');
  const alpha = [...(frame as Uint8Array).subarray(3 * N)];
  // 24x16 in the middle, a tenth of 96 to the right.
  expect(alpha.filter((a) => a === 255)).toHaveLength(24 * 16);
  expect(alpha.filter((a) => a === 0)).toHaveLength(N - 24 * 16);
  expect(alpha[24 * 96 + 46]).toBe(255);
  expect(alpha[24 * 96 + 45]).toBe(0);
});

test('stretched, all of it is in all of the frame', async () => {
  const input = await laidInput({}, { type: 'setFraming', timelineId: 't', clipIds: ['o0'], framing: 'stretch' });
  const [frame] = await frames(input);
  // Every pixel is the picture's: its chroma is 160, the ground's 100.
  expect(new Set(frame?.subarray(N))).toEqual(new Set([160]));
});

test('rendered, a file of laid pictures is as asked, and another pose is another part', async () => {
  const cache = join(folder, 'cache');
  const context = { media: ffmpeg, progress: () => undefined };
  for (const [name, pose, reused] of [
    ['one', { turn: 12, scaleX: 0.75 }, 0],
    ['two', { turn: 12, scaleX: 0.75 }, 4],
    ['three', { turn: 13, scaleX: 0.75 }, 0],
  ] as const) {
    const input = await laidInput(pose);
    const made = await rendered(input, join(folder, name), { kind: 'mkv' }, cache);
    expect({ name, reused: made.reused }).toEqual({ name, reused });
    const receipt = await measureReceipt(context, { input, form: formSchema.parse({ kind: 'mkv' }), files: made.paths });
    expect(receipt.lines.filter((l) => !l.same)).toEqual([]);
  }
});

test.each(['yuv420p', 'yuv422p10le'])(
  'a timeline of odd size shows %s of its size bit for bit, and is written so',
  async (pixelFormat) => {
    const odd = { width: 97, height: 65 };
    const layout = pixelLayout(pixelFormat);
    if (!layout) throw new Error(pixelFormat);
    const pictures = Array.from({ length: 3 }, (_, k) =>
      Uint8Array.from({ length: pictureBytes(layout, odd.width, odd.height) }, (_, i) =>
        layout.bytes === 2 && i % 2 === 1 ? 1 : 60 + ((i * 5 + k) % 120),
      ),
    );
    const path = join(folder, `odd-${pixelFormat}.mkv`);
    await ffmpeg.encode(path, { ...odd, rate: rate(25), pixelFormat, form: 'mkv', colour: COLOUR }, pictures);
    const input = await projectOf(odd, [path, 'nearest', 0]);
    expect(input.timeline).toMatchObject(odd);
    const look = { pixelFormat, colour: COLOUR };
    let k = 0;
    for await (const frame of composed({ media: ffmpeg }, { ...input, look }, odd))
      expect(Buffer.compare(frame, pictures[k++] as Uint8Array)).toBe(0);
    expect(k).toBe(3);
    const context = { media: ffmpeg, progress: () => undefined };
    for (const kind of ['mkv', 'mov', 'webm', 'y4m'] as const) {
      const { paths } = await rendered(input, join(folder, `odd-${kind}-${layout.bits}`), { kind });
      const receipt = await measureReceipt(context, { input, form: formSchema.parse({ kind }), files: paths });
      expect({ kind, lines: receipt.lines.filter((l) => !l.same) }).toEqual({ kind, lines: [] });
    }
  },
);

test('a picture of odd size lies pixel for pixel, and gives none of its colour to what is beside it', async () => {
  const path = join(folder, 'small-odd.mkv');
  const own = { width: 31, height: 21 };
  const n = own.width * own.height;
  const one = Uint8Array.from({ length: n + 2 * 16 * 11 }, (_, i) => (i < n ? 100 + (i % 90) : 220));
  await ffmpeg.encode(path, { ...own, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', colour: COLOUR }, [one, one.slice()]);
  const input = await withOver(await projectOf(FRAME, [ground, 'nearest', 0]), path, 0);
  const [frame] = await frames(
    after(input, { type: 'setFraming', timelineId: 't', clipIds: ['o0'], framing: 'as-is' }),
    'yuv444p',
  );
  const [x, y] = [32, 20];
  for (let j = 0; j < own.height; j++)
    for (let i = 0; i < own.width; i++) expect(frame?.[(y + j) * 96 + x + i]).toBe(one[j * own.width + i]);
  expect([frame?.[N + y * 96 + x + 31], frame?.[N + (y + 21) * 96 + x]]).toEqual([100, 100]);
});
