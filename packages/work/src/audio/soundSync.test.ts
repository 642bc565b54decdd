import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg, type Media } from '@thawline/media';
import type { CommandInput } from '@thawline/project';
import { after, projectOf, rendered } from '../fixtures/project.fixture.js';
import { align, makeWave, mixedSound, type RenderInput, readLoudness, readWave, SOUND_RATE } from '../index.js';

/** Sound where it should be: measured on what is mixed and on what is rendered, from files with beeps at known samples. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-sync-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;
const SIZE = { width: 64, height: 36 };
const SECONDS = 14;
/** Moments of the first and the last beep. */
const [FIRST, LAST] = [1.25, 12.5];

function beeps(): Float32Array {
  const out = new Float32Array(SECONDS * SOUND_RATE * 2);
  for (const at of [FIRST, 5, 9.1, LAST])
    for (let i = 0; i < 3000; i++)
      out.fill(0.7 * Math.cos((2 * Math.PI * 880 * i) / SOUND_RATE), 2 * (at * SOUND_RATE + i), 2 * (at * SOUND_RATE + i) + 2);
  for (let n = 0; n < out.length; n += 2) out.fill((out[n] as number) + 0.004 * Math.sin(n * 0.011), n, n + 2);
  return out;
}

/** A film at a rate with a flash at each beep, and the beeps. */
async function film(name: string, r = rate(25)): Promise<string> {
  const path = join(folder, name);
  const pictures = Math.floor((SECONDS * r.num) / r.den);
  const flash = (k: number): number => ([FIRST, LAST].some((at) => Math.floor((at * r.num) / r.den) === k) ? 230 : 30);
  const request = { ...SIZE, rate: r, pixelFormat: 'gray', form: 'mkv' as const, sound: { sampleRate: SOUND_RATE, channels: 2 } };
  await ffmpeg.encode(
    path,
    request,
    Array.from({ length: pictures }, (_, k) => new Uint8Array(64 * 36).fill(flash(k))),
    [beeps()],
  );
  return path;
}

async function mixed(input: RenderInput): Promise<Float32Array> {
  const blocks: number[] = [];
  for await (const block of mixedSound({ media: ffmpeg }, input))
    for (let i = 0; i < block.length; i += 2) blocks.push(block[i] as number);
  return Float32Array.from(blocks);
}

/** Seconds at which sound sets in, at or after a moment. */
const onset = (sound: Float32Array, from: number): number => {
  for (let n = Math.max(0, Math.round(from * SOUND_RATE)); n < sound.length; n++)
    if (Math.abs(sound[n] as number) > 0.3) return n / SOUND_RATE;
  return Number.NaN;
};
const expectBeeps = (sound: Float32Array, first: number, last: number): void => {
  expect(Math.abs(onset(sound, first - 0.2) - first)).toBeLessThan(0.001);
  expect(Math.abs(onset(sound, last - 0.2) - last)).toBeLessThan(0.001);
};
const readAt = (sound: 'along' | 'pitch' | 'own', num: number): CommandInput => ({
  type: 'readAt',
  readings: [{ sourceId: 'i0', reading: { rate: rate(num), pictures: 'once', from: 'typed', sound } }],
  uses: 'move',
});

test('keep time: beeps stay where they are, whatever the rates', async () => {
  expectBeeps(await mixed(await projectOf(SIZE, [await film('time.mkv', rate(30000, 1001)), 'nearest', 0])), FIRST, LAST);
});

test.each([
  ['pitch', 25025 / 30000],
  ['along', 25025 / 30000],
] as const)('29.97 read at 25, its sound by %s: first and last beep within a millisecond', async (way, speed) => {
  const input = after(await projectOf(SIZE, [await film(`read-${way}.mkv`, rate(30000, 1001)), 'nearest', 0]), readAt(way, 25));
  expectBeeps(await mixed(input), FIRST / speed, LAST / speed);
});

test.each([
  ['along', rate(3, 4)],
  ['pitch', rate(3, 4)],
  ['pitch', rate(3, 2)],
] as const)('a clip whose sound goes %s at %p is heard where its pictures are', async (way, speed) => {
  const input = after(
    await projectOf(SIZE, [await film(`speed-${way}.mkv`), 'nearest', 0]),
    { type: 'retimeClip', timelineId: 't', clipId: 'c1', speed, follow: 'move' },
    { type: 'setSound', timelineId: 't', clipIds: ['c2'], way },
  );
  expectBeeps(await mixed(input), (FIRST * speed.den) / speed.num, (LAST * speed.den) / speed.num);
});

