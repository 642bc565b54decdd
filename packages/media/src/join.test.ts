import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { type EncodeRequest, ffmpeg, type VideoCodec } from './index.js';

/** The port's contract on parts: whatever they are coded as, all pictures come back at their own frames, as they were in the parts. */
const folder = mkdtempSync(join(tmpdir(), "thawline-it's joined-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [WIDTH, HEIGHT] = [96, 64];

const picture = (k: number): Uint8Array =>
  Uint8Array.from({ length: (WIDTH * HEIGHT * 3) / 2 }, (_, i) =>
    i < WIDTH * HEIGHT ? 110 + 80 * Math.sin(((i % WIDTH) + 3 * k) * 0.2) : 120 + (k % 9),
  );

async function parts(name: string, more: Partial<EncodeRequest>, lengths: readonly number[], r = rate(24000, 1001)) {
  const made: { path: string; pictures: number }[] = [];
  let k = 0;
  for (const [i, pictures] of lengths.entries()) {
    const path = join(folder, `${name}-${i}`);
    const request = { width: WIDTH, height: HEIGHT, rate: r, pixelFormat: 'yuv420p', form: 'mp4' as const, ...more };
    await ffmpeg.encode(
      path,
      request,
      Array.from({ length: pictures }, () => picture(k++)),
    );
    made.push({ path, pictures });
  }
  return made;
}

async function hashes(path: string): Promise<string[]> {
  const args = ['-nostdin', '-v', 'error', '-i', path, '-map', '0:v', '-fps_mode', 'passthrough', '-f', 'framemd5', '-'];
  const run = spawnSync('ffmpeg', args, { encoding: 'utf8' });
  return run.stdout.split('\n').flatMap((line) => (line && !line.startsWith('#') ? [line.split(',').at(-1)?.trim() ?? ''] : []));
}

test.each([
  ['mp4', 'h264', 'mp4'],
  ['mp4', 'hevc', 'mp4'],
  ['webm', 'vp9', 'mp4'],
  ['webm', 'av1', 'mp4'],
  ['mkv', 'ffv1', 'mkv'],
  ['mov', 'prores', 'mov'],
  ['mov', 'mpeg2', 'mov'],
] as const)('%s of %s parts', async (form, codec: VideoCodec, part) => {
  const lengths = [30, 1, 2, 40];
  const colour = { matrix: 'bt709', range: 'limited', primaries: 'bt709', transfer: 'bt709' } as const;
  const made = await parts(`${form}-${codec}`, { codec, form: part, crf: 30, colour }, lengths);
  const path = join(folder, `${codec}.${form}`);
  const sound = new Float32Array(48_000 * 2 * 3.05).fill(0.1);
  const request = { parts: made, rate: rate(24000, 1001), form, sound: { sampleRate: 48_000, channels: 2 } };
  await ffmpeg.join(path, { ...request, timecode: '00:59:59:23' }, [sound]);
  const probe = await ffmpeg.probe(path);
  const named = codec === 'mpeg2' ? 'mpeg2video' : codec;
  expect(probe).toMatchObject({ pictures: 73, codec: named, variable: false, firstSeconds: 0 });
  expect(probe.colour).toMatchObject(colour);
  expect(probe.measured).toMatchObject({ rate: rate(24000, 1001) });
  expect(probe.seconds).toBeCloseTo((73 * 1001) / 24000, 2);
  expect(Math.abs(probe.sound?.startSeconds ?? 1)).toBeLessThan(0.001);
  expect(probe.sound?.seconds).toBeCloseTo(3.05, 1);
  expect(probe.timecode).toBe('00:59:59:23');
  const own: string[] = [];
  for (const one of made) own.push(...(await hashes(one.path)));
  expect(await hashes(path)).toEqual(own);
});

test('however many parts there are, none moves by a tick', async () => {
  const made = await parts('many', { preset: 'ultrafast' }, [2, 3, 1], rate(30000, 1001));
  const many = Array.from({ length: 400 }, (_, i) => made[i % 3] as (typeof made)[number]);
  const path = join(folder, 'many.mp4');
  await ffmpeg.join(path, { parts: many, rate: rate(30000, 1001), form: 'mp4' });
  const probe = await ffmpeg.probe(path);
  expect(probe).toMatchObject({ pictures: 800, variable: false, measured: { rate: rate(30000, 1001), ppm: 0 } });
});

test('a part that is gone is told', async () => {
  const gone = [{ path: join(folder, 'nowhere'), pictures: 5 }];
  await expect(ffmpeg.join(join(folder, 'never.mp4'), { parts: gone, rate: rate(25), form: 'mp4' })).rejects.toMatchObject({
    code: 'encode-failed',
  });
});

test('pictures of other colours are converted where that is asked for, and only there', async () => {
  mkdirSync(join(folder, 'colours'));
  const red = join(folder, 'colours', 'red.mkv');
  spawnSync('ffmpeg', [
    ...[
      '-nostdin',
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'color=red:s=64x64:r=25:d=0.2,format=gbrp,scale=out_color_matrix=bt709:out_range=full,format=yuv444p',
    ],
    ...['-c:v', 'ffv1', '-colorspace', 'bt709', '-color_range', 'pc', red],
  ]);
  const probe = await ffmpeg.probe(red);
  expect(probe.colour).toMatchObject({ matrix: 'bt709', range: 'full' });
  const first = async (colour?: { matrix: string; range: 'limited' | 'full' }): Promise<[number, number, number]> => {
    const request = { pixelFormat: 'yuv444p', ...(colour ? { colour } : {}) };
    for await (const p of ffmpeg.openPictures(red, probe, request)) return [p[0] ?? 0, p[64 * 64] ?? 0, p[2 * 64 * 64] ?? 0];
    throw new Error('no picture');
  };
  const near = (found: readonly number[], wanted: readonly number[]): void =>
    found.forEach((v, i) => {
      expect(Math.abs(v - (wanted[i] ?? 0))).toBeLessThanOrEqual(2);
    });
  // Red by BT.709 in full range, then by BT.601 in limited range (ITU-R BT.709 and BT.601, quantised to 8 bit).
  near(await first(), [54, 99, 255]);
  near(await first({ matrix: 'bt709', range: 'full' }), [54, 99, 255]);
  near(await first({ matrix: 'smpte170m', range: 'limited' }), [81, 90, 240]);
});

test('a raw picture becomes a JPEG of at most the asked width', async () => {
  const jpeg = await ffmpeg.jpegOf(picture(0), { width: WIDTH, height: HEIGHT, pixelFormat: 'yuv420p', most: 48 });
  expect([...jpeg.subarray(0, 3)]).toEqual([0xff, 0xd8, 0xff]);
  const small = join(folder, 'small.jpg');
  writeFileSync(small, jpeg);
  expect(await ffmpeg.probe(small)).toMatchObject({ kind: 'still', width: 48, height: 32 });
});
