import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bent, type Encoding, HLG, type Light, luminanceOf, PQ, pqOf, WHITE } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { codesOf, MEANINGS, PATCHES, type Space, signalsAfter, type Three } from '@thawline/rig';
import { ffmpeg } from './index.js';

/** Patches through the port, against sums written out here from the recommendations. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-light-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [32, 16];
const N = WIDTH * HEIGHT;

const spaceOf = (name: string): Encoding & Space => MEANINGS[name] as Encoding & Space;

/** A file of all patches, one a column block, 16 bit red, green and blue of a space. */
async function patches(space: Space): Promise<string> {
  const path = join(folder, `${space.primaries}-${space.transfer}.mkv`);
  const picture = new Uint16Array(3 * N);
  for (let i = 0; i < N; i++) {
    const [r, g, b] = (PATCHES[Math.floor((i % WIDTH) / 3)] ?? PATCHES[0]) as Three;
    [g, b, r].forEach((v, plane) => {
      picture[plane * N + i] = Math.round(v * 65535);
    });
  }
  const colour = { primaries: space.primaries, transfer: space.transfer, matrix: null, range: 'full' as const };
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'gbrp16le', form: 'mkv' as const, colour };
  await ffmpeg.encode(path, request, [new Uint8Array(picture.buffer)]);
  return path;
}

test.each([
  ['BT.709', 'PQ'],
  ['BT.709', 'HLG'],
  ['BT.709', 'BT.2020'],
  ['BT.601', 'BT.709'],
  ['BT.2020', 'BT.709'],
  ['PQ', 'BT.709'],
  ['PQ', 'HLG'],
  ['HLG', 'PQ'],
  ['HLG', 'BT.709'],
])('%s to %s is within one step of 10 bit of the sums', async (one, other) => {
  const [from, to] = [spaceOf(one), spaceOf(other)];
  const path = await patches(from);
  const probe = await ffmpeg.probe(path);
  expect(probe.colour).toMatchObject({ primaries: from.primaries, transfer: from.transfer });
  const { value } = await ffmpeg
    .openPictures(path, probe, { pixelFormat: 'yuv444p10le', colour: to })
    [Symbol.asyncIterator]()
    .next();
  const samples = new Uint16Array((value as Uint8Array).buffer);
  PATCHES.forEach((patch, k) => {
    const wanted = codesOf(signalsAfter(patch, from, to), to);
    wanted.forEach((want, plane) => {
      const at = plane * N + 8 * WIDTH + 3 * k + 1;
      // What no screen of the target shows is cut off; sums there are none to hold it to.
      if (want < 64 || want > 960) return;
      expect({ patch, plane, near: Math.abs((samples[at] as number) - want) < 1 }).toEqual({ patch, plane, near: true });
    });
  });
});

test('what the file does not say goes by its own height, however small it is asked for', async () => {
  const path = join(folder, 'silent.mkv');
  const size = { width: 1280, height: 720 };
  const n = size.width * size.height;
  // A colour whose luma differs by matrix: green of BT.709.
  const picture = new Uint8Array((n * 3) / 2)
    .fill(173, 0, n)
    .fill(42, n, n + n / 4)
    .fill(26, n + n / 4);
  const silent = { primaries: null, transfer: null, matrix: null, range: 'limited' as const };
  await ffmpeg.encode(path, { ...size, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv', colour: silent }, [picture]);
  const probe = await ffmpeg.probe(path);
  const seen = async (asked: object): Promise<number> => {
    const request = { pixelFormat: 'yuv444p10le', colour: spaceOf('PQ'), ...asked };
    const { value } = await ffmpeg.openPictures(path, probe, request)[Symbol.asyncIterator]().next();
    return new Uint16Array((value as Uint8Array).buffer)[100] as number;
  };
  expect(Math.abs((await seen({})) - (await seen({ width: 128, height: 72 })))).toBeLessThanOrEqual(1);
});

test('HLG of other primaries goes both ways through its system gamma', async () => {
  const path = await patches({ primaries: 'bt709', transfer: HLG });
  const { value } = await ffmpeg
    .openPictures(path, await ffmpeg.probe(path), { pixelFormat: 'yuv444p10le', colour: spaceOf('HLG') })
    [Symbol.asyncIterator]()
    .next();
  const samples = new Uint16Array((value as Uint8Array).buffer);
  PATCHES.forEach((patch, k) => {
    const [want] = codesOf(signalsAfter(patch, { primaries: 'bt709', transfer: HLG }, spaceOf('HLG')), spaceOf('HLG'));
    expect({ patch, near: Math.abs((samples[8 * WIDTH + 3 * k + 1] as number) - want) < 1.5 }).toEqual({ patch, near: true });
  });
});

test('where both mean the same, samples stay', async () => {
  const path = await patches(spaceOf('PQ'));
  const probe = await ffmpeg.probe(path);
  const read = async (colour: (Encoding & Partial<Light>) | undefined): Promise<Uint8Array> => {
    const request = { pixelFormat: 'gbrp16le', ...(colour ? { colour } : {}) };
    return (await ffmpeg.openPictures(path, probe, request)[Symbol.asyncIterator]().next()).value as Uint8Array;
  };
  const stored = await read(undefined);
  const same = await read({ matrix: 'bt2020nc', range: 'full', primaries: 'bt2020', transfer: PQ });
  expect(Buffer.compare(same, stored)).toBe(0);
});

test('pictures for screens are of standard range: 100 cd/m2 of high range are grey there, not dim', async () => {
  const path = join(folder, 'grey.mkv');
  const level = Math.round(64 + 876 * pqOf(100));
  const samples = new Uint16Array((3 * N) / 2).fill(level, 0, N).fill(512, N);
  const { primaries, transfer, matrix, range } = spaceOf('PQ');
  const colour = { primaries, transfer, matrix, range };
  const picture = new Uint8Array(samples.buffer);
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p10le', form: 'mkv' as const, colour };
  await ffmpeg.encode(path, request, [picture]);
  const probe = await ffmpeg.probe(path);
  const wanted = 255 * (luminanceOf(bent(pqOf(100), 1000, WHITE)) / WHITE) ** (1 / 2.4);
  const jpegs = [
    (await ffmpeg.openStills(path, probe, { width: WIDTH, height: HEIGHT, quality: 2 })[Symbol.asyncIterator]().next()).value,
    await ffmpeg.jpegOf(picture, { width: WIDTH, height: HEIGHT, pixelFormat: 'yuv420p10le', colour, most: WIDTH }),
  ] as Uint8Array[];
  for (const [i, jpeg] of jpegs.entries()) {
    const file = join(folder, `grey-${i}.jpg`);
    writeFileSync(file, jpeg);
    const shown = await ffmpeg
      .openPictures(file, await ffmpeg.probe(file), { pixelFormat: 'gbrp' })
      [Symbol.asyncIterator]()
      .next();
    expect(Math.abs(((shown.value as Uint8Array)[N / 2] as number) - wanted)).toBeLessThan(2.5);
  }
});
