import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg, type Media, MediaError, seriesName, seriesPattern } from './index.js';

/** The contract that every adapter of the media port keeps. Files come from FFmpeg's own generators, not from the rig. */
const adapters: [string, Media][] = [['ffmpeg', ffmpeg]];

const folder = mkdtempSync(join(tmpdir(), 'thawline-media-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function generate(name: string, ...args: string[]): string {
  const path = join(folder, name);
  const result = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path]);
  if (result.status !== 0) throw new Error(String(result.stderr));
  return path;
}

const PATTERN = ['-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=30000/1001:d=4'];
const TONE = ['-f', 'lavfi', '-i', 'sine=d=4:r=48000'];
const files: Record<string, string> = {};

beforeAll(() => {
  files.mp4 = generate('b.mp4', ...PATTERN, ...TONE, '-c:v', 'libx264', '-bf', '3', '-g', '50', '-c:a', 'aac');
  files.mkv = generate('b.mkv', '-i', files.mp4, '-c', 'copy');
  files.ts = generate('b.ts', '-i', files.mp4, '-c', 'copy');
  files.webm = generate('b.webm', ...PATTERN, '-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8');
  files.avi = generate('b.avi', ...PATTERN, '-c:v', 'mpeg4');
  files.raw = generate('b.h264', ...PATTERN, '-c:v', 'libx264', '-bf', '2');
  files.cut = generate('cut.mp4', '-ss', '1.3', '-i', files.mp4, '-c', 'copy');
  files.fields = generate(
    'i.mpg',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=160x120:r=25:d=2',
    '-c:v',
    'mpeg2video',
    '-flags',
    '+ilme+ildct',
    '-top',
    '1',
  );
});

async function all(pictures: AsyncIterable<Uint8Array>): Promise<Uint8Array[]> {
  const out: Uint8Array[] = [];
  for await (const picture of pictures) out.push(picture);
  return out;
}

async function code(work: Promise<unknown>): Promise<string> {
  try {
    await work;
    return 'no error';
  } catch (error) {
    return error instanceof MediaError ? error.code : String(error);
  }
}

