import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { positionAt } from '@thawline/core/cadence';
import { frameAtOrBefore, rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import {
  apply,
  type Command,
  clipsFor,
  commandSchema,
  noTiming,
  type Project,
  type Timeline,
  timelineAsSource,
} from '@thawline/project';
import {
  check,
  make,
  measureReceipt,
  perform,
  type RenderInput,
  renderTimeline,
  SIGNATURE_BYTES,
  SOUND_RATE,
  sampleOfFrame,
  wrongFrames,
} from './index.js';

import { projectOf } from './project.fixture.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-work-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;

const WIDTH = 64;
const HEIGHT = 36;

/** A picture that says its number: a bright column that moves one place a picture, over a slope that brightens with it. */
function numbered(k: number): Uint8Array {
  const picture = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
  for (let i = 0; i < WIDTH * HEIGHT; i++) picture[i] = i % WIDTH === k % WIDTH ? 235 : 30 + ((k * 3) % 90) + (i % 7);
  return picture;
}

/** A short click at one sample in silence. */
function click(seconds: number, at: number): Float32Array {
  const sound = new Float32Array(Math.round(seconds * SOUND_RATE) * 2);
  for (let n = 0; n < 40; n++) {
    sound[2 * (at + n)] = 0.8;
    sound[2 * (at + n) + 1] = 0.8;
  }
  return sound;
}

async function source(name: string, r: ReturnType<typeof rate>, pictures: number, sound?: Float32Array): Promise<string> {
  const path = join(folder, name);
  const request = {
    width: WIDTH,
    height: HEIGHT,
    rate: r,
    pixelFormat: 'yuv420p',
    form: 'mkv' as const,
    ...(sound ? { sound: { sampleRate: SOUND_RATE, channels: 2 } } : {}),
  };
  await ffmpeg.encode(
    path,
    request,
    Array.from({ length: pictures }, (_, k) => numbered(k)),
    sound ? [sound] : undefined,
  );
  return path;
}

async function decoded(path: string): Promise<Uint8Array[]> {
  const probe = await ffmpeg.probe(path);
  const out: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p' })) out.push(picture);
  return out;
}

async function heard(path: string): Promise<Float32Array> {
  const blocks: number[] = [];
  for await (const block of ffmpeg.openSound(path, { sampleRate: SOUND_RATE, channels: 1 }))
    for (const v of block) blocks.push(v);
  return Float32Array.from(blocks);
}

describe('make', () => {
  test.each([
    [rate(50), rate(24)],
    [rate(30000, 1001), rate(25)],
    [rate(24), rate(30000, 1001)],
  ])('%p to %p shows the picture of each moment, bit for bit', async (from, to) => {
    const input = await source('in.mkv', from, 70);
    const output = join(folder, 'out.mkv');
    const made = await make(ffmpeg, input, await ffmpeg.probe(input), output, { rate: to, method: 'nearest' }, quiet);
    expect(made.frames).toBe(frameAtOrBefore(70, from, to));
    const frames = await decoded(output);
    expect(frames).toHaveLength(made.frames);
    const wrong = frames.filter((f, n) => Buffer.compare(f, numbered(frameAtOrBefore(n, to, from))) !== 0);
    expect(wrong).toHaveLength(0);
    expect((await ffmpeg.probe(output)).measured?.rate).toEqual(to);
  });

  test('a blend is the weighted mean and passes real pictures through', async () => {
    const input = await source('b.mkv', rate(30), 40);
    const output = join(folder, 'b.y4m');
    const made = await make(ffmpeg, input, await ffmpeg.probe(input), output, { rate: rate(20), method: 'blend' }, quiet);
    const frames = await decoded(output);
    expect(made).toMatchObject({ frames: 26, real: 13, blended: 13 });
    const a = numbered(1);
    const b = numbered(2);
    expect(frames[1]?.[100]).toBe(((a[100] as number) + (b[100] as number) + 1) >> 1);
    expect(Buffer.compare(frames[2] as Uint8Array, numbered(3))).toBe(0);
  });

  test('sound goes along, to the sample', async () => {
    const input = await source('s.mkv', rate(50), 100, click(2, 61_234));
    const output = join(folder, 's-out.mkv');
    await make(ffmpeg, input, await ffmpeg.probe(input), output, { rate: rate(24), method: 'nearest' }, quiet);
    expect((await heard(output)).findIndex((v) => v > 0.4)).toBe(61_234);
  });

  test('one picture makes at least one frame; a failure leaves nothing', async () => {
    const input = await source('one.mkv', rate(25), 1);
    const probe = await ffmpeg.probe(input);
    expect((await make(ffmpeg, input, probe, join(folder, 'one.y4m'), { rate: rate(10), method: 'nearest' }, quiet)).frames).toBe(
      1,
    );
    const before = readdirSync(folder).length;
    await expect(
      make(ffmpeg, join(folder, 'gone.mkv'), probe, join(folder, 'never.mp4'), { rate: rate(10), method: 'nearest' }, quiet),
    ).rejects.toThrow();
    expect(readdirSync(folder)).toHaveLength(before);
  });
});

const project = (...clips: [path: string, fit: 'nearest' | 'blend' | 'pictures', start: number][]): Promise<RenderInput> =>
  projectOf({ width: WIDTH, height: HEIGHT }, ...clips);

/** Ends every FFmpeg that was started with this path. */
function killAllWith(path: string): void {
  for (const pid of readdirSync('/proc').filter((n) => /^\d+$/.test(n))) {
    try {
      const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
      if (command.startsWith('ffmpeg') && command.includes(path)) process.kill(Number(pid), 'SIGKILL');
    } catch {
      // A process that ended meanwhile is no trouble. (In Jest's sandbox its error is no instance of this Error.)
    }
  }
}

describe('render', () => {
  test('every frame is the picture the step map names, gaps are black, and sound begins at its sample', async () => {
    const fast = await source('fast.mkv', rate(50), 60, click(1.2, 20_000));
    const odd = await source('odd.mkv', rate(30000, 1001), 60);
    const input = await project([fast, 'nearest', 10], [odd, 'nearest', 45]);
    const path = join(folder, 'cut.mp4');
    const composed = await renderTimeline(ffmpeg, input, path, quiet);
    expect(composed.frames).toBe(95);
    const probe = await ffmpeg.probe(path);
    expect(probe.pictures).toBe(95);
    expect(probe.measured?.rate).toEqual(rate(25));
    const frames = await decoded(path);
    const bright = (n: number): number => {
      const row = frames[n]?.subarray(0, WIDTH) as Uint8Array;
      return row.indexOf(Math.max(...row));
    };
    expect(frames[3]?.[500]).toBeLessThan(20);
    for (const n of [10, 11, 20, 39]) expect(bright(n)).toBe((n - 10) * 2);
    const [timeline] = input.project.timelines;
    const clip = timeline?.clips.at(-1);
    if (!clip) throw new Error('no clip');
    for (const n of [45, 50, 51, 80]) {
      const wanted = positionAt(
        {
          timing: input.files[clip.sourceId]?.probe.timing as never,
          timeline: rate(25),
          fit: 'nearest',
          inPicture: 0,
          headTrim: 0,
          length: 50,
        },
        n - 45,
      );
      expect(bright(n)).toBe(wanted.picture % WIDTH);
    }
    const sound = await heard(path);
    const at = sound.findIndex((v) => v > 0.4);
    expect(Math.abs(at - (sampleOfFrame(10, rate(25)) + 20_000))).toBeLessThanOrEqual(1);
  });

  test('the receipt of a good render has nothing to say, and finds one planted fault exactly', async () => {
    const input = await project([await source('clean.mkv', rate(25), 50), 'nearest', 0]);
    const asked = { rate: rate(25), frames: 50, width: WIDTH, height: HEIGHT, sound: false };
    const path = join(folder, 'clean.mp4');
    const composed = await renderTimeline(ffmpeg, input, path, quiet);
    const clean = await measureReceipt(ffmpeg, path, 1, asked, composed, quiet);
    expect(clean.lines.filter((l) => !l.same)).toEqual([]);
    const planted = join(folder, 'planted.mp4');
    const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' as const };
    await ffmpeg.encode(
      planted,
      request,
      Array.from({ length: 50 }, (_, k) => numbered(k === 31 ? 30 : k)),
    );
    const faulty = await measureReceipt(ffmpeg, planted, 1, asked, composed, quiet);
    expect(faulty.wrong).toEqual([{ frame: 31, shows: 30 }]);
    expect(faulty.lines.filter((l) => !l.same).map((l) => l.what)).toEqual(['pictures']);
    const slow = join(folder, 'slow.mp4');
    await ffmpeg.encode(
      slow,
      { ...request, rate: rate(24) },
      Array.from({ length: 49 }, (_, k) => numbered(k)),
    );
    const other = await measureReceipt(ffmpeg, slow, 1, asked, composed, quiet);
    expect(other.lines.filter((l) => !l.same).map((l) => l.what)).toEqual(['rate', 'frames', 'length', 'pictures']);
  });

  test.each([
    // 25 read at 20 runs 80 %: a click after 0.5 s is heard after 0.625 s when it goes along, after 0.5 s at its own rate.
    ['along', 30_000],
    ['own', 24_000],
  ] as const)('read at another rate, sound that is to go %s is heard where it should be', async (sound, wanted) => {
    const input = await project([await source(`read-${sound}.mkv`, rate(25), 50, click(2, 24_000)), 'nearest', 0]);
    const reading = { rate: rate(20), pictures: 'once', from: 'typed', sound } as const;
    const [read] = input.project.sources;
    const command: Command = { type: 'readAt', readings: [{ sourceId: read?.id ?? '', reading }], uses: 'move', except: [] };
    const applied = apply(input.project, command);
    const [timeline] = applied.ok ? applied.project.timelines : [];
    if (!applied.ok || !timeline) throw new Error('refused');
    const path = join(folder, `read-${sound}.mp4`);
    const composed = await renderTimeline(ffmpeg, { ...input, project: applied.project, timeline }, path, quiet);
    // 50 pictures at 20 last 2.5 s: 62 whole frames at 25.
    expect(composed.frames).toBe(62);
    const at = (await heard(path)).findIndex((v) => v > 0.3);
    expect(Math.abs(at - wanted)).toBeLessThanOrEqual(3);
  });

  test('a timeline that stands in another one is rendered as its frames and heard in its place; in to out is all that is written', async () => {
    const input = await project([await source('inner.mkv', rate(50), 60, click(1.2, 12_000)), 'nearest', 5]);
    const [inner] = input.project.timelines;
    if (!inner) throw new Error('no timeline');
    let made = 0;
    const run = (document: Project, command: Command): Project => {
      const applied = apply(document, commandSchema.parse(command));
      if (!applied.ok) throw new Error(applied.code);
      return applied.project;
    };
    const shape = { width: WIDTH, height: HEIGHT, startFrame: 0, dropFrame: false };
    let document = run(input.project, { type: 'addTimeline', timeline: { id: 'o', name: 'Outer', rate: rate(50), ...shape } });
    const outer = (): Timeline => document.timelines.find((t) => t.id === 'o') as Timeline;
    const nested = timelineAsSource(document, inner);
    document = run(document, {
      type: 'placeClips',
      timelineId: 'o',
      clips: clipsFor({ timeline: outer(), source: nested, fit: 'nearest', start: 20, newId: () => `n${made++}` }, noTiming),
    });
    const range = { from: 24, to: 60 };
    const path = join(folder, 'nested.mp4');
    const composed = await renderTimeline(
      ffmpeg,
      { project: document, timeline: outer(), files: input.files, range },
      path,
      quiet,
    );
    expect(composed.frames).toBe(36);
    const frames = await decoded(path);
    const bright = (n: number): number => {
      const row = frames[n]?.subarray(0, WIDTH) as Uint8Array;
      return row.indexOf(Math.max(...row));
    };
    // Frame n of the file is frame 24 + n of 50, which is frame floor((4 + n) / 2) of the inner 25: black to 5, then pictures by two.
    expect(frames[3]?.[500]).toBeLessThan(20);
    for (const n of [6, 7, 8, 9, 20, 35]) expect(bright(n)).toBe((Math.floor((4 + n) / 2) - 5) * 2);
    // The click: 12 000 samples into the clip at frame 5 of 25, which begins at frame 20 of 50; the range cuts 24 frames off.
    const at = (await heard(path)).findIndex((v) => v > 0.4);
    const begins = sampleOfFrame(20, rate(50)) + sampleOfFrame(5, rate(25)) + 12_000 - sampleOfFrame(24, rate(50));
    expect(Math.abs(at - begins)).toBeLessThanOrEqual(1);
  });

  test('a picture that fills the frame is cut at its edges, not squeezed', async () => {
    const input = await project([await source('fill.mkv', rate(25), 20), 'nearest', 0]);
    const [timeline] = input.project.timelines;
    const [clip] = timeline?.clips ?? [];
    if (!timeline || !clip) throw new Error('no clip');
    const tall = { ...timeline, height: HEIGHT * 2, clips: [{ ...clip, framing: 'fill' as const }] };
    const boxed = { ...tall, clips: [clip] };
    for (const [name, shown, black] of [
      ['fill', tall, false],
      ['inside', boxed, true],
    ] as const) {
      const path = join(folder, `${name}.mp4`);
      await renderTimeline(ffmpeg, { ...input, project: { ...input.project, timelines: [shown] }, timeline: shown }, path, quiet);
      const [first] = await decoded(path);
      const top = first?.subarray(0, WIDTH).reduce((sum, v) => sum + v, 0) ?? 0;
      expect(top / WIDTH < 20).toBe(black);
    }
  });

  test('sound that is left out is silent', async () => {
    const input = await project([await source('off.mkv', rate(25), 50, click(2, 24_000)), 'nearest', 0]);
    const [first] = input.project.sources;
    const reading = { rate: rate(25), pictures: 'once', from: 'typed', sound: 'off' } as const;
    const command: Command = { type: 'readAt', readings: [{ sourceId: first?.id ?? '', reading }], uses: 'move', except: [] };
    const applied = apply(input.project, command);
    if (!applied.ok) throw new Error(applied.code);
    const path = join(folder, 'off.mp4');
    await renderTimeline(ffmpeg, { ...input, project: applied.project }, path, quiet);
    expect(Math.max(...(await heard(path)).map(Math.abs))).toBeLessThan(0.001);
  });

  test('a still fills as many frames as it is given', async () => {
    const png = join(folder, 'still.png');
    spawnSync('ffmpeg', [
      '-nostdin',
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `color=white:s=${WIDTH}x${HEIGHT}`,
      '-frames:v',
      '1',
      png,
    ]);
    const input = await project([png, 'nearest', 0]);
    const path = join(folder, 'still.mp4');
    expect((await renderTimeline(ffmpeg, input, path, quiet)).frames).toBe(125);
    const frames = await decoded(path);
    expect(frames).toHaveLength(125);
    expect(frames[124]?.[500]).toBeGreaterThan(200);
    await expect(check(ffmpeg, png, await ffmpeg.probe(png), quiet)).rejects.toMatchObject({ code: 'no-picture' });
  });

  test('a stop leaves nothing behind', async () => {
    const input = await project([await source('long.mkv', rate(25), 300), 'nearest', 0]);
    const stop = new AbortController();
    const path = join(folder, 'stopped.mp4');
    const work = perform(ffmpeg, { kind: 'render', input, path }, (done) => done > 20 && stop.abort(), stop.signal);
    await expect(work).rejects.toMatchObject({ code: 'aborted' });
    expect(readdirSync(folder).filter((n) => n.includes('stopped'))).toEqual([]);
  });

  test('an FFmpeg that is killed is told as a failure, and leaves nothing', async () => {
    const input = await project([await source('killed.mkv', rate(25), 400), 'nearest', 0]);
    const path = join(folder, 'killed-out.mp4');
    const work = perform(ffmpeg, { kind: 'render', input, path }, (done) => done > 20 && killAllWith(path));
    await expect(work).rejects.toMatchObject({ code: 'encode-failed' });
    expect(readdirSync(folder).filter((n) => n.includes('killed-out'))).toEqual([]);
  });

  test('equal neighbours are not called wrong', () => {
    const same = { frames: 3, data: new Uint8Array(3 * SIGNATURE_BYTES).fill(90) };
    const written = { frames: 3, data: same.data.map((v, i) => v + (i % 2)) };
    expect(wrongFrames(written, same)).toEqual([]);
  });
});

test('a check of a real file gives one change a picture', async () => {
  const path = await source('check.mkv', rate(25), 40);
  const probe = await ffmpeg.probe(path);
  const result = await check(ffmpeg, path, probe, quiet);
  expect(result.decoded).toBe(40);
  expect(result.trace).toHaveLength(39);
});
