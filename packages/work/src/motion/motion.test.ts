import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { meanSquare, pixelLayout, psnrOf } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { ffmpeg, MediaError } from '@thawline/media';
import { Filmed, movingScenes } from '@thawline/rig';
import { heldOut, type MakeOptions, make } from '../index.js';
import { MotionPool } from './pool.js';

/** Made pictures on real files, by the way a person goes: a file in, a file out. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-motion-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;
const [WIDTH, HEIGHT] = [320, 180];
const LUMA = WIDTH * HEIGHT;

function filmed(name: string): Filmed {
  const moving = movingScenes(21).find((s) => s.name === name);
  if (!moving) throw new Error('no such scene');
  return new Filmed(moving, WIDTH, HEIGHT, 8);
}

async function written(name: string, pictures: readonly Uint8Array[], r = rate(25)): Promise<string> {
  const path = join(folder, name);
  const request = { width: WIDTH, height: HEIGHT, rate: r, pixelFormat: 'yuv420p', form: 'mkv' as const };
  await ffmpeg.encode(path, request, pictures);
  return path;
}

/** A file of FFmpeg's own making. */
function generated(name: string, ...args: string[]): string {
  const path = join(folder, name);
  const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path], { encoding: 'utf8' });
  if (made.status !== 0) throw new Error(made.stderr);
  return path;
}

async function decoded(path: string, pixelFormat: string): Promise<Uint8Array[]> {
  const out: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, await ffmpeg.probe(path), { pixelFormat })) out.push(picture.slice());
  return out;
}

async function made(input: string, options: MakeOptions, pixelFormat = 'yuv420p') {
  const output = join(folder, 'made.mkv');
  const result = await make({ media: ffmpeg, progress: quiet }, { input, probe: await ffmpeg.probe(input), output, options });
  return { result, frames: await decoded(output, pixelFormat) };
}

test('at twice the rate real pictures stay bit for bit, and those between are near the truth', async () => {
  const camera = filmed('rotation');
  const reals = Array.from({ length: 5 }, (_, k) => camera.real(k));
  const { result, frames } = await made(await written('x2.mkv', reals), { rate: rate(50), method: 'motion' });
  expect(result).toMatchObject({ frames: 10, real: 5, made: 4, held: 1, blended: 0, cuts: 0 });
  expect(result.leastCertainty).toBeGreaterThan(0.5);
  expect(frames).toHaveLength(10);
  for (let k = 0; k < 5; k++) expect(Buffer.compare(frames[2 * k] as Uint8Array, reals[k] as Uint8Array)).toBe(0);
  for (let k = 0; k < 4; k++) {
    const truth = camera.truth(k + 0.5).subarray(0, LUMA);
    expect(psnrOf(meanSquare((frames[2 * k + 1] as Uint8Array).subarray(0, LUMA), truth), 255)).toBeGreaterThan(42);
  }
});

test('a quarter of the speed at the same rate is four times the pictures, each at its own moment, without sound', async () => {
  const camera = filmed('zoom');
  const reals = Array.from({ length: 3 }, (_, k) => camera.real(k));
  const input = await written('slow.mkv', reals);
  const { result, frames } = await made(input, { rate: rate(25), method: 'motion', speed: rate(1, 4) });
  expect(result).toMatchObject({ frames: 12, real: 3, made: 6, held: 3 });
  for (const n of [1, 2, 3, 5, 6, 7]) {
    const truth = camera.truth(n / 4).subarray(0, LUMA);
    expect(psnrOf(meanSquare((frames[n] as Uint8Array).subarray(0, LUMA), truth), 255)).toBeGreaterThan(42);
  }
});

