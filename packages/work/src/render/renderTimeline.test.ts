import { spawnSync } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { positionAt } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import {
  apply,
  type Command,
  clipsFor,
  commandSchema,
  formSchema,
  noTiming,
  type Project,
  renderedAt,
  type Timeline,
  timelineAsSource,
} from '@thawline/project';
import { click, decoded, HEIGHT, heard, source, WIDTH } from '../fixtures/numbered.fixture.js';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { check, type RenderInput, type RenderRequest, runJob, sampleOfFrame, type Trial, trimCache } from '../index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-render-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;

const project = (...clips: [path: string, fit: 'nearest' | 'blend' | 'pictures', start: number][]): Promise<RenderInput> =>
  projectOf({ width: WIDTH, height: HEIGHT }, ...clips);

const spec = (input: RenderInput, path: string) =>
  ({ input, form: formSchema.parse({}), path, work: `${path}-parts`, cache: null }) as const;
const rendering = (specification: RenderRequest) => ({ kind: 'render', specification }) as const;

/** Ends every FFmpeg that was started with this path. */
function killAllWith(path: string, signal: NodeJS.Signals = 'SIGKILL'): void {
  for (const pid of readdirSync('/proc').filter((n) => /^\d+$/.test(n))) {
    try {
      const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
      if (command.startsWith('ffmpeg') && command.includes(path)) process.kill(Number(pid), signal);
    } catch {
      // A process that ended meanwhile is no trouble. (In Jest's sandbox its error is no instance of this Error.)
    }
  }
}

