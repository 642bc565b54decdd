import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  bent,
  type Colour,
  type Encoding,
  HLG,
  type Light,
  lumaShares,
  luminanceOf,
  PQ,
  pqOf,
  WHITE,
} from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg } from './index.js';

/** Patches through the port, against sums written out here from the recommendations. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-light-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [32, 16];
const N = WIDTH * HEIGHT;

type Three = readonly [number, number, number];

/** Red, green and blue signals that are tried, 0 to 1. */
const PATCHES: readonly Three[] = [
  [0, 0, 0],
  [0.1, 0.1, 0.1],
  [0.25, 0.25, 0.25],
  [0.5, 0.5, 0.5],
  [0.75, 0.75, 0.75],
  [1, 1, 1],
  [0.5, 0.4, 0.3],
  [0.2, 0.45, 0.6],
  [0.6, 0.2, 0.25],
  [0.3, 0.55, 0.2],
];

/** x and y of red, green, blue; white is D65 (ITU-R BT.709, BT.2020, SMPTE 170M). */
const PRIMARIES: Readonly<Record<string, readonly (readonly [number, number])[]>> = {
  bt709: [
    [0.64, 0.33],
    [0.3, 0.6],
    [0.15, 0.06],
  ],
  bt2020: [
    [0.708, 0.292],
    [0.17, 0.797],
    [0.131, 0.046],
  ],
  smpte170m: [
    [0.63, 0.34],
    [0.31, 0.595],
    [0.155, 0.07],
  ],
};

const xyz = ([x, y]: readonly [number, number]): Three => [x / y, 1, (1 - x - y) / y];
const times = (m: readonly Three[], [a, b, c]: Three): Three =>
  m.map((row) => row[0] * a + row[1] * b + row[2] * c) as unknown as Three;

function inverse([a, b, c]: readonly [Three, Three, Three]): readonly [Three, Three, Three] {
  const cross = (p: Three, q: Three): Three => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  const [r, s, t] = [cross(b, c), cross(c, a), cross(a, b)];
  const d = a[0] * r[0] + a[1] * r[1] + a[2] * r[2];
  return [0, 1, 2].map(
    (i) => [r, s, t].map((v) => (v[i as 0 | 1 | 2] as number) / d) as unknown as Three,
  ) as unknown as readonly [Three, Three, Three];
}

/** Red, green and blue light to XYZ: columns scaled so that all together are white (SMPTE RP 177). */
function toXyz(name: string): readonly [Three, Three, Three] {
  const [r, g, b] = (PRIMARIES[name] ?? []).map(xyz) as [Three, Three, Three];
  const rows = [0, 1, 2].map((i) => [r[i as 0], g[i as 0], b[i as 0]]) as unknown as readonly [Three, Three, Three];
  const scale = times(inverse(rows), xyz([0.3127, 0.329]));
  return rows.map((row) => row.map((v, i) => v * (scale[i] as number))) as unknown as readonly [Three, Three, Three];
}

/** Luminance in cd/m2 of signals: BT.1886 with white at 203 (BT.2408), ST 2084, or BT.2100's HLG on a display of 1000. */
function lightOf(transfer: string, rgb: Three, primaries: string): Three {
  if (transfer === PQ) return rgb.map(luminanceOf) as unknown as Three;
  if (transfer !== HLG) return rgb.map((v) => WHITE * v ** 2.4) as unknown as Three;
  const scene = rgb.map((v) => (v <= 0.5 ? v ** 2 / 3 : (Math.exp((v - 0.55991073) / 0.17883277) + 0.28466892) / 12));
  const [, y] = times(toXyz(primaries), scene as unknown as Three);
  return scene.map((v) => (y === 0 ? 0 : 1000 * y ** 0.2 * v)) as unknown as Three;
}

function signalOf(transfer: string, light: Three, primaries: string): Three {
  if (transfer === PQ) return light.map(pqOf) as unknown as Three;
  if (transfer !== HLG) return light.map((v) => Math.min(1, Math.max(0, v / WHITE) ** (1 / 2.4))) as unknown as Three;
  const [, y] = times(toXyz(primaries), light.map((v) => v / 1000) as unknown as Three);
  const scene = light.map((v) => (y <= 0 ? 0 : Math.max(0, v / 1000) * y ** (1 / 1.2 - 1)));
  return scene.map((v) =>
    v <= 1 / 12 ? Math.sqrt(3 * v) : 0.17883277 * Math.log(12 * v - 0.28466892) + 0.55991073,
  ) as unknown as Three;
}

interface Space extends Light {
  readonly primaries: string;
  readonly transfer: string;
}

/** What signals of one space come to in another. */
function expected(rgb: Three, from: Space, to: Space): Three {
  const high = (t: string): boolean => t === PQ || t === HLG;
  let light = lightOf(from.transfer, rgb, from.primaries);
  light = times(inverse(toXyz(to.primaries)), times(toXyz(from.primaries), light));
  if (high(from.transfer) && !high(to.transfer))
    light = light.map((v) => luminanceOf(bent(pqOf(v), 1000, WHITE))) as unknown as Three;
  return signalOf(to.transfer, light, to.primaries);
}

/** Luma and chroma of 10 bit and limited range, unrounded. */
function codes([r, g, b]: Three, matrix: string): Three {
  const [kr, kb] = lumaShares(matrix);
  const y = kr * r + (1 - kr - kb) * g + kb * b;
  return [64 + 876 * y, 512 + (896 * (b - y)) / (2 * (1 - kb)), 512 + (896 * (r - y)) / (2 * (1 - kr))];
}

const SPACES: Readonly<Record<string, Colour & Encoding & Space>> = {
  'BT.709': { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' },
  'BT.601': { primaries: 'smpte170m', transfer: 'smpte170m', matrix: 'smpte170m', range: 'limited' },
  'BT.2020': { primaries: 'bt2020', transfer: 'bt2020-10', matrix: 'bt2020nc', range: 'limited' },
  PQ: { primaries: 'bt2020', transfer: PQ, matrix: 'bt2020nc', range: 'limited' },
  HLG: { primaries: 'bt2020', transfer: HLG, matrix: 'bt2020nc', range: 'limited' },
};
const spaceOf = (name: string): Colour & Encoding & Space => SPACES[name] as Colour & Encoding & Space;

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
    const wanted = codes(expected(patch, from, to), to.matrix);
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
    const [want] = codes(expected(patch, { primaries: 'bt709', transfer: HLG }, spaceOf('HLG')), 'bt2020nc');
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
