import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Encoding, type Light, pqOf, WHITE } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg, type Probe, seriesPattern } from './index.js';

/** Numbered EXR: light itself, in and out; sums are written out here. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-linear-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [32, 8];
const N = WIDTH * HEIGHT;

const SDR = { matrix: 'bt709', range: 'full', primaries: 'bt709', transfer: 'bt709' } as const;
const PQ = { matrix: 'bt2020nc', range: 'full', primaries: 'bt2020', transfer: 'smpte2084' } as const;

/** Greens, blues and reds of 16 bit, and alpha where it is given, each the same all along a column. */
function columns(of: (x: number) => readonly number[]): Uint8Array {
  const planes = of(0).length;
  const out = new Uint16Array(planes * N);
  for (let i = 0; i < N; i++)
    of(i % WIDTH).forEach((value, plane) => {
      out[plane * N + i] = Math.round(value * 65535);
    });
  return new Uint8Array(out.buffer);
}

async function written(name: string, pixelFormat: string, colour: Encoding & Light, picture: Uint8Array) {
  const own = mkdtempSync(join(folder, `${name}-`));
  const pattern = seriesPattern(own, 'exr');
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), form: 'exr' as const, pixelFormat, colour };
  await ffmpeg.encode(pattern, request, [picture, picture]);
  return { pattern, probe: await ffmpeg.probeSeries(pattern, { pictures: 2, rate: rate(25) }) };
}

async function read(path: string, probe: Probe, pixelFormat: string, colour?: Encoding & Light, multiplied = false) {
  const request = { pixelFormat, multiplied, ...(colour ? { colour } : {}) };
  for await (const picture of ffmpeg.openPictures(path, probe, request))
    return Array.from(new Uint16Array(picture.buffer, picture.byteOffset, picture.byteLength / 2), (value) => value / 65535);
  throw new Error('no picture');
}

const ramp = (x: number): number => x / (WIDTH - 1);
const grey = (value: number): readonly number[] => [value, value, value];

test('what is written is light: the curve of a screen is taken off, and put on again when it is read', async () => {
  const { pattern, probe } = await written(
    'sdr',
    'gbrp16le',
    SDR,
    columns((x) => grey(ramp(x))),
  );
  expect(probe).toMatchObject({ codec: 'exr', pixelFormat: 'gbrpf32le', colour: { transfer: 'linear', primaries: 'bt709' } });
  const back = await read(pattern, probe, 'gbrp16le', SDR);
  // Halves have eleven bits: of a signal a four-thousandth.
  for (let x = 0; x < WIDTH; x++) expect(Math.abs((back[x] as number) - ramp(x))).toBeLessThan(0.0003);
  // Light itself, read as signals of PQ: (x ^ 2.4) x 203 cd/m2.
  const seen = await read(pattern, probe, 'gbrp16le', { ...PQ, primaries: 'bt709' });
  for (let x = 0; x < WIDTH; x++) expect(Math.abs((seen[x] as number) - pqOf(WHITE * ramp(x) ** 2.4))).toBeLessThan(0.001);
});

test('lights of high range go above 1, come back, and are cut off at white in standard range', async () => {
  const { pattern, probe } = await written(
    'pq',
    'gbrp16le',
    PQ,
    columns((x) => grey(0.8 * ramp(x))),
  );
  const back = await read(pattern, probe, 'gbrp16le', PQ);
  for (let x = 0; x < WIDTH; x++) expect(Math.abs((back[x] as number) - 0.8 * ramp(x))).toBeLessThan(0.0005);
  const plain = await read(pattern, probe, 'gbrp16le', SDR);
  expect(plain[WIDTH - 1]).toBe(1);
  expect(plain[8]).toBeLessThan(0.5);
  // Where nothing is asked for it is the same: light itself is never given.
  expect(await read(pattern, probe, 'gbrp16le')).toEqual(plain);
});

test('colour is multiplied by alpha as light, and divided again', async () => {
  const alphas = columns((x) => [0.5, 0.3, 0.8, ramp(x)]);
  const { pattern, probe } = await written('alpha', 'gbrap16le', SDR, alphas);
  expect(probe).toMatchObject({ pixelFormat: 'gbrapf32le', alpha: 'multiplied' });
  // As frames are laid: the signal times alpha.
  const laid = await read(pattern, probe, 'gbrap16le', SDR, true);
  for (let x = 0; x < WIDTH; x++) {
    expect(Math.abs((laid[3 * N + x] as number) - ramp(x))).toBeLessThan(0.0006);
    [0.5, 0.3, 0.8].forEach((value, plane) => {
      expect(Math.abs((laid[plane * N + x] as number) - value * ramp(x))).toBeLessThan(0.002);
    });
  }
});

test('wide colours go below 0 as light of BT.709, and come back', async () => {
  const wide = { ...PQ, transfer: 'bt2020-10' } as const;
  const { pattern, probe } = await written(
    'wide',
    'gbrp16le',
    wide,
    columns((x) => [0.6, 0.02, 0.02 + 0.1 * ramp(x)]),
  );
  const back = await read(pattern, probe, 'gbrp16le', wide);
  for (let x = 0; x < WIDTH; x++)
    [0.6, 0.02, 0.02 + 0.1 * ramp(x)].forEach((value, plane) => {
      expect(Math.abs((back[plane * N + x] as number) - value)).toBeLessThan(0.004);
    });
});

test('HLG is written as the light of a screen of 1000 cd/m2', async () => {
  const hlg = { ...PQ, transfer: 'arib-std-b67' } as const;
  const { pattern, probe } = await written(
    'hlg',
    'gbrp16le',
    hlg,
    columns((x) => grey(0.9 * ramp(x))),
  );
  const seen = await read(pattern, probe, 'gbrp16le', PQ);
  // Signal 0.9 is scene light E; the screen shows 1000 E ^ 1.2 (BT.2100).
  const scene = (Math.exp((0.9 - 0.55991073) / 0.17883277) + 0.28466892) / 12;
  expect(Math.abs((seen[WIDTH - 1] as number) - pqOf(1000 * scene ** 1.2))).toBeLessThan(0.001);
});

test('grey floats are read, too', async () => {
  const path = join(folder, 'grey.exr');
  const source = 'color=c=gray:s=32x8:d=0.04,format=gray,format=grayf32le';
  spawnSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', source, '-frames:v', '1', path]);
  const probe = await ffmpeg.probe(path);
  expect(probe.pixelFormat).toBe('grayf32le');
  const [first = 0] = await read(path, probe, 'gbrp16le');
  // What FFmpeg makes of that grey.
  expect(Math.abs(first - (126 / 255) ** (1 / 2.4))).toBeLessThan(0.004);
});

test('a single one is a still, whatever its name says', async () => {
  const { pattern } = await written(
    'still',
    'gbrp16le',
    SDR,
    columns((x) => grey(ramp(x))),
  );
  expect(await ffmpeg.probe(pattern.replace('%08d', '00000001'))).toMatchObject({ kind: 'still', codec: 'exr' });
});
