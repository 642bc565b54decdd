import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Encoding, type PixelRange, pictureBytes, pixelLayout, samplesOf } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { codesOf, PATCHES, type Three } from '@thawline/rig';
import { ffmpeg } from './index.js';

/** Patches at every depth, from one matrix, range or model to another and back: within one code value of the sums. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-exact-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const SIZE = { width: 40, height: 16 };
const N = SIZE.width * SIZE.height;
/** Patches stand side by side, each so wide. */
const WIDE = 4;
const MIDDLE = 8 * SIZE.width + WIDE / 2;

/** One picture of all patches, in planes. */
function painted(pixelFormat: string, codesFor: (patch: Three) => readonly number[]): Uint8Array {
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new Error(pixelFormat);
  const out = new Uint8Array(pictureBytes(layout, SIZE.width, SIZE.height));
  const samples = samplesOf(layout, out);
  for (let i = 0; i < N; i++) {
    const codes = codesFor(PATCHES[Math.floor((i % SIZE.width) / WIDE)] as Three);
    for (let plane = 0; plane < 3; plane++) samples[plane * N + i] = Math.round(codes[plane] as number);
    if (layout.alpha) samples[3 * N + i] = 2 ** layout.bits - 1;
  }
  return out;
}

const encodingOf = (matrix: string, range: PixelRange): Encoding => ({ matrix, range });
const rgbCodes =
  (bits: number) =>
  ([r, g, b]: Three): Three =>
    [g, b, r].map((v) => v * (2 ** bits - 1)) as unknown as Three;

const BT709 = encodingOf('bt709', 'limited');

async function stored(name: string, pixelFormat: string, encoding: Encoding, picture: Uint8Array): Promise<string> {
  const path = join(folder, `${name.replaceAll(' ', '-')}.mkv`);
  const rgb = pixelLayout(pixelFormat)?.rgb;
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: rgb ? null : encoding.matrix, range: encoding.range };
  await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat, form: 'mkv', colour }, [picture]);
  return path;
}

async function read(path: string, pixelFormat: string, colour?: Encoding): Promise<Uint8Array | Uint16Array> {
  const request = { pixelFormat, ...(colour ? { colour } : {}) };
  const { value } = await ffmpeg
    .openPictures(path, await ffmpeg.probe(path), request)
    [Symbol.asyncIterator]()
    .next();
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new Error(pixelFormat);
  return samplesOf(layout, value as Uint8Array);
}

/** How far patches are from what they should be at most. */
function worst(samples: Uint8Array | Uint16Array, codesFor: (patch: Three) => readonly number[]): number {
  return Math.max(
    ...PATCHES.flatMap((patch, k) =>
      codesFor(patch).map((want, plane) => Math.abs((samples[plane * N + MIDDLE + k * WIDE] as number) - want)),
    ),
  );
}

test.each([
  ['RGB of 8 bit', 'gbrp', 8],
  ['RGB of 10 bit', 'gbrp10le', 10],
  ['RGB of 12 bit', 'gbrp12le', 12],
  ['RGB of 16 bit', 'gbrp16le', 16],
] as const)('%s becomes luma and chroma of 10 bit by the sums', async (name, format, bits) => {
  const path = await stored(name, format, encodingOf('bt709', 'full'), painted(format, rgbCodes(bits)));
  const most = 2 ** bits - 1;
  const asStored = (patch: Three): Three => patch.map((v) => Math.round(v * most) / most) as unknown as Three;
  expect(worst(await read(path, 'yuv444p10le', BT709), (patch) => codesOf(asStored(patch), BT709))).toBeLessThan(1);
});

