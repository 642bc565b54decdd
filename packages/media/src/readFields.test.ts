import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type FieldRun, oneWay, weaveFields } from '@thawline/core/fields';
import { type PixelLayout, pictureBytes, pixelLayout, samplesOf } from '@thawline/core/picture';
import { constantTiming, rate } from '@thawline/core/time';
import { asStored, ffmpeg, type Probe, probeWithFields } from './index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-fields-'));
const [tape, reel] = [join(folder, 'tape.mkv'), join(folder, 'reel.mkv')];
const SIZE = { width: 96, height: 64 };
const CODED = ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p'];

/** Lossless, so that lines can be compared bit for bit. */
beforeAll(() => {
  const make = (path: string, input: string, filter: string, rated: string): void => {
    const source = ['-f', 'lavfi', '-i', `testsrc2=s=96x64:r=${input}`];
    execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...source, '-vf', filter, '-r', rated, ...CODED, path]);
  };
  make(tape, '50:d=1.6', 'interlace=scan=tff:lowpass=off', '25');
  make(reel, '24000/1001:d=2.5', 'telecine=first_field=top:pattern=23', '30000/1001');
}, 60_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const pictures = async (path: string, probe: Probe, asked: { from?: number; count?: number } = {}): Promise<Uint8Array[]> => {
  const found: Uint8Array[] = [];
  for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: 'yuv420p', ...asked })) found.push(picture.slice());
  return found;
};
test('what pictures say of their fields comes before what their container says', async () => {
  const path = join(folder, 'contrary.mp4');
  const source = ['-f', 'lavfi', '-i', 'testsrc2=s=96x64:r=50:d=0.5', '-vf', 'tinterlace=interleave_bottom,setfield=bff'];
  const coded = ['-c:v', 'libx264', '-flags', '+ilme+ildct', '-pix_fmt', 'yuv420p'];
  execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...source, ...coded, path]);
  const said = ['-v', 'error', '-show_entries', 'stream=field_order', '-of', 'csv=p=0', path];
  // FFmpeg's own container says the other order than its own pictures.
  expect(execFileSync('ffprobe', said, { encoding: 'utf8' }).trim()).toBe('tt');
  expect(await ffmpeg.probe(path)).toMatchObject({ fields: 'bottom', flagged: true });
});

const film: FieldRun[] = [{ way: 'film', from: 0, to: 75, first: 'top', beat: '2:3', passed: 0 }];

/** The pictures that FFmpeg makes by itself. */
function made(input: string, count: number): Uint8Array[] {
  const args = ['-nostdin', '-v', 'error', '-f', 'lavfi', '-i', `testsrc2=s=96x64:r=${input}`, '-frames:v', String(count)];
  const all = execFileSync('ffmpeg', [...args, '-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-'], { maxBuffer: 1 << 28 });
  const bytes = (SIZE.width * SIZE.height * 3) / 2;
  return Array.from({ length: count }, (_, k) => new Uint8Array(all.subarray(k * bytes, (k + 1) * bytes)));
}

test('one picture a field: twice as many at twice the rate; own lines bit for bit, of luma and chroma', async () => {
  const stored = await ffmpeg.probe(tape);
  const probe = probeWithFields(stored, oneWay('one-a-field', stored.pictures, 'top'));
  expect(probe).toMatchObject({ pictures: 80, timing: constantTiming(rate(50), 80), seconds: 1.6 });
  const [read, frames] = [await pictures(tape, probe), await pictures(tape, stored)];
  expect(read).toHaveLength(80);
  read.forEach((picture, k) => {
    const frame = frames[k >> 1] as Uint8Array;
    let at = 0;
    for (const [width, height] of [
      [96, 64],
      [48, 32],
      [48, 32],
    ] as const) {
      for (let y = k % 2; y < height; y += 2) {
        const line = [at + y * width, at + (y + 1) * width] as const;
        expect(Buffer.compare(Buffer.from(picture.subarray(...line)), Buffer.from(frame.subarray(...line)))).toBe(0);
      }
      at += width * height;
    }
  });
});

test('any picture by itself is the one that it is among all', async () => {
  const stored = await ffmpeg.probe(tape);
  const probe = probeWithFields(stored, oneWay('one-a-field', stored.pictures, 'top'));
  const all = await pictures(tape, probe);
  for (const from of [0, 1, 7, 52, 79]) {
    const [one] = await pictures(tape, probe, { from, count: 1 });
    expect(Buffer.compare(Buffer.from(one as Uint8Array), Buffer.from(all[from] as Uint8Array))).toBe(0);
  }
});

test('film from pulldown comes back bit for bit, in number and in picture', async () => {
  const stored = await ffmpeg.probe(reel);
  expect(stored.pictures).toBe(75);
  const probe = probeWithFields(stored, film);
  expect(probe).toMatchObject({ pictures: 60, timing: constantTiming(rate(24000, 1001), 60) });
  const [read, truth] = [await pictures(reel, probe), made('24000/1001', 60)];
  expect(read.map((picture, k) => Buffer.compare(Buffer.from(picture), Buffer.from(truth[k] as Uint8Array)))).toEqual(
    read.map(() => 0),
  );
});

