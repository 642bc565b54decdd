import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pictureBytes, pixelLayout, workingFormat } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { type EncodeRequest, ffmpeg, type Probe } from './index.js';

/** The port's contract on what pictures are beside their count and time: samples, alpha, colours, shape. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-looks-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [64, 48];

/** Noise in every sample, alpha too: whatever is rounded shows. */
function noise(format: string, k: number): Uint8Array {
  const layout = pixelLayout(format);
  if (!layout) throw new Error(format);
  const out = new Uint8Array(pictureBytes(layout, WIDTH, HEIGHT));
  const samples = layout.bytes === 2 ? new Uint16Array(out.buffer) : out;
  for (let i = 0; i < samples.length; i++) samples[i] = (((i + k * 7919) * 2654435761) >>> 5) % 2 ** layout.bits;
  return out;
}

/** A light disc with a soft edge over nothing, of green, blue, red and alpha. */
function disc(k: number, colour: 'straight' | 'multiplied'): Uint8Array {
  const n = WIDTH * HEIGHT;
  const out = new Uint8Array(4 * n);
  for (let i = 0; i < n; i++) {
    const away = Math.hypot((i % WIDTH) - 24 - k, Math.floor(i / WIDTH) - 24);
    const opaque = Math.max(0, Math.min(1, (20 - away) / 9));
    [200, 120, 230].forEach((shade, plane) => {
      out[plane * n + i] = Math.round(shade * (colour === 'multiplied' ? opaque : 1));
    });
    out[3 * n + i] = Math.round(255 * opaque);
  }
  return out;
}

async function written(name: string, request: Partial<EncodeRequest>, pictures: readonly Uint8Array[]): Promise<string> {
  const path = join(folder, name);
  const usual = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' as const };
  await ffmpeg.encode(path, { ...usual, ...request }, pictures);
  return path;
}

async function read(path: string, probe: Probe, pixelFormat: string): Promise<Uint8Array[]> {
  const out: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat })) out.push(picture);
  return out;
}

describe('samples come back from a lossless file as they went in', () => {
  test.each([
    ...['yuv420p', 'yuv422p', 'yuv444p', 'yuv420p10le', 'yuv422p10le', 'yuv444p12le', 'yuv420p16le', 'yuva420p', 'yuva444p10le'],
    ...['gbrp', 'gbrap', 'gbrp10le', 'gbrp16le', 'gbrap12le', 'gbrap16le', 'gray', 'gray16le'],
  ])('%s', async (pixelFormat) => {
    const pictures = [0, 1, 2].map((k) => noise(pixelFormat, k));
    const path = await written(`${pixelFormat}.mkv`, { pixelFormat }, pictures);
    const probe = await ffmpeg.probe(path);
    expect(workingFormat(probe.pixelFormat)).toBe(pixelFormat);
    const back = await read(path, probe, pixelFormat);
    expect(back.map((p, k) => Buffer.compare(p, pictures[k] as Uint8Array))).toEqual([0, 0, 0]);
  });

  test.each(['gbrp', 'gbrap', 'gbrp16le', 'gbrap16le', 'gray', 'gray16le'])('%s as numbered PNGs', async (pixelFormat) => {
    const pictures = [0, 1].map((k) => noise(pixelFormat, k));
    await written(`${pixelFormat}-%d.png`, { pixelFormat, form: 'png' }, pictures);
    const path = join(folder, `${pixelFormat}-1.png`);
    const [back] = await read(path, await ffmpeg.probe(path), pixelFormat);
    expect(Buffer.compare(back as Uint8Array, pictures[1] as Uint8Array)).toBe(0);
  });
});

test.each([
  ['vp9', 'webm', 'yuv420p10le'],
  ['vp9', 'webm', 'yuv422p10le'],
  ['h264', 'mp4', 'yuv422p10le'],
  ['hevc', 'mp4', 'yuv420p12le'],
] as const)('%s of quality 0 gives each sample back, of %s and %s', async (codec, form, pixelFormat) => {
  // What FFmpeg draws, of which libvpx lost some in haste.
  const [width, height] = [256, 144];
  const drawn = join(folder, `drawn-${pixelFormat}.mkv`);
  const picture = `testsrc=s=${width}x${height}:r=25:d=2,format=${pixelFormat}`;
  spawnSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', picture, '-c:v', 'ffv1', drawn]);
  const pictures = await read(drawn, await ffmpeg.probe(drawn), pixelFormat);
  const path = await written(
    `kept-${codec}-${pixelFormat}.${form}`,
    { width, height, pixelFormat, form, codec, crf: 0 },
    pictures,
  );
  const back = await read(path, await ffmpeg.probe(path), pixelFormat);
  expect(back.map((p, k) => Buffer.compare(p, pictures[k] as Uint8Array))).toEqual(pictures.map(() => 0));
});