describe('in threads', () => {
  const entry = new URL('../../dist/motion/worker.js', import.meta.url);

  test('the very same pictures come out, in order', async () => {
    const camera = filmed('crossing objects');
    const input = await written(
      'threads.mkv',
      Array.from({ length: 7 }, (_, k) => camera.real(k)),
    );
    const options: MakeOptions = { rate: rate(70), method: 'motion' };
    const alone = await made(input, options);
    for (const count of [1, 3]) {
      const together = await made(input, { ...options, threads: { count, entry } });
      expect(together.result).toEqual(alone.result);
      expect(together.frames.map((f, n) => Buffer.compare(f, alone.frames[n] as Uint8Array))).toEqual(alone.frames.map(() => 0));
    }
  });

  test('two threads are at work at once', async () => {
    const camera = filmed('noise');
    const input = await written(
      'once.mkv',
      Array.from({ length: 4 }, (_, k) => camera.real(k)),
    );
    // Threads that give nothing before they have met another one that is asked for something, too; in vain, they say 0.
    const meeting = join(folder, 'meeting.mjs');
    writeFileSync(
      meeting,
      `import { BroadcastChannel, parentPort } from 'node:worker_threads';
      const channel = new BroadcastChannel('thawline-met');
      let asked = false;
      let met = false;
      channel.onmessage = () => {
        if (!met && asked) channel.postMessage('here');
        met = true;
      };
      parentPort.on('message', async (message) => {
        if (message.type !== 'make') return;
        asked = true;
        channel.postMessage('here');
        for (let i = 0; i < 500 && !met; i++) await new Promise((resolve) => setTimeout(resolve, 10));
        parentPort.postMessage({ id: message.id, picture: new ArrayBuffer(${(LUMA * 3) / 2}), certainty: met ? 1 : 0, moved: true });
      });`,
    );
    const threads = { count: 2, entry: pathToFileURL(meeting) };
    const { result } = await made(input, { rate: rate(50), method: 'motion', threads });
    expect(result).toMatchObject({ made: 3, leastCertainty: 1 });
  });

  test('a thread that dies is told, and nothing is left', async () => {
    const camera = filmed('noise');
    const input = await written('dies.mkv', [camera.real(0), camera.real(1), camera.real(2)]);
    const output = join(folder, 'died.mkv');
    const dying = join(folder, 'dying.mjs');
    writeFileSync(dying, "import { parentPort } from 'node:worker_threads';\nparentPort.on('message', () => process.exit(3));\n");
    const threads = { count: 2, entry: pathToFileURL(dying) };
    await expect(
      make(
        { media: ffmpeg, progress: quiet },
        {
          input,
          probe: await ffmpeg.probe(input),
          output,
          options: {
            rate: rate(50),
            method: 'motion',
            threads,
          },
        },
      ),
    ).rejects.toMatchObject({ code: 'crashed' });
    expect(existsSync(output)).toBe(false);
  });

  test('what is asked of a pool that is closed settles', async () => {
    const layout = pixelLayout('yuv420p');
    if (!layout) throw new Error('no layout');
    const pool = new MotionPool({ count: 1, entry }, { layout, width: 64, height: 64 });
    const numbered = (k: number) => ({ k, picture: new Uint8Array(64 * 96) });
    expect((await pool.make(numbered(0), numbered(1), 0.5)).certainty).toBe(1);
    const late = pool.make(numbered(1), numbered(2), 0.5);
    const closing = pool.close();
    await expect(late).rejects.toMatchObject({ code: 'aborted' });
    await closing;
    await expect(pool.make(numbered(2), numbered(3), 0.5)).rejects.toMatchObject({
      code: 'aborted',
    });
  });
});

test('where rates almost match, real pictures stay untouched', async () => {
  const camera = filmed('noise');
  const reals = Array.from({ length: 4 }, (_, k) => camera.real(k));
  const { result } = await made(await written('near.mkv', reals, rate(24)), { rate: rate(24000, 1001), method: 'motion' });
  expect(result).toMatchObject({ made: 0, real: 3 });
});