test('scaled, grey and as JPEG, pictures as read are given like any other', async () => {
  const stored = await ffmpeg.probe(tape);
  const probe = probeWithFields(stored, oneWay('one-a-frame', stored.pictures, 'top'));
  let count = 0;
  const small = { pixelFormat: 'gray', width: 24, height: 16, scaling: 'area' as const };
  for await (const picture of ffmpeg.openPictures(tape, probe, small)) {
    expect(picture).toHaveLength(24 * 16);
    count++;
  }
  expect(count).toBe(40);
  const jpegs: Uint8Array[] = [];
  for await (const jpeg of ffmpeg.openStills(tape, probe, { width: 48, height: 32, quality: 4, from: 30, count: 5 }))
    jpegs.push(jpeg);
  expect(jpegs.map((j) => [j[0], j[1]])).toEqual(Array.from({ length: 5 }, () => [0xff, 0xd8]));
});

test('ending early ends the decoder, and an abort is told as one', async () => {
  const stored = await ffmpeg.probe(tape);
  const probe = probeWithFields(stored, oneWay('one-a-field', stored.pictures, 'top'));
  const stop = new AbortController();
  const read = async (): Promise<void> => {
    for await (const _ of ffmpeg.openPictures(tape, probe, {
      pixelFormat: 'yuv420p',
      width: 48,
      height: 32,
      signal: stop.signal,
    }))
      stop.abort();
  };
  await expect(read()).rejects.toMatchObject({ code: 'aborted' });
});

test('a file’s own frames are known however its fields are read; runs that end elsewhere are refused', async () => {
  const stored = await ffmpeg.probe(tape);
  const probe = probeWithFields(stored, oneWay('one-a-field', stored.pictures, 'top'));
  expect({ ...probe, ...asStored(probe) }).toMatchObject({ pictures: 40, timing: stored.timing });
  expect(() => probeWithFields(stored, oneWay('one-a-field', 30, 'top'))).toThrow(RangeError);
});

describe('alpha, red, green and blue, and 16 bit', () => {
  /** A light disc that rises over nothing, whose colours under nothing are noise; each field at its own moment. */
  const disc = (moment: number, format: string): Uint8Array => {
    const layout = pixelLayout(format) as PixelLayout;
    const out = new Uint8Array(pictureBytes(layout, SIZE.width, SIZE.height));
    const samples = samplesOf(layout, out);
    const [n, most] = [SIZE.width * SIZE.height, 2 ** layout.bits - 1];
    for (let i = 0; i < n; i++) {
      const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
      const opaque = Math.max(0, Math.min(1, (18 - Math.hypot(x - 30 - 0.8 * moment, y - 40 + 0.3 * moment)) / 5));
      const hidden = layout.alpha && opaque === 0;
      for (let plane = 0; plane < 3; plane++) {
        const shade = 0.55 + 0.2 * Math.sin((x + 2 * y - moment) / 7 + plane);
        samples[plane * n + i] = Math.round(most * (hidden ? ((i * 7919 + plane * 31 + moment * 17) % 100) / 100 : shade));
      }
      if (layout.alpha) samples[3 * n + i] = Math.round(most * opaque);
    }
    return out;
  };

  test.each(['gbrap', 'gbrap16le', 'gbrp16le', 'gbrp'])(
    '%s: own lines bit for bit, the others near to their moment',
    async (format) => {
      const layout = pixelLayout(format) as PixelLayout;
      const moments = Array.from({ length: 16 }, (_, k) => disc(k, format));
      const frames = Array.from({ length: 8 }, (_, k) => {
        const out = new Uint8Array(moments[0]?.length ?? 0);
        const [first, second] = [moments[2 * k] as Uint8Array, moments[2 * k + 1] as Uint8Array];
        weaveFields(layout, { ...SIZE, first, second, order: 'top', lowPass: 'off', out });
        return out;
      });
      const path = join(folder, `disc-${format}.mkv`);
      await ffmpeg.encode(path, { ...SIZE, rate: rate(25), pixelFormat: format, form: 'mkv', fields: 'top' }, frames);
      const stored = await ffmpeg.probe(path);
      const probe = probeWithFields(stored, oneWay('one-a-field', stored.pictures, 'top'));
      expect(probe.alpha).toBe(stored.alpha);
      const read: Uint8Array[] = [];
      for await (const picture of ffmpeg.openPictures(path, probe, { pixelFormat: format })) read.push(picture.slice());
      expect(read).toHaveLength(16);
      const [n, most] = [SIZE.width * SIZE.height, 2 ** layout.bits - 1];
      for (const k of [6, 9]) {
        const [own, truth] = [read[k], moments[k]].map((picture) => samplesOf(layout, picture as Uint8Array)) as [
          Uint8Array,
          Uint8Array,
        ];
        let [squares, seen] = [0, 0];
        for (let i = 0; i < n; i++) {
          const isOwn = Math.floor(i / SIZE.width) % 2 === k % 2;
          const alpha = layout.alpha ? (truth[3 * n + i] as number) / most : 1;
          for (let plane = 0; plane < (layout.alpha ? 4 : 3); plane++) {
            const off = ((own[plane * n + i] as number) - (truth[plane * n + i] as number)) / most;
            if (isOwn) expect(off).toBe(0);
            // Colour counts as far as it is seen.
            else squares += off ** 2 * (plane < 3 ? alpha : 1);
          }
          if (!isOwn) seen++;
        }
        expect(Math.sqrt(squares / (seen * 4))).toBeLessThan(0.02);
      }
    },
  );
});
