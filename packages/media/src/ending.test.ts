import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { wavHead } from '@thawline/core/sound';
import { ffmpeg, MediaError } from './index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-ending-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const run = promisify(execFile);
const PICTURES = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=3'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=d=3:r=48000'];

/** Containers as FFmpeg writes them, each with what goes in. */
const FILES: Readonly<Record<string, readonly string[]>> = {
  'a.avi': [...PICTURES, ...SOUND, '-c:v', 'mpeg4', '-c:a', 'pcm_s16le'],
  'a.wav': [...SOUND, '-c:a', 'pcm_s16le'],
  'a.aiff': [...SOUND],
  'a.y4m': [...PICTURES, '-pix_fmt', 'yuv420p'],
  'b.y4m': [...PICTURES, '-pix_fmt', 'yuv422p10le', '-strict', '-1'],
  'a.gif': [...PICTURES],
  'a.ts': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
  'a.m2ts': [...PICTURES, '-c:v', 'mpeg2video', '-mpegts_m2ts_mode', '1'],
  'a.flv': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
  'a.mxf': [...PICTURES, '-c:v', 'mpeg2video'],
  'a.flac': [...SOUND],
  'a.ogg': [...SOUND, '-c:a', 'libvorbis'],
  'a.mp4': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
  'a.mkv': [...PICTURES, '-c:v', 'libx264'],
  'a.webm': [...PICTURES, '-c:v', 'libvpx', '-b:v', '200k'],
};

describe.each(Object.entries(FILES))('%s', (name, args) => {
  const path = join(folder, name);
  beforeAll(() => run('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path]));

  test('ends where it says', async () => {
    expect(await ffmpeg.probe(path)).toMatchObject({ endsEarly: false });
  });

  test.each([0.34, 0.9])('cut at %d of its length, it says that it ends early or is refused', async (share) => {
    const whole = readFileSync(path);
    const cut = join(folder, `cut-${share}-${name}`);
    writeFileSync(cut, whole);
    // An odd place, as cuts are.
    truncateSync(cut, Math.floor(whole.length * share) | 1);
    const outcome = await ffmpeg.probe(cut).catch((error: unknown) => error);
    if (outcome instanceof MediaError) expect(['truncated', 'unreadable', 'not-media', 'no-picture']).toContain(outcome.code);
    else {
      expect(outcome).toMatchObject({ endsEarly: true });
      const { sound } = outcome as { sound: { seconds: number } | null };
      // What is told is what is there, not what the header promises.
      if (sound && name === 'a.wav') expect(sound.seconds).toBeCloseTo(3 * share, 1);
    }
  });
});

test('a FLAC that was cut within its last frame says so, one with a tag behind it does not', async () => {
  const path = join(folder, 'last.flac');
  await run('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...SOUND, path]);
  const whole = readFileSync(path);
  writeFileSync(path, Buffer.concat([whole, Buffer.from('TAG'.padEnd(128, '\0'), 'latin1')]));
  expect(await ffmpeg.probe(path)).toMatchObject({ endsEarly: false });
  writeFileSync(path, whole.subarray(0, -1));
  expect(await ffmpeg.probe(path)).toMatchObject({ endsEarly: true });
});

test('what a file says of itself lies within what a project can hold, or it is refused with the number', async () => {
  const y4m = (rate: string): string => {
    const path = join(folder, `rate-${rate.replace(/\W/g, '-')}.y4m`);
    writeFileSync(path, Buffer.concat([Buffer.from(`YUV4MPEG2 W16 H16 F${rate} Ip A1:1 C420\nFRAME\n`), Buffer.alloc(384, 128)]));
    return path;
  };
  const wav = (sampleRate: number): string => {
    const path = join(folder, `rate-${sampleRate}.wav`);
    const head = wavHead({ form: 's16', sampleRate, channels: 1, samples: 1000 });
    writeFileSync(path, Buffer.concat([head, Buffer.alloc(2000)]));
    return path;
  };
  for (const path of [y4m('2147483647:1'), y4m('1000000:1'), y4m('1:2147483647'), wav(1), wav(100)])
    await expect(ffmpeg.probe(path)).rejects.toMatchObject({
      code: 'out-of-range',
      detail: expect.stringMatching(/are taken|are the most/),
    });
  expect(await ffmpeg.probe(y4m('25:1'))).toMatchObject({ width: 16 });
  expect(await ffmpeg.probe(wav(8000))).toMatchObject({ kind: 'sound' });
});