describe('alpha', () => {
  test.each([
    ['straight', 'mkv'],
    ['multiplied', 'mkv'],
    ['straight', 'mov'],
    ['multiplied', 'mov'],
    ['straight', 'webm'],
    ['multiplied', 'webm'],
  ] as const)('%s colour is told as such, in %s', async (colour, form) => {
    const path = await written(
      `${colour}.${form}`,
      { pixelFormat: 'gbrap', form },
      [0, 4, 8, 12, 16].map((k) => disc(k, colour)),
    );
    const probe = await ffmpeg.probe(path);
    expect(probe.alpha).toBe(colour);
    // What is opaque and what is not there come back so, whatever codes them.
    const [first] = await read(path, probe, 'gbrap');
    const n = WIDTH * HEIGHT;
    const middle = 24 * WIDTH + 24;
    expect(first?.[3 * n + middle]).toBeGreaterThan(250);
    expect(first?.[3 * n + WIDTH - 1]).toBeLessThan(6);
  });

  test('alpha that is everywhere all there is makes no difference, and is told so', async () => {
    const opaque = noise('gbrap', 1).fill(255, 3 * WIDTH * HEIGHT);
    expect((await ffmpeg.probe(await written('opaque.mkv', { pixelFormat: 'gbrap' }, [opaque, opaque]))).alpha).toBe('opaque');
    expect((await ffmpeg.probe(await written('none.mkv', {}, [noise('yuv420p', 0)]))).alpha).toBeUndefined();
  });

  test('asked for without it, pictures come over black: what nobody is to see does not show', async () => {
    const path = await written('hidden.mkv', { pixelFormat: 'gbrap' }, [disc(0, 'straight'), disc(8, 'straight')]);
    const [first] = await read(path, await ffmpeg.probe(path), 'gbrp');
    expect(first?.[WIDTH - 1]).toBe(0);
    expect(first?.[24 * WIDTH + 24]).toBe(200);
    const [grey] = await read(path, await ffmpeg.probe(path), 'gray');
    expect(grey?.[WIDTH - 1]).toBeLessThan(20);
  });
});

test('colours, siting and shape that are asked for stand in the file', async () => {
  const colour = { primaries: 'bt2020', transfer: 'smpte2084', matrix: 'bt2020nc', range: 'limited' } as const;
  for (const form of ['mkv', 'mp4'] as const) {
    const request = { pixelFormat: 'yuv420p10le', form, colour, siting: 'topleft', sampleAspect: 16 / 11 };
    const probe = await ffmpeg.probe(await written(`said.${form}`, request, [noise('yuv420p10le', 0), noise('yuv420p10le', 1)]));
    expect(probe).toMatchObject({ colour, siting: 'topleft', pixelFormat: 'yuv420p10le' });
    expect(probe.sampleAspect).toBeCloseTo(16 / 11, 5);
  }
});

test('red, green and blue that a coder cannot take get luma and chroma by their primaries, and are tagged so', async () => {
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: null, range: 'full' } as const;
  const red = new Uint8Array(3 * WIDTH * HEIGHT).fill(255, 2 * WIDTH * HEIGHT);
  const path = await written('red.mp4', { pixelFormat: 'gbrp', form: 'mp4', colour, crf: 0 }, [red, red]);
  const probe = await ffmpeg.probe(path);
  expect(probe.colour).toEqual({ ...colour, matrix: 'bt709', range: 'limited' });
  const [first] = await read(path, probe, 'yuv444p');
  // BT.709: luma 16 + 219 * .2126, chroma 128 + 224 * (-.2126 / 1.8556) and 240.
  const n = WIDTH * HEIGHT;
  expect([first?.[0], first?.[n], first?.[2 * n]]).toEqual([63, 102, 240]);
});

test('light and display of high dynamic range, rotation and projection are told', async () => {
  const path = join(folder, 'hdr.mp4');
  const x265 =
    'log-level=none:hdr10=1:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:max-cll=900,350:master-display=G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)';
  const made = spawnSync('ffmpeg', [
    ...['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=64x48:r=25:d=0.2,format=yuv420p10le'],
    ...['-c:v', 'libx265', '-x265-params', x265, path],
  ]);
  expect(String(made.stderr)).toBe('');
  const probe = await ffmpeg.probe(path);
  expect(probe.highRange?.light).toEqual({ most: 900, average: 350 });
  expect(probe.highRange?.display).toMatchObject({ least: 0.005, most: 1000, red: [0.68, 0.32], white: [0.3127, 0.329] });
  const turned = join(folder, 'turned.mp4');
  spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', '-i', path, '-c', 'copy', '-metadata:s:v', 'rotate=90', turned]);
  expect(await ffmpeg.probe(turned)).toMatchObject({ width: 48, height: 64, rotation: 90 });
});