test.each([
  ['yuv444p', 8, 'smpte170m', 'limited'],
  ['yuv444p', 8, 'bt709', 'full'],
  ['yuv444p10le', 10, 'bt709', 'full'],
  ['yuv444p10le', 10, 'bt2020nc', 'limited'],
  ['yuv444p16le', 16, 'smpte170m', 'full'],
] as const)('%s (%d bit) of %s, %s range, becomes that of BT.709 by the sums', async (format, bits, matrix, range) => {
  const own = encodingOf(matrix, range);
  const picture = painted(format, (patch) => codesOf(patch, own, bits));
  const path = await stored(`${format} ${matrix} ${range}`, format, own, picture);
  // 8 bit is rounded before: up to half a step of its own, which is two of 10 bit; chroma and luma may add up.
  const most = bits === 8 ? 5 : 1;
  expect(worst(await read(path, 'yuv444p10le', BT709), (patch) => codesOf(patch, BT709))).toBeLessThan(most);
});

test('numbered PNG of 16 bit holds what luma and chroma of 10 bit say, white and all', async () => {
  const pattern = join(folder, '%08d.png');
  const picture = painted('yuv444p10le', (patch) => codesOf(patch, BT709));
  const colour = { primaries: 'bt709', transfer: 'bt709', ...BT709 };
  await ffmpeg.encode(pattern, { ...SIZE, rate: rate(25), pixelFormat: 'yuv444p10le', form: 'png', colour }, [picture]);
  const probe = await ffmpeg.probeSeries(pattern, { pictures: 1, rate: rate(25) });
  expect(probe.pixelFormat).toBe('rgb48be');
  const { value } = await ffmpeg.openPictures(pattern, probe, { pixelFormat: 'gbrp16le' })[Symbol.asyncIterator]().next();
  const samples = new Uint16Array((value as Uint8Array).buffer);
  // A step of 10 bit is 75 of 16 in luma, and a half of one of each kind of chroma adds up to twice that.
  expect(worst(samples, rgbCodes(16))).toBeLessThan(130);
  expect(samples[MIDDLE + 5 * WIDE]).toBe(65535);
});

test.each(['gbrap', 'gbrap10le', 'gbrap12le'])(
  'luma and chroma with alpha become %s, and without it all is there',
  async (format) => {
    const clear = pixelLayout(format);
    const most = 2 ** (clear?.bits ?? 0) - 1;
    for (const own of ['yuva444p10le', 'yuv444p10le']) {
      const path = await stored(
        `${own} as ${format}`,
        own,
        BT709,
        painted(own, (patch) => codesOf(patch, BT709)),
      );
      const samples = await read(path, format, encodingOf('bt709', 'full'));
      expect(worst(samples, rgbCodes(clear?.bits ?? 0))).toBeLessThan(1 + most / 500);
      expect(samples[3 * N + MIDDLE]).toBe(most);
    }
  },
);

test('luma alone comes in the matrix and range that are asked for', async () => {
  const own = encodingOf('smpte170m', 'limited');
  const full = encodingOf('bt709', 'full');
  const path = await stored(
    'luma',
    'yuv444p',
    own,
    painted('yuv444p', (patch) => codesOf(patch, own, 8)),
  );
  const luma = await read(path, 'gray', full);
  PATCHES.forEach((patch, k) => {
    const [want = 0] = codesOf(patch, full, 8);
    expect(Math.abs((luma[MIDDLE + k * WIDE] as number) - want)).toBeLessThan(2);
  });
});

test('all of alpha is all of it at any depth', async () => {
  const path = await stored('clear', 'gbrap', encodingOf('bt709', 'full'), painted('gbrap', rgbCodes(8)));
  const out = join(folder, 'clear.mov');
  const probe = await ffmpeg.probe(path);
  const pictures = ffmpeg.openPictures(path, probe, { pixelFormat: 'gbrap' });
  await ffmpeg.encode(out, { ...SIZE, rate: rate(25), pixelFormat: 'gbrap', form: 'mov', codec: 'prores' }, pictures);
  const samples = await read(out, 'yuva444p12le');
  expect(samples[3 * N + MIDDLE]).toBe(4095);
});