test('across a cut the nearer picture stands, and is told', async () => {
  const [one, other] = [filmed('rotation'), filmed('floes')];
  const pictures = [one.real(0), one.real(1), other.real(0), other.real(1)];
  const { result, frames } = await made(await written('cut.mkv', pictures), { rate: rate(100), method: 'motion' });
  expect(result).toMatchObject({ cuts: 3, made: 6, real: 4 });
  for (const [n, k] of [
    [5, 1],
    [6, 2],
    [7, 2],
  ] as const)
    expect(Buffer.compare(frames[n] as Uint8Array, pictures[k] as Uint8Array)).toBe(0);
});

test.each(['yuv422p', 'yuv420p10le', 'yuv444p10le'])(
  "%s of FFmpeg's own pattern is made in its own depth",
  async (pixelFormat) => {
    const source = 'testsrc2=size=130x98:rate=12:duration=0.5';
    const input = generated(`${pixelFormat}.mkv`, '-f', 'lavfi', '-i', source, '-pix_fmt', pixelFormat, '-c:v', 'ffv1');
    const reals = await decoded(input, pixelFormat);
    const { result, frames } = await made(input, { rate: rate(24), method: 'motion' }, pixelFormat);
    expect(result).toMatchObject({ frames: 12, real: 6 });
    for (let k = 0; k < reals.length; k++) expect(Buffer.compare(frames[2 * k] as Uint8Array, reals[k] as Uint8Array)).toBe(0);
    // What stands between is no copy of either neighbour, and as large as they are.
    expect(frames[1]?.length).toBe(reals[0]?.length);
    expect(Buffer.compare(frames[1] as Uint8Array, reals[0] as Uint8Array)).not.toBe(0);
  },
);

test('clips of one and of two pictures, and of odd sizes, are no trouble', async () => {
  const of = (name: string, size: string, pictures: number): string =>
    generated(
      name,
      '-f',
      'lavfi',
      '-i',
      `testsrc2=size=${size}:rate=10`,
      '-frames:v',
      `${pictures}`,
      '-pix_fmt',
      'yuv444p',
      '-c:v',
      'ffv1',
    );
  expect((await made(of('one.mkv', '64x48', 1), { rate: rate(20), method: 'motion' })).result).toMatchObject({
    frames: 2,
    made: 0,
  });
  expect((await made(of('two.mkv', '63x47', 2), { rate: rate(20), method: 'motion' })).result).toMatchObject({
    frames: 4,
    real: 2,
    made: 1,
  });
  expect((await made(of('dot.mkv', '2x2', 2), { rate: rate(20), method: 'motion' })).result.frames).toBe(4);
});

describe('a shutter', () => {
  /** Pictures of one grey each. */
  const grey = (level: number): Uint8Array => new Uint8Array((LUMA * 3) / 2).fill(level);

  test('going down in rate averages the real pictures it covers, fractions weighted', async () => {
    const input = await written(
      'grey.mkv',
      Array.from({ length: 8 }, (_, k) => grey(20 + 20 * k)),
      rate(100),
    );
    const half = await made(input, { rate: rate(25), method: 'nearest', shutterDegrees: 180 });
    expect(half.result).toMatchObject({ frames: 2, blended: 2, real: 0, made: 0 });
    expect(half.frames.map((f) => f[0])).toEqual([30, 110]);
    const whole = await made(input, { rate: rate(40), method: 'blend', shutterDegrees: 360 });
    // 2.5 pictures a frame: (20 + 40 + 60 / 2) / 2.5, then (60 / 2 + 80 + 100) / 2.5.
    expect(whole.frames.slice(0, 2).map((f) => f[0])).toEqual([36, 84]);
  });

  test('with too few pictures it is open along the motion, in threads or not', async () => {
    const camera = filmed('pan of 60');
    const reals = Array.from({ length: 4 }, (_, k) => camera.real(k));
    const input = await written('blur.mkv', reals);
    const options: MakeOptions = { rate: rate(25), method: 'motion', shutterDegrees: 180 };
    const { result, frames } = await made(input, options);
    expect(result).toMatchObject({ frames: 4, made: 3 });
    const truth = new Float64Array(LUMA);
    for (let i = 0; i < 8; i++) {
      const moment = camera.truth(1 + (i + 0.5) / 16);
      for (let at = 0; at < LUMA; at++) truth[at] = (truth[at] as number) + (moment[at] as number) / 8;
    }
    const blurred = Uint8Array.from(truth, Math.round);
    expect(psnrOf(meanSquare((frames[1] as Uint8Array).subarray(0, LUMA), blurred), 255)).toBeGreaterThan(42);
    const entry = new URL('../../dist/motion/worker.js', import.meta.url);
    const threaded = await made(input, { ...options, threads: { count: 2, entry } });
    expect(threaded.result).toEqual(result);
    expect(threaded.frames.map((f, n) => Buffer.compare(f, frames[n] as Uint8Array))).toEqual(frames.map(() => 0));
  });
});

