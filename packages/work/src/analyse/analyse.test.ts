import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { frameAtOrBefore, rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { click, decoded, heard, numbered, source } from '../fixtures/numbered.fixture.js';
import { check, make } from '../index.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-work-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const quiet = (): void => undefined;

describe('make', () => {
  test.each([
    [rate(50), rate(24)],
    [rate(30000, 1001), rate(25)],
    [rate(24), rate(30000, 1001)],
  ])('%p to %p shows the picture of each moment, bit for bit', async (from, to) => {
    const input = await source(folder, 'in.mkv', from, 70);
    const output = join(folder, 'out.mkv');
    const made = await make(
      { media: ffmpeg, progress: quiet },
      {
        input,
        probe: await ffmpeg.probe(input),
        output,
        options: {
          rate: to,
          method: 'nearest',
        },
      },
    );
    expect(made.frames).toBe(frameAtOrBefore(70, from, to));
    const frames = await decoded(output);
    expect(frames).toHaveLength(made.frames);
    const wrong = frames.filter((f, n) => Buffer.compare(f, numbered(frameAtOrBefore(n, to, from))) !== 0);
    expect(wrong).toHaveLength(0);
    expect((await ffmpeg.probe(output)).measured?.rate).toEqual(to);
  });

  test('a blend is the weighted mean and passes real pictures through', async () => {
    const input = await source(folder, 'b.mkv', rate(30), 40);
    const output = join(folder, 'b.y4m');
    const made = await make(
      { media: ffmpeg, progress: quiet },
      {
        input,
        probe: await ffmpeg.probe(input),
        output,
        options: {
          rate: rate(20),
          method: 'blend',
        },
      },
    );
    const frames = await decoded(output);
    expect(made).toMatchObject({ frames: 26, real: 13, blended: 13 });
    const a = numbered(1);
    const b = numbered(2);
    expect(frames[1]?.[100]).toBe(((a[100] as number) + (b[100] as number) + 1) >> 1);
    expect(Buffer.compare(frames[2] as Uint8Array, numbered(3))).toBe(0);
  });

  test('sound goes along, to the sample', async () => {
    const input = await source(folder, 's.mkv', rate(50), 100, click(2, 61_234));
    const output = join(folder, 's-out.mkv');
    await make(
      { media: ffmpeg, progress: quiet },
      {
        input,
        probe: await ffmpeg.probe(input),
        output,
        options: {
          rate: rate(24),
          method: 'nearest',
        },
      },
    );
    expect((await heard(output)).findIndex((v) => v > 0.4)).toBe(61_234);
  });

  test('one picture makes at least one frame; a failure leaves nothing', async () => {
    const input = await source(folder, 'one.mkv', rate(25), 1);
    const probe = await ffmpeg.probe(input);
    expect(
      (
        await make(
          { media: ffmpeg, progress: quiet },
          {
            input,
            probe,
            output: join(folder, 'one.y4m'),
            options: {
              rate: rate(10),
              method: 'nearest',
            },
          },
        )
      ).frames,
    ).toBe(1);
    const before = readdirSync(folder).length;
    await expect(
      make(
        { media: ffmpeg, progress: quiet },
        {
          input: join(folder, 'gone.mkv'),
          probe,
          output: join(folder, 'never.mp4'),
          options: {
            rate: rate(10),
            method: 'nearest',
          },
        },
      ),
    ).rejects.toThrow();
    expect(readdirSync(folder)).toHaveLength(before);
  });
});

test('a check of a real file gives one change a picture', async () => {
  const path = await source(folder, 'check.mkv', rate(25), 40);
  const probe = await ffmpeg.probe(path);
  const result = await check({ media: ffmpeg, progress: quiet }, { path, probe });
  expect(result.decoded).toBe(40);
  expect(result.trace).toHaveLength(39);
});