describe('render', () => {
  test('every frame is the picture the step map names, gaps are black, and sound begins at its sample', async () => {
    const fast = await source(folder, 'fast.mkv', rate(50), 60, click(1.2, 20_000));
    const odd = await source(folder, 'odd.mkv', rate(30000, 1001), 60);
    const input = await project([fast, 'nearest', 10], [odd, 'nearest', 45]);
    const path = join(folder, 'cut.mp4');
    const composed = await rendered(input, path);
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

  test.each([
    // 25 read at 20 runs 80 %: a click after 0.5 s is heard after 0.625 s when it goes along, after 0.5 s at its own rate.
    ['along', 30_000],
    ['own', 24_000],
  ] as const)('read at another rate, sound that is to go %s is heard where it should be', async (sound, wanted) => {
    const input = await project([await source(folder, `read-${sound}.mkv`, rate(25), 50, click(2, 24_000)), 'nearest', 0]);
    const reading = { rate: rate(20), pictures: 'once', from: 'typed', sound } as const;
    const [read] = input.project.sources;
    const command: Command = { type: 'readAt', readings: [{ sourceId: read?.id ?? '', reading }], uses: 'move', except: [] };
    const applied = apply(input.project, command);
    const [timeline] = applied.ok ? applied.project.timelines : [];
    if (!applied.ok || !timeline) throw new Error('refused');
    const path = join(folder, `read-${sound}.mp4`);
    const composed = await rendered({ ...input, project: applied.project, timeline }, path);
    // 50 pictures at 20 last 2.5 s: 62 whole frames at 25.
    expect(composed.frames).toBe(62);
    const at = (await heard(path)).findIndex((v) => v > 0.3);
    expect(Math.abs(at - wanted)).toBeLessThanOrEqual(3);
  });

  test('a timeline that stands in another one is rendered as its frames and heard in its place; in to out is all that is written', async () => {
    const input = await project([await source(folder, 'inner.mkv', rate(50), 60, click(1.2, 12_000)), 'nearest', 5]);
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
    const composed = await rendered({ project: document, timeline: outer(), files: input.files, range }, path);
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
    const input = await project([await source(folder, 'fill.mkv', rate(25), 20), 'nearest', 0]);
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
      await rendered({ ...input, project: { ...input.project, timelines: [shown] }, timeline: shown }, path);
      const [first] = await decoded(path);
      const top = first?.subarray(0, WIDTH).reduce((sum, v) => sum + v, 0) ?? 0;
      expect(top / WIDTH < 20).toBe(black);
    }
  });

  test('sound that is left out is silent', async () => {
    const input = await project([await source(folder, 'off.mkv', rate(25), 50, click(2, 24_000)), 'nearest', 0]);
    const [first] = input.project.sources;
    const reading = { rate: rate(25), pictures: 'once', from: 'typed', sound: 'off' } as const;
    const command: Command = { type: 'readAt', readings: [{ sourceId: first?.id ?? '', reading }], uses: 'move', except: [] };
    const applied = apply(input.project, command);
    if (!applied.ok) throw new Error(applied.code);
    const path = join(folder, 'off.mp4');
    await rendered({ ...input, project: applied.project }, path);
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
    expect((await rendered(input, path)).frames).toBe(125);
    const frames = await decoded(path);
    expect(frames).toHaveLength(125);
    expect(frames[124]?.[500]).toBeGreaterThan(200);
    await expect(check({ media: ffmpeg, progress: quiet }, { path: png, probe: await ffmpeg.probe(png) })).rejects.toMatchObject({
      code: 'no-picture',
    });
  });

  test('a stop leaves no file, and of the parts only whole ones', async () => {
    const input = await project([await source(folder, 'long.mkv', rate(25), 300), 'nearest', 0]);
    const stop = new AbortController();
    const path = join(folder, 'stopped.mp4');
    const work = runJob(
      { media: ffmpeg, progress: (done) => done > 20 && stop.abort(), signal: stop.signal },
      rendering(spec(input, path)),
    );
    await expect(work).rejects.toMatchObject({ code: 'aborted' });
    expect(readdirSync(folder).filter((n) => n.includes('stopped'))).toEqual(['stopped.mp4-parts']);
    expect(readdirSync(`${path}-parts`)).toEqual([]);
  });

  test.each([
    // From outside: worth trying again.
    ['SIGKILL', 'killed'],
    // Its own mistake: the file is damaged, and would make it crash again.
    ['SIGSEGV', 'decoder-crashed'],
  ] as const)('an FFmpeg that ends by %s is told as "%s", and leaves nothing', async (signal, code) => {
    const input = await project([await source(folder, `${signal}.mkv`, rate(25), 400), 'nearest', 0]);
    const path = join(folder, `${signal}-out.mp4`);
    const job = spec(input, path);
    const render = runJob({ media: ffmpeg, progress: (done) => done > 20 && killAllWith(job.work, signal) }, rendering(job));
    await expect(render).rejects.toMatchObject({ code });
    expect(readdirSync(folder).filter((n) => n.includes(`${signal}-out`))).toEqual([`${signal}-out.mp4-parts`]);
    expect(readdirSync(job.work).filter((n) => n.includes('partial'))).toEqual([]);
  });
});

describe('forms', () => {
  let input: RenderInput;
  beforeAll(async () => {
    input = await project([await source(folder, 'forms.mkv', rate(24000, 1001), 48, click(2, 24_000)), 'nearest', 0]);
  });

  test.each([
    ['mp4', {}, 'h264', 'yuv420p', 'aac'],
    ['mp4', { depth: 10, quality: 20 }, 'h264', 'yuv420p10le', 'aac'],
    ['webm', {}, 'vp9', 'yuv420p', 'opus'],
    ['mkv', {}, 'ffv1', 'yuv420p', 'flac'],
    ['mkv', { depth: 10 }, 'ffv1', 'yuv420p10le', 'flac'],
  ] as const)('%s %p holds every frame at its time, and its sound', async (kind, more, codec, pixelFormat, sound) => {
    const asked = { ...input, timeline: { ...input.timeline, rate: rate(24000, 1001), startFrame: 86_400 } };
    const { paths, frames } = await rendered(asked, join(folder, `form-${codec}-${pixelFormat}.${kind}`), { kind, ...more });
    const probe = await ffmpeg.probe(paths[0] ?? '');
    expect(probe).toMatchObject({ codec, pixelFormat, pictures: frames, variable: false, firstSeconds: 0 });
    expect(probe.measured?.rate).toEqual(rate(24000, 1001));
    expect(probe.colour).toMatchObject({ matrix: 'smpte170m', range: 'limited' });
    expect(probe.sound?.codec).toBe(sound);
    expect(probe.timecode).toBe(kind === 'webm' ? null : '01:00:00:00');
    const at = (await heard(paths[0] ?? '')).findIndex((v) => v > 0.3);
    expect(Math.abs(at - 24_000)).toBeLessThanOrEqual(5);
  });

  test.each(['mkv', 'y4m'] as const)('%s gives every picture back bit for bit', async (kind) => {
    const { paths } = await rendered(input, join(folder, `exact.${kind}`), { kind });
    const [frames, wanted] = [await decoded(paths[0] ?? ''), await decoded(join(folder, 'forms.mkv'))];
    // 24000/1001 in 25: one picture is held each second.
    expect(frames).toHaveLength(50);
    const wrong = frames.filter((f, n) => {
      const { picture } = positionAt(
        {
          timing: { kind: 'constant', rate: rate(24000, 1001), pictures: 48 },
          timeline: rate(25),
          fit: 'nearest',
          inPicture: 0,
          headTrim: 0,
          length: 50,
        },
        n,
      );
      return Buffer.compare(f, wanted[picture] as Uint8Array) !== 0;
    });
    expect(wrong).toHaveLength(0);
    if (kind === 'y4m') expect(paths).toEqual([join(folder, 'exact.y4m'), join(folder, 'exact.wav')]);
  });

  test('quality 0 of H.264 loses nothing, at any depth', async () => {
    const kept = join(folder, 'kept.mkv');
    for (const depth of [8, 10] as const) {
      const { paths } = await rendered(input, join(folder, `zero-${depth}.mp4`), { quality: 0, depth });
      const exact = await rendered(input, kept, { kind: 'mkv', depth });
      const pixelFormat = depth === 10 ? 'yuv420p10le' : 'yuv420p';
      const [first, wanted] = [await decoded(paths[0] ?? '', pixelFormat), await decoded(exact.paths[0] ?? '', pixelFormat)];
      expect(first.map((f, n) => Buffer.compare(f, wanted[n] as Uint8Array))).toEqual(wanted.map(() => 0));
    }
  });

  test('numbered PNGs lie in a folder of their own, sound alone is a WAV', async () => {
    const pngs = await rendered(input, join(folder, 'stills.png'), { kind: 'png' });
    expect(pngs.paths).toEqual([join(folder, 'stills'), join(folder, 'stills.wav')]);
    expect(readdirSync(join(folder, 'stills'))).toHaveLength(50);
    const wav = await rendered(input, join(folder, 'alone.wav'), { kind: 'wav' });
    const probe = await ffmpeg.probe(wav.paths[0] ?? '');
    expect(probe).toMatchObject({ kind: 'sound', sound: { seconds: 2, codec: 'pcm_s24le' } });
  });

  test('another rate shows each moment by the step map, and lasts as long', async () => {
    const at50 = renderedAt(input.project, input.timeline, { rate: rate(50), way: 'nearest' });
    const { paths } = await rendered({ ...input, ...at50 }, join(folder, 'at-50.mkv'), { kind: 'mkv', rate: rate(50) });
    const frames = await decoded(paths[0] ?? '');
    const own = await decoded((await rendered(input, join(folder, 'at-25.mkv'), { kind: 'mkv' })).paths[0] ?? '');
    expect(frames).toHaveLength(100);
    expect(frames.filter((f, n) => Buffer.compare(f, own[n >> 1] as Uint8Array) !== 0)).toHaveLength(0);
    expect((await ffmpeg.probe(paths[0] ?? '')).measured?.rate).toEqual(rate(50));
  });

  test('names that are taken are left alone: the next number is told', async () => {
    const path = join(folder, 'taken.mkv');
    writeFileSync(path, 'somebody else');
    const { paths } = await rendered(input, path, { kind: 'mkv' });
    expect(paths).toEqual([join(folder, 'taken (2).mkv')]);
    expect(readFileSync(path, 'utf8')).toBe('somebody else');
  });
});

describe('colours', () => {
  const flat = async (name: string, colour: { matrix: string; range: 'limited' | 'full' }, luma: number): Promise<string> => {
    const path = join(folder, name);
    const picture = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(luma, 0, WIDTH * HEIGHT).fill(90, WIDTH * HEIGHT);
    const tags = { ...colour, primaries: 'bt709', transfer: 'bt709' };
    const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' as const, colour: tags };
    await ffmpeg.encode(
      path,
      request,
      Array.from({ length: 5 }, () => picture),
    );
    return path;
  };

  test('tags and samples of one source pass through untouched', async () => {
    const input = await project([await flat('full709.mkv', { matrix: 'bt709', range: 'full' }, 250), 'nearest', 0]);
    for (const form of [{ kind: 'mkv' }, { kind: 'mp4' }, { kind: 'webm' }] as const) {
      const { paths } = await rendered(input, join(folder, `tags.${form.kind}`), form);
      const probe = await ffmpeg.probe(paths[0] ?? '');
      expect(probe.colour).toEqual({ matrix: 'bt709', range: 'full', primaries: 'bt709', transfer: 'bt709' });
    }
    expect((await decoded(join(folder, 'tags.mkv')))[0]?.[100]).toBe(250);
  });

  test('the same samples under other tags are another part', async () => {
    const cache = join(folder, 'tag-cache');
    const bt = { matrix: 'bt709', range: 'limited' as const };
    const one = await project([await flat('tagged.mkv', bt, 120), 'nearest', 0]);
    await rendered(one, join(folder, 'tagged-1.mp4'), {}, cache);
    const [id = '', file] = Object.entries(one.files)[0] ?? [];
    if (!file?.probe.colour) throw new Error('no colour');
    const untold = { ...file, probe: { ...file.probe, colour: { ...file.probe.colour, transfer: null } } };
    const { reused, paths } = await rendered({ ...one, files: { [id]: untold } }, join(folder, 'tagged-2.mp4'), {}, cache);
    expect(reused).toBe(0);
    expect((await ffmpeg.probe(paths[0] ?? '')).colour).toEqual({ ...file.probe.colour, transfer: null });
  });

  test('sources of different colours are brought to one, black where nothing lies', async () => {
    const one = await flat('full.mkv', { matrix: 'smpte170m', range: 'full' }, 255);
    const other = await flat('limited.mkv', { matrix: 'smpte170m', range: 'limited' }, 235);
    const input = await project([one, 'nearest', 0], [other, 'nearest', 10]);
    const { paths } = await rendered(input, join(folder, 'mixed.mkv'), { kind: 'mkv' });
    const frames = await decoded(paths[0] ?? '');
    expect([0, 7, 12].map((n) => frames[n]?.[100])).toEqual([235, 16, 235]);
  });
});

describe('a trial', () => {
  test.each([{ kind: 'mkv' }, { kind: 'y4m' }, { kind: 'png' }, { kind: 'png', depth: 10 }] as const)(
    'tells about what %p takes up, there already or not',
    async (form) => {
      const input = await project([await source(folder, `trial-${form.kind}.mkv`, rate(25), 60), 'nearest', 0]);
      const cache = join(folder, `trial-cache-${form.kind}-${'depth' in form}`);
      const path = join(folder, `trial-${form.kind}-${'depth' in form}`);
      const ask = async (): Promise<Trial> => {
        const work = mkdtempSync(join(folder, 'trial-work-'));
        return await runJob(
          { media: ffmpeg, progress: quiet },
          { kind: 'trial', specification: { input, form: formSchema.parse(form), path, work, cache } },
        );
      };
      const before = await ask();
      const { paths } = await rendered(input, `${path}.${form.kind}`, form, cache);
      const after = await ask();
      expect([before.reused, after.reused]).toEqual([0, 60]);
      const [main = ''] = paths;
      const bytes =
        form.kind === 'png' ? readdirSync(main).reduce((n, f) => n + statSync(join(main, f)).size, 0) : statSync(main).size;
      for (const { bytes: told } of [before, after]) expect(Math.abs(told.value / bytes - 1)).toBeLessThan(0.25);
    },
  );
});

describe('parts', () => {
  const names = (cache: string): string[] => readdirSync(cache).sort();

  test('what is unchanged is not written again, wherever it moved; what changed is', async () => {
    const cache = join(folder, 'cache');
    const long = await source(folder, 'parts.mkv', rate(25), 600);
    const other = await source(folder, 'other.mkv', rate(25), 50);
    const input = await project([other, 'nearest', 0], [long, 'nearest', 50]);
    const first = await rendered(input, join(folder, 'p1.mp4'), {}, cache);
    expect(first.reused).toBe(0);
    const after1 = names(cache);
    // 2 s, then 24 s in parts of 8.
    expect(after1).toHaveLength(4);
    const moved = after(
      input,
      { type: 'removeClips', timelineId: 't', clipIds: ['c0'] },
      { type: 'moveClips', timelineId: 't', clipIds: ['c1'], byFrames: -50 },
    );
    const second = await rendered(moved, join(folder, 'p2.mp4'), {}, cache);
    expect(second).toMatchObject({ frames: 600, reused: 600 });
    const trimmed = after(moved, { type: 'trimClip', timelineId: 't', clipId: 'c1', start: 210, end: 600 });
    const third = await rendered({ ...trimmed, range: { from: 210, to: 600 } }, join(folder, 'p3.mp4'), {}, cache);
    expect(third).toMatchObject({ frames: 390, reused: 200 });
    const frames = await decoded(third.paths[0] ?? '');
    expect(frames).toHaveLength(390);
    const finer = await rendered(moved, join(folder, 'p4.mp4'), { quality: 17 }, cache);
    expect(finer.reused).toBe(0);
    const before = await decoded(second.paths[0] ?? '');
    const bright = (picture: Uint8Array | undefined): number =>
      picture?.subarray(0, WIDTH).reduce((b, v, i, r) => (v > (r[b] ?? 0) ? i : b), 0) ?? -1;
    for (const n of [0, 199, 200, 201, 399, 400, 599]) expect(bright(before[n])).toBe(n % WIDTH);
    for (const n of [0, 100, 189, 190, 389]) expect(bright(frames[n])).toBe((n + 210) % WIDTH);
  });

  test('a file of other contents under the same name makes other parts', async () => {
    const cache = join(folder, 'cache2');
    const input = await project([await source(folder, 'same.mkv', rate(25), 30), 'nearest', 0]);
    const known = (identity: string): RenderInput => ({
      ...input,
      files: Object.fromEntries(Object.entries(input.files).map(([id, file]) => [id, { ...file, identity }])),
    });
    await rendered(known('a'), join(folder, 's1.mp4'), {}, cache);
    expect((await rendered(known('a'), join(folder, 's2.mp4'), {}, cache)).reused).toBe(30);
    expect((await rendered(known('b'), join(folder, 's3.mp4'), {}, cache)).reused).toBe(0);
  });

  test('a render that was ended goes on with the parts it had, cache or not', async () => {
    const input = await project([await source(folder, 'goes-on.mkv', rate(25), 600), 'nearest', 0]);
    const job = spec(input, join(folder, 'goes-on.mp4'));
    const stop = new AbortController();
    const ended = runJob({ media: ffmpeg, progress: (done) => done > 450 && stop.abort(), signal: stop.signal }, rendering(job));
    await expect(ended).rejects.toMatchObject({ code: 'aborted' });
    const kept = readdirSync(job.work).length;
    expect(kept).toBeGreaterThan(0);
    const result = await runJob({ media: ffmpeg, progress: quiet }, rendering(job));
    expect(result.reused).toBe(kept * 200);
    expect(result.receipt.differs).toBe(0);
  });

  test('the oldest parts go first when there is too much', async () => {
    const cache = join(folder, 'cache3');
    mkdirSync(cache);
    for (const [i, name] of ['old', 'middle', 'new'].entries()) {
      writeFileSync(join(cache, name), Buffer.alloc(100));
      utimesSync(join(cache, name), i + 1, i + 1);
    }
    expect(await trimCache(cache, 250)).toEqual({ bytes: 200, files: 2 });
    expect(names(cache)).toEqual(['middle', 'new']);
    expect(await trimCache(cache, 0)).toEqual({ bytes: 0, files: 0 });
    expect(await trimCache(join(folder, 'no-such-cache'), 0)).toEqual({ bytes: 0, files: 0 });
  });

  test('a source that is replaced while it is read is told, and nothing made from it is kept', async () => {
    const path = await source(folder, 'replaced.mkv', rate(25), 600);
    const input = await project([path, 'nearest', 0]);
    const cache = join(folder, 'cache4');
    const job = { ...spec(input, join(folder, 'replaced.mp4')), cache };
    let replaced = false;
    const render = runJob(
      {
        media: ffmpeg,
        progress: (done) => {
          if (done < 100 || replaced) return;
          replaced = true;
          copyFileSync(path, `${path}.new`);
          renameSync(`${path}.new`, path);
        },
      },
      rendering(job),
    );
    await expect(render).rejects.toMatchObject({ code: 'source-changed' });
    expect(readdirSync(folder).filter((n) => /^\.?replaced\.mp4(?!-parts)/.test(n))).toEqual([]);
    expect(readdirSync(cache)).toEqual([]);
  });

  test('a folder that is gone or vanishes is told', async () => {
    const input = await project([await source(folder, 'nowhere.mkv', rate(25), 300), 'nearest', 0]);
    await expect(
      runJob({ media: ffmpeg, progress: quiet }, rendering(spec(input, join(folder, 'no', 'where.mp4')))),
    ).rejects.toMatchObject({
      code: 'no-folder',
    });
    const gone = join(folder, 'vanishes');
    mkdirSync(gone);
    const job = { ...spec(input, join(gone, 'out.mp4')), work: join(folder, 'vanish-parts') };
    const render = runJob(
      { media: ffmpeg, progress: (done) => done > 100 && rmSync(gone, { recursive: true, force: true }) },
      rendering(job),
    );
    await expect(render).rejects.toMatchObject({ code: 'no-folder' });
  });
});