describe('held out', () => {
  test('hides every second picture and says how near the made ones come', async () => {
    const camera = filmed('rotation');
    const input = await written(
      'held.mkv',
      Array.from({ length: 6 }, (_, k) => camera.real(k / 2)),
    );
    const found = await heldOut({ media: ffmpeg, progress: quiet }, { path: input, probe: await ffmpeg.probe(input) });
    expect(found.perPicture.map((p) => p.picture)).toEqual([1, 3]);
    expect(found.psnr).toBeGreaterThan(42);
    expect(found.ssim).toBeGreaterThan(0.98);
    // All together lies between the worst and the best.
    const each = found.perPicture.map((p) => p.psnr);
    expect(found.psnr).toBeGreaterThanOrEqual(Math.min(...each));
    expect(found.psnr).toBeLessThanOrEqual(Math.max(...each));
  });

  test('what cannot be followed comes out worse, and is less sure', async () => {
    const noise = generated(
      'chaos.mkv',
      '-f',
      'lavfi',
      '-i',
      'nullsrc=size=160x120:rate=25:duration=0.4,geq=random(1)*255:128:128',
      '-c:v',
      'ffv1',
    );
    const still = generated(
      'still.mkv',
      '-f',
      'lavfi',
      '-i',
      'testsrc=size=160x120:rate=1',
      '-frames:v',
      '9',
      '-vf',
      'trim=end_frame=1,loop=8:1:0',
      '-pix_fmt',
      'yuv420p',
      '-c:v',
      'ffv1',
    );
    const bad = await heldOut({ media: ffmpeg, progress: quiet }, { path: noise, probe: await ffmpeg.probe(noise) });
    const good = await heldOut({ media: ffmpeg, progress: quiet }, { path: still, probe: await ffmpeg.probe(still) });
    expect(good).toMatchObject({ psnr: 100, ssim: 1 });
    expect(bad.psnr).toBeLessThan(15);
    const least = (found: typeof bad): number => Math.min(...found.perPicture.map((p) => p.certainty));
    expect(least(bad)).toBeLessThan(0.2);
    expect(least(good)).toBe(1);
  });

  test('too few pictures are refused, and a broken file is told', async () => {
    const camera = filmed('noise');
    const input = await written('short.mkv', [camera.real(0), camera.real(1)]);
    await expect(
      heldOut({ media: ffmpeg, progress: quiet }, { path: input, probe: await ffmpeg.probe(input) }),
    ).rejects.toMatchObject({
      code: 'too-short',
    });
    const probe = await ffmpeg.probe(input);
    const broken = join(folder, 'broken.mkv');
    writeFileSync(broken, 'no film');
    await expect(
      heldOut({ media: ffmpeg, progress: quiet }, { path: broken, probe: { ...probe, pictures: 9 } }),
    ).rejects.toBeInstanceOf(MediaError);
    const output = join(folder, 'never.mkv');
    await expect(
      make({ media: ffmpeg, progress: quiet }, { input: broken, probe, output, options: { rate: rate(50), method: 'motion' } }),
    ).rejects.toBeInstanceOf(MediaError);
    expect(existsSync(output)).toBe(false);
  });
});
