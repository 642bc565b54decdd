import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Edit files from the shell, as a person has it. */
const bin = new URL('../bin/thawline.mjs', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'thawline-edits-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function thawline(...args: string[]): { code: number | null; out: string; err: string } {
  const run = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder });
  return { code: run.status, out: run.stdout, err: run.stderr };
}

const time = (value: number, rate: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
const clip = (name: string, rate: number, start: number, length: number) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, rate), duration: time(length, 25) },
  media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'ExternalReference.1', target_url: `${name}.mov` } },
  metadata: { desk: { note: name } },
});
const timeline = {
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Thaw',
  global_start_time: time(90_000, 25),
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        name: 'V',
        children: [clip('pan', 30000 / 1001, 30, 101), clip('talk', 25, 50, 77)],
      },
    ],
  },
};
beforeAll(() => writeFileSync(join(folder, 'in.otio'), JSON.stringify(timeline)));

test('edit tells clips with rates, steps and hitches', () => {
  const run = thawline('edit', 'in.otio', '--json');
  expect(run.err).toBe('');
  const told = JSON.parse(run.out);
  // Frame n shows floor(n * 30000 / 25025); where it goes on by two, a picture is skipped.
  const shown = (n: number): number => Math.floor((n * 30000) / 25025);
  const hitches = Array.from({ length: 100 }, (_, n) => shown(n + 1) - shown(n)).filter((step) => step !== 1).length;
  expect(told).toMatchObject({ name: 'Thaw', rate: { num: 25, den: 1 }, startFrame: 90_000 });
  expect(told.clips).toMatchObject([
    {
      name: 'pan',
      at: '01:00:00:00',
      frames: 101,
      rate: { num: 30000, den: 1001 },
      steps: [1, 1, 1, 1, 1, 2, 1, 1],
      hitches,
      inPicture: 30,
    },
    { name: 'talk', at: '01:00:04:01', frames: 77, rate: { num: 25, den: 1 }, hitches: 0, inPicture: 50 },
  ]);
});

test('carry writes the edit at another rate, and back again it is the same', () => {
  const there = thawline('carry', 'in.otio', 'fifty.otio', '--rate', '50', '--json');
  expect(there).toMatchObject({ code: 0, err: '' });
  expect(JSON.parse(there.out)).toMatchObject({ clips: 2, furthestMs: 0, halfFrameMs: 10, tooFewPictures: [] });
  expect(thawline('carry', 'fifty.otio', 'back.otio', '--rate', '25').code).toBe(0);
  const clips = (file: string) => JSON.parse(thawline('edit', file, '--json').out).clips;
  expect(clips('back.otio')).toEqual(clips('in.otio'));
  const written = JSON.parse(readFileSync(join(folder, 'fifty.otio'), 'utf8'));
  expect(written.tracks.children[0].children.map((c: { name: string }) => c.name)).toEqual(['pan', 'talk']);
  expect(written.tracks.children[0].children[0].metadata.desk).toEqual({ note: 'pan' });
  expect(written.global_start_time).toMatchObject({ value: 180_000, rate: 50 });
});

test('a list is read at the rate it is said to count in, and written', () => {
  const made = thawline('carry', 'in.otio', 'out.edl', '--rate', '24');
  expect(made.code).toBe(0);
  expect(readFileSync(join(folder, 'out.edl'), 'utf8')).toContain('TITLE: Thaw');
  expect(thawline('edit', 'out.edl').err).toContain('Say it with --from 25');
  const told = JSON.parse(thawline('edit', 'out.edl', '--from', '24', '--json').out);
  expect(told.clips.map((c: { start: number; frames: number }) => [c.start, c.frames])).toEqual([
    [0, 97],
    [97, 74],
  ]);
});

test('what cannot be read is told with its place, the rest goes on; nothing to read is a failure', () => {
  const broken = structuredClone(timeline);
  const children: unknown[] = broken.tracks.children[0]?.children ?? [];
  children.splice(1, 0, { OTIO_SCHEMA: 'Blob.1', name: 'thing' });
  writeFileSync(join(folder, 'broken.otio'), JSON.stringify(broken));
  const run = thawline('edit', 'broken.otio', '--json');
  expect(run.code).toBe(0);
  expect(run.err).toContain('thing (2)');
  expect(JSON.parse(run.out).clips).toHaveLength(2);
  writeFileSync(join(folder, 'none.otio'), 'nothing');
  expect(thawline('carry', 'none.otio', 'never.otio', '--rate', '24')).toMatchObject({ code: 1, out: '' });
  expect(thawline('edit', 'gone.otio')).toMatchObject({ code: 1, err: 'gone.otio is not there.\n' });
});

test.each([
  [['carry', 'in.otio']],
  [['carry', 'in.otio', 'out.otio']],
  [['carry', 'in.otio', 'out.mov', '--rate', '24']],
  [['edit', 'in.otio', '--from', 'x']],
])('a wrong call exits 2: %j', (args) => {
  expect(thawline(...args).code).toBe(2);
});

test('a list tells which picture of the media beside it each event begins at, and how sure that is', () => {
  const made = spawnSync('ffmpeg', [
    ...['-nostdin', '-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=24000/1001:d=6', '-timecode', '01:00:00:00'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', join(folder, 'bank.mov')],
  ]);
  expect(made.status).toBe(0);
  const list = `TITLE: VESSA
FCM: NON-DROP FRAME
001  BANK     V     C        01:00:02:00 01:00:04:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: bank
002  GONE     V     C        00:00:01:00 00:00:02:00 01:00:02:00 01:00:03:00
* FROM CLIP NAME: gone
`;
  writeFileSync(join(folder, 'vessa.edl'), list);
  const run = thawline('edit', 'vessa.edl', '--from', '24', '--json');
  expect(run.err).toBe('');
  expect(JSON.parse(run.out).clips).toMatchObject([
    {
      name: 'bank',
      source: 'bank.mov',
      label: '01:00:02:00',
      picture: 48,
      inPicture: 48,
      sure: 'certain',
      steps: [1, 1, 1, 1, 1, 1, 1, 1],
    },
    { name: 'gone', source: null, label: '00:00:01:00', sure: 'unsure' },
  ]);
  expect(thawline('edit', 'vessa.edl', '--from', '24').out).toContain('01:00:02:00 is picture 48 of bank.mov, certain');
});