describe.each(adapters)('%s', (_name, media) => {
  test.each(['mp4', 'mkv', 'ts', 'webm', 'avi', 'raw', 'cut', 'fields'])(
    '%s: the count is what decoding gives, and any picture is had exactly',
    async (kind) => {
      const path = files[kind] as string;
      const probe = await media.probe(path);
      expect(probe.measured?.rate).toEqual(kind === 'fields' ? rate(25) : rate(30000, 1001));
      expect(probe.variable).toBe(false);
      const whole = await all(media.openPictures(path, probe, { pixelFormat: 'gray' }));
      expect(whole).toHaveLength(probe.pictures);
      for (const k of [0, 3, Math.floor(probe.pictures * 0.55), probe.pictures - 1]) {
        const [one] = await all(media.openPictures(path, probe, { pixelFormat: 'gray', from: k, count: 1 }));
        expect(Buffer.compare(one as Uint8Array, whole[k] as Uint8Array)).toBe(0);
      }
    },
  );

  test.each([
    ['gif', '-c:v', 'gif'],
    ['rgb.mkv', '-c:v', 'ffv1', '-pix_fmt', 'gbrp'],
    ['ten.mkv', '-c:v', 'ffv1', '-pix_fmt', 'yuv422p10le'],
  ])('%s gives luma too', async (name, ...args) => {
    const path = generate(name === 'gif' ? 'a.gif' : name, '-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=25:d=1', ...args);
    const probe = await media.probe(path);
    expect(
      await all(media.openPictures(path, probe, { pixelFormat: 'gray', width: 80, height: 60, scaling: 'area' })),
    ).toHaveLength(25);
  });

  test('luma comes as stored, its range not stretched', async () => {
    const path = join(folder, 'range.mkv');
    const picture = new Uint8Array((32 * 16 * 3) / 2).fill(128);
    picture.fill(40, 0, 32 * 16);
    await media.encode(path, { width: 32, height: 16, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, [picture, picture]);
    const [luma] = await all(media.openPictures(path, await media.probe(path), { pixelFormat: 'gray' }));
    expect(luma?.[5]).toBe(40);
  });

  test.each(['yuv420p', 'yuv444p', 'yuv420p10le', 'yuvj420p', 'gray'])(
    'small luma of %s is as bright as the stored',
    async (format) => {
      const source = ['-f', 'lavfi', '-i', 'testsrc2=s=640x360:r=25:d=0.2'];
      const path = generate(`bright-${format}.mkv`, ...source, '-pix_fmt', format, '-c:v', 'ffv1');
      const probe = await media.probe(path);
      const mean = (picture: Uint8Array = new Uint8Array(1)): number => picture.reduce((a, b) => a + b, 0) / picture.length;
      const [large] = await all(media.openPictures(path, probe, { pixelFormat: 'gray' }));
      for (const scaling of ['area', 'bicubic'] as const) {
        const [small] = await all(media.openPictures(path, probe, { pixelFormat: 'gray', width: 160, height: 90, scaling }));
        expect(Math.abs(mean(small) - mean(large))).toBeLessThan(0.4);
      }
    },
  );

  test('a part of each picture is cut out before it is scaled', async () => {
    const probe = await media.probe(files.mp4 as string);
    const [whole] = await all(media.openPictures(files.mp4 as string, probe, { pixelFormat: 'gray', count: 1 }));
    const crop = { x: 32, y: 20, width: 64, height: 48 };
    const [part] = await all(media.openPictures(files.mp4 as string, probe, { pixelFormat: 'gray', count: 1, crop }));
    const lines = Array.from({ length: 48 }, (_, y) => whole?.slice((20 + y) * 160 + 32, (20 + y) * 160 + 96) ?? []);
    expect(Buffer.compare(part as Uint8Array, Buffer.concat(lines as Uint8Array[]))).toBe(0);
    const small = { pixelFormat: 'gray', count: 1, crop, width: 32, height: 24, scaling: 'area' as const };
    const [scaled] = await all(media.openPictures(files.mp4 as string, probe, small));
    expect(scaled).toHaveLength(32 * 24);
  });

  test('fields are scaled apart when asked: no line of two moments', async () => {
    const path = join(folder, 'two-moments.mkv');
    const picture = new Uint8Array(64 * 64).map((_, i) => (Math.floor(i / 64) % 2 === 0 ? 50 : 200));
    await media.encode(path, { width: 64, height: 64, rate: rate(25), pixelFormat: 'gray', form: 'mkv' }, [picture]);
    const probe = await media.probe(path);
    const request = { pixelFormat: 'gray', width: 32, height: 32, scaling: 'area' as const };
    const [apart] = await all(media.openPictures(path, probe, { ...request, fields: true }));
    const [mixed] = await all(media.openPictures(path, probe, request));
    for (const y of [8, 9, 20, 21])
      expect(Math.abs((apart?.[y * 32 + 7] ?? 0) - (y % 2 === 0 ? 50 : 200))).toBeLessThanOrEqual(2);
    expect(Math.abs((mixed?.[8 * 32 + 7] ?? 0) - 125)).toBeLessThanOrEqual(2);
  });

  test.each(['mp4', 'mkv', 'ts'])('%s: about a picture means from the key picture before it, in order', async (kind) => {
    const path = files[kind] as string;
    const probe = await media.probe(path);
    const whole = await all(media.openPictures(path, probe, { pixelFormat: 'gray' }));
    const some = await all(media.openPictures(path, probe, { pixelFormat: 'gray', from: 70, about: true, count: 5 }));
    expect(some).toHaveLength(5);
    const first = whole.findIndex((picture) => Buffer.compare(picture, some[0] as Uint8Array) === 0);
    expect(first).toBeGreaterThanOrEqual(0);
    expect(first).toBeLessThanOrEqual(70);
    some.forEach((picture, i) => {
      expect(Buffer.compare(picture, whole[first + i] as Uint8Array)).toBe(0);
    });
  });

  test('fields are told, with their order', async () => {
    expect((await media.probe(files.fields as string)).fields).toBe('top');
    expect((await media.probe(files.mp4 as string)).fields).toBe('progressive');
  });

  test('every picture comes as a JPEG of its own', async () => {
    const probe = await media.probe(files.mp4 as string);
    const jpegs = await all(media.openStills(files.mp4 as string, probe, { width: 80, height: 60, quality: 4 }));
    expect(jpegs).toHaveLength(probe.pictures);
    expect(jpegs.every((j) => j[0] === 0xff && j[1] === 0xd8 && j.at(-1) === 0xd9)).toBe(true);
  });

  test('variable timing is written and measured to the tick', async () => {
    const path = join(folder, 'variable.mp4');
    const ticks = Array.from({ length: 130 }, (_, k) => k * 3000 + (k % 7 === 3 ? 400 : 0) + (k > 60 ? 6000 : 0));
    const grey = { width: 64, height: 48, rate: rate(30), pixelFormat: 'gray', form: 'mp4' as const, ticks };
    await media.encode(
      path,
      grey,
      ticks.map((_, k) => new Uint8Array(64 * 48).fill(k)),
    );
    const probe = await media.probe(path);
    expect(probe.variable).toBe(true);
    if (probe.timing.kind !== 'variable') throw new Error('constant');
    const scale = probe.timing.timeBase.num / 90_000;
    expect(Array.from(probe.timing.ticks, (t) => Math.round(t / scale))).toEqual(ticks);
  });

  test('lossless forms give back the bytes that went in', async () => {
    const path = join(folder, 'lossless.mkv');
    const pictures = Array.from({ length: 6 }, (_, k) =>
      Uint8Array.from({ length: (50 * 34 * 3) / 2 }, (_v, i) => 16 + ((i * 7 + k * 31) % 200)),
    );
    await media.encode(path, { width: 50, height: 34, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, pictures);
    const probe = await media.probe(path);
    const back = await all(media.openPictures(path, probe, { pixelFormat: 'yuv420p' }));
    expect(back.map((b) => Buffer.compare(b, pictures[back.indexOf(b)] as Uint8Array))).toEqual([0, 0, 0, 0, 0, 0]);
  });

  test('long pictures beside long sound do not wait for each other for ever', async () => {
    const path = join(folder, 'both.mp4');
    const request = {
      width: 64,
      height: 48,
      rate: rate(25),
      pixelFormat: 'gray',
      form: 'mp4' as const,
      sound: { sampleRate: 48_000, channels: 2 },
    };
    await media.encode(
      path,
      request,
      Array.from({ length: 750 }, () => new Uint8Array(64 * 48)),
      [new Float32Array(48_000 * 2 * 30)],
    );
    const probe = await media.probe(path);
    expect(probe.pictures).toBe(750);
    expect(probe.sound?.seconds).toBeCloseTo(30, 2);
  });

  test('a stop ends the work at once and says so', async () => {
    const stop = new AbortController();
    async function* endless(): AsyncGenerator<Uint8Array> {
      for (let k = 0; ; k++) {
        if (k === 20) stop.abort();
        yield new Uint8Array(64 * 48);
      }
    }
    const request = { width: 64, height: 48, rate: rate(25), pixelFormat: 'gray', form: 'mp4' as const, signal: stop.signal };
    expect(await code(media.encode(join(folder, 'stopped.mp4'), request, endless()))).toBe('aborted');
  });
});

describe('bad input is refused with its reason', () => {
  const write = (name: string, content: string | Uint8Array): string => {
    const path = join(folder, name);
    writeFileSync(path, content);
    return path;
  };

  test('nothing, emptiness, text, random bytes', async () => {
    expect(await code(ffmpeg.probe(join(folder, 'gone.mp4')))).toBe('missing-file');
    expect(await code(ffmpeg.probe(folder))).toBe('missing-file');
    expect(await code(ffmpeg.probe(write('empty.mp4', '')))).toBe('empty-file');
    expect(await code(ffmpeg.probe(write('text.txt', 'not a film\n'.repeat(200))))).toBe('not-media');
    expect(
      await code(
        ffmpeg.probe(
          write(
            'noise.mp4',
            Uint8Array.from({ length: 60_000 }, (_, i) => (i * 2654435761) >>> 24),
          ),
        ),
      ),
    ).toBe('not-media');
  });

  test('playlists never lead elsewhere', async () => {
    const target = files.mp4 as string;
    expect(
      await code(
        ffmpeg.probe(write('list.m3u8', `#EXTM3U\n#EXT-X-TARGETDURATION:4\n#EXTINF:4,\nfile://${target}\n#EXT-X-ENDLIST\n`)),
      ),
    ).toBe('not-media');
    expect(await code(ffmpeg.probe(write('list.ffconcat', `ffconcat version 1.0\nfile '${target}'\n`)))).toBe('not-media');
    expect(
      await code(ffmpeg.probe(write('list.sdp', 'v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=video 5004 RTP/AVP 96\n'))),
    ).toBe('not-media');
  });

  test.each([
    ['wav', 'pcm_s24le'],
    ['flac', 'flac'],
    ['mp3', 'libmp3lame'],
    ['m4a', 'aac'],
    ['ogg', 'libopus'],
  ])('a %s is sound alone: it has a length and no pictures', async (ending, codec) => {
    const path = generate(`tone.${ending}`, ...TONE, '-c:a', codec);
    const probe = await ffmpeg.probe(path);
    expect(probe).toMatchObject({ kind: 'sound', stored: null, measured: null, width: 0, sound: { sampleRate: 48_000 } });
    expect(probe.seconds).toBeCloseTo(4, 1);
    expect(probe.pictures).toBe(Math.ceil((probe.seconds ?? 0) * 1000));
    expect(await code(all(ffmpeg.openPictures(path, probe, { pixelFormat: 'gray' })))).toBe('no-picture');
  });

  test('a hole in a sound is silent, and what follows keeps its moment', async () => {
    const parts = ['-f', 'lavfi', '-i', 'sine=f=440:d=6:r=48000'];
    const path = generate('hole.mkv', ...parts, '-af', "aselect='lt(t,2)+gte(t,3)'", '-c:a', 'pcm_s16le');
    const samples: number[] = [];
    for await (const block of ffmpeg.openSound(path, { sampleRate: 48_000, channels: 1 })) samples.push(...block);
    expect(samples.length / 48_000).toBeCloseTo(6, 1);
    expect(Math.max(...samples.slice(2.2 * 48_000, 2.8 * 48_000).map(Math.abs))).toBe(0);
    expect(Math.max(...samples.slice(3.2 * 48_000, 3.8 * 48_000).map(Math.abs))).toBeGreaterThan(0.05);
  });

  test.each([
    ['mp4', 'aac'],
    ['flac', 'flac'],
    ['mkv', 'flac'],
  ])('sound of a %s from a moment on is that of the whole', async (ending, codec) => {
    const path = generate(`from.${ending}`, '-f', 'lavfi', '-i', 'anoisesrc=d=12:seed=3:r=48000:a=0.3', '-c:a', codec);
    const probe = await ffmpeg.probe(path);
    const take = async (from: number): Promise<number[]> => {
      const out: number[] = [];
      for await (const block of ffmpeg.openSound(path, { sampleRate: 48_000, channels: 1, from, probe })) {
        out.push(...block);
      }
      return out;
    };
    const whole = await take(0);
    const some = (await take(8)).slice(0, 48_000);
    // AAC fills its highest bands with noise of its own: what is heard is the same, each sample need not be.
    const apart = some.reduce((sum, x, i) => sum + Math.abs(x - (whole[8 * 48_000 + i] ?? 0)), 0) / some.length;
    expect(apart).toBeLessThan(codec === 'aac' ? 0.02 : 1e-6);
  });

  test.each(['mp4', 'mkv'])('a truncated %s', async (kind) => {
    const path = join(folder, `short.${kind}`);
    copyFileSync(files[kind] as string, path);
    truncateSync(path, Math.floor(statSync(path).size * 0.6));
    expect(await code(ffmpeg.probe(path))).toBe('truncated');
  });

  test('what FFmpeg says of it is told without the path, whatever the name', async () => {
    const path = join(folder, 'cut off: a b.mp4');
    writeFileSync(path, readFileSync(files.mp4 as string).subarray(0, 200));
    await expect(ffmpeg.probe(path)).rejects.toMatchObject({ detail: 'Invalid data found when processing input' });
  });

  test('a name that looks like an option is only a name', async () => {
    const path = join(folder, '-i %03d.mp4');
    writeFileSync(path, readFileSync(files.mp4 as string));
    expect((await ffmpeg.probe(path)).pictures).toBe(120);
  });
});

describe('stills and numbered pictures', () => {
  test.each(['png', 'jpg', 'tif', 'bmp', 'webp'])('a %s is a still: one picture, no rate', async (ending) => {
    const path = generate(`still.${ending}`, ...PATTERN, '-frames:v', '1');
    const probe = await ffmpeg.probe(path);
    expect(probe).toMatchObject({
      kind: 'still',
      pictures: 1,
      stored: null,
      measured: null,
      seconds: null,
      width: 160,
      height: 120,
    });
    expect(await all(ffmpeg.openPictures(path, probe, { pixelFormat: 'gray' }))).toHaveLength(1);
  });

  test.each(['png', 'jpg', 'tif'])(
    'numbered %s files are one clip, any picture of it the very one, % in a folder no trouble',
    async (ending) => {
      const own = join(folder, `100%d ${ending}`);
      mkdirSync(own);
      for (let k = 0; k < 6; k++) {
        const size = k === 4 ? '80x60' : '160x120';
        generate(
          `100%d ${ending}/${seriesName(k, ending)}`,
          '-f',
          'lavfi',
          '-i',
          `color=c=0x${(30 + k * 30).toString(16).repeat(3)}:s=${size}`,
          '-frames:v',
          '1',
          '-update',
          '1',
        );
      }
      const pattern = seriesPattern(own, ending);
      const probe = await ffmpeg.probeSeries(pattern, { pictures: 6, rate: rate(24) });
      expect(probe).toMatchObject({
        kind: 'sequence',
        pictures: 6,
        stored: null,
        measured: null,
        timing: { rate: rate(24), pictures: 6 },
      });
      const whole = await all(ffmpeg.openPictures(pattern, probe, { pixelFormat: 'gray' }));
      expect(whole.map((p) => p.length)).toEqual(Array.from({ length: 6 }, () => 160 * 120));
      for (let k = 1; k < 6; k++) expect((whole[k]?.[5000] ?? 0) - (whole[k - 1]?.[5000] ?? 0)).toBeGreaterThan(15);
      expect(await all(ffmpeg.openPictures(pattern, probe, { pixelFormat: 'gray', from: 4 }))).toEqual(whole.slice(4));
    },
  );

  test('several JPEGs become one, side by side', async () => {
    const path = files.mp4 as string;
    const probe = await ffmpeg.probe(path);
    const jpegs = await all(ffmpeg.openStills(path, probe, { width: 160, height: 120, quality: 4, count: 5 }));
    const strip = join(folder, 'strip.jpg');
    writeFileSync(strip, await ffmpeg.tileStills(jpegs, { width: 40, height: 30 }));
    expect(await ffmpeg.probe(strip)).toMatchObject({ width: 200, height: 30 });
  });
});