test('drift removed: the second recorder meets the first at both ends, in the rendered file', async () => {
  const paths = [await film('lead.mkv'), await film('follow.mkv')] as const;
  // The same file as if its clock ran 1000 ppm fast and it had begun 0.437 s earlier: it is then played that much faster.
  const ties = [2, 12].map((s) => ({ a: s * 1e6, b: Math.round((0.437 + 1.001 * s) * 1e6) }));
  const both = await projectOf(SIZE, [paths[0], 'nearest', 50], [paths[1], 'nearest', 900]);
  const placed = after(both, { type: 'placeAligned', aId: 'i0', bId: 'i1', timelineId: 't', ties, seed: 'n' });
  const others = placed.timeline.clips.filter((c) => c.sourceId === 'i1' && !c.id.startsWith('n'));
  const alone = after(placed, { type: 'removeClips', timelineId: 't', clipIds: others.map((c) => c.id) });
  const lead = alone.timeline.clips.filter((c) => c.sourceId === 'i0');
  const input = after(alone, { type: 'setSound', timelineId: 't', clipIds: lead.map((c) => c.id), way: 'off' });
  const path = join(folder, 'out.mp4');
  await rendered(input, path);
  const out: number[] = [];
  for await (const block of ffmpeg.openSound(path, { sampleRate: SOUND_RATE, channels: 1 })) out.push(...block);
  const at = (b: number): number => 2 + (b - 0.437) / 1.001;
  expectBeeps(Float32Array.from(out), at(FIRST), at(LAST));
});

test('a ramp takes its beeps along, by pitch or without', async () => {
  const pins = [
    { frame: 0, picture: 0 },
    { frame: 100, picture: 100 },
    { frame: 550, picture: 331 },
  ];
  for (const way of ['along', 'pitch'] as const) {
    const input = after(
      await projectOf(SIZE, [await film(`ramp-${way}.mkv`), 'nearest', 0]),
      { type: 'retimeClip', timelineId: 't', clipId: 'c1', pins, follow: 'move' },
      { type: 'setSound', timelineId: 't', clipIds: ['c2'], way },
    );
    // From picture 100 on at 231 pictures in 450 frames.
    const at = 4 + ((9.1 - 4) * 450) / 231;
    expect(Math.abs(onset(await mixed(input), at - 0.3) - at)).toBeLessThan(0.001);
  }
});

test('level is a level; cuts do not click, and a split is not heard', async () => {
  const path = await film('level.mkv');
  const whole = await projectOf(SIZE, [path, 'nearest', 0]);
  const plain = await mixed(whole);
  const split = await mixed(after(whole, { type: 'splitClips', timelineId: 't', clipIds: [], frame: 32, seed: 'x' }));
  expect(split).toEqual(plain);
  const quieter = await mixed(after(whole, { type: 'setSound', timelineId: 't', clipIds: ['c2'], level: -6.0206 }));
  const n = Math.round((FIRST + 0.02) * SOUND_RATE);
  expect((quieter[n] as number) / (plain[n] as number)).toBeCloseTo(0.5, 4);
  // Cut in the middle of a beep: the first sample is silent, 4 ms on it is all there.
  const cut = await mixed(after(whole, { type: 'trimClip', timelineId: 't', clipId: 'c1', start: 32, end: 300 }));
  const from = Math.round((32 / 25) * SOUND_RATE);
  expect(Math.abs(cut[from] as number)).toBeLessThan(0.01);
  expect(cut[from + 200]).toBeCloseTo(plain[from + 200] as number, 5);
});

test('who leaves in the midst of a mix leaves no decoder behind', async () => {
  const path = await film('left.mkv');
  let [opened, closed] = [0, 0];
  const counting: Media = {
    ...ffmpeg,
    async *openSound(...asked) {
      opened++;
      try {
        yield* ffmpeg.openSound(...asked);
      } finally {
        closed++;
      }
    },
  };
  const input = await projectOf(SIZE, [path, 'nearest', 0]);
  for await (const block of mixedSound({ media: counting }, input)) {
    expect(block.length).toBeGreaterThan(0);
    break;
  }
  expect([opened, closed]).toEqual([1, 1]);
});

test('a clip that ends with its pictures where its sound goes on is faded out', async () => {
  // Read at 50 with its sound left at its own speed: half of that is cut off, in the middle of a beep.
  const input = after(await projectOf(SIZE, [await film('half.mkv'), 'nearest', 0]), readAt('own', 50));
  const cut = after(input, { type: 'trimClip', timelineId: 't', clipId: 'c1', start: 0, end: 126 });
  const sound = await mixed(cut);
  expect(Math.abs(sound.at(-1) as number)).toBeLessThan(0.01);
  expect(Math.abs(onset(sound, 4.9) - 5)).toBeLessThan(0.001);
});

describe('waveform and loudness of a file', () => {
  test('peaks lie where they are, on every level; loudness is what FFmpeg measures', async () => {
    const path = await film('wave.mkv');
    const probe = await ffmpeg.probe(path);
    const own = mkdtempSync(join(folder, 'wave-'));
    const found = await makeWave({ media: ffmpeg, progress: quiet }, { path, probe, folder: own });
    const bins = new Int16Array((await readWave(own, 0, 1240, 20)).slice().buffer);
    const loud = Array.from({ length: 20 }, (_, i) => (bins[2 * i + 1] as number) > 15_000);
    expect(loud.indexOf(true)).toBe(10);
    expect((await readWave(own, 3, 0, 4096)).length / 4).toBe(28);
    expect((await readWave(own, 1, 99_999, 10)).length).toBe(0);
    const said = spawnSync('ffmpeg', ['-nostdin', '-hide_banner', '-i', path, '-af', 'ebur128=peak=true', '-f', 'null', '-']);
    const theirs = Number(/I:\s+(-?[\d.]+) LUFS\s+Threshold/.exec(String(said.stderr))?.[1]);
    expect(Math.abs((found.loudness ?? 0) - theirs)).toBeLessThan(0.15);
    // Between its samples the sound rises higher than any of them (0.704).
    const peak = Number(/True peak:\s+Peak:\s+(-?[\d.]+) dBFS/.exec(String(said.stderr))?.[1]);
    expect(peak).toBeGreaterThan(20 * Math.log10(0.704) + 0.5);
    expect(Math.abs((found.peak ?? 0) - peak)).toBeLessThan(0.2);
    expect(Math.abs(((await readLoudness(own, FIRST - 0.05, FIRST + 0.05)).peak ?? 0) - peak)).toBeLessThan(0.2);
    expect((await readLoudness(own, 6, 8.5)).peak).toBeLessThan(-40);
  });
});

describe('aligning files', () => {
  const generate = (name: string, ...args: string[]): string => {
    const path = join(folder, name);
    const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path]);
    if (made.status !== 0) throw new Error(String(made.stderr));
    return path;
  };
  const opened = async (path: string) => ({ path, probe: await ffmpeg.probe(path) });

  test('mono at 44.1 against six channels at 48, one beginning after its picture', async () => {
    const noise = 'anoisesrc=d=24:seed=8:r=48000:a=0.4,tremolo=f=0.7:d=0.8';
    const a = generate('a.wav', '-f', 'lavfi', '-i', noise, '-ar', '44100', '-ac', '1');
    const six = [
      '-f',
      'lavfi',
      '-itsoffset',
      '0.5',
      '-i',
      `${noise},atrim=start=3,asetpts=PTS-STARTPTS,pan=5.1|FL=c0|FR=c0|FC=0.5*c0`,
    ];
    const b = generate('b.mkv', '-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25:d=20', ...six, '-c:a', 'flac', '-c:v', 'ffv1');
    const found = await align({ media: ffmpeg, progress: quiet }, { a: await opened(a), b: await opened(b) });
    expect(found.certainty).toBeGreaterThan(0.9);
    // The sound of b begins 0.5 s after its first picture, with what a has at 3 s.
    expect(Math.abs((found.solution?.offsetSeconds ?? 9) + 2.5)).toBeLessThan(0.001);
  });

  test('silence is told, and whose it is', async () => {
    const silent = generate('silent.wav', '-f', 'lavfi', '-i', 'anullsrc=d=3:r=48000');
    const loud = await opened(generate('loud.wav', '-f', 'lavfi', '-i', 'anoisesrc=d=3:r=48000'));
    const failure = align({ media: ffmpeg, progress: quiet }, { a: loud, b: await opened(silent) });
    await expect(failure).rejects.toMatchObject({ code: 'silent', which: 'b' });
    await expect(
      align({ media: ffmpeg, progress: quiet }, { a: await opened(silent), b: await opened(silent) }),
    ).rejects.toMatchObject({
      code: 'silent',
    });
    const mute = await opened(generate('mute.mkv', '-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25:d=1'));
    await expect(align({ media: ffmpeg, progress: quiet }, { a: mute, b: loud })).rejects.toMatchObject({
      code: 'no-sound',
      which: 'a',
    });
  });
});
