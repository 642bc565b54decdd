import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { EditPreviewReply, OpenEditReply, ProjectState } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { type Command, type CommandInput, clipsFor, noTiming, type Source } from '@thawline/project';
import { withCurves, withTimelines } from './database/migrations.js';
import { TestServer } from './server.fixture.js';

/** Edit files, sound and ranges over HTTP, against a real server and real files. */
const server = new TestServer();
const footage = join(server.folder, 'footage');
let project = '';
let source: Source;

beforeAll(async () => {
  mkdirSync(join(footage, 'day'), { recursive: true });
  // FFmpeg's own generator, with a timecode of its own and a tone.
  const made = spawnSync('ffmpeg', [
    ...['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=25:d=4'],
    ...[
      '-f',
      'lavfi',
      '-i',
      'sine=frequency=440:sample_rate=48000:duration=4',
      '-c:v',
      'libx264',
      '-c:a',
      'aac',
      '-timecode',
      '01:00:00:00',
    ],
    join(footage, 'day', 'shore.mov'),
  ]);
  if (made.status !== 0) throw new Error(String(made.stderr));
  await server.start({ THAWLINE_MEDIA: footage });
  project = (await server.ask<ProjectState>('/projects', { name: 'Edits' })).id;
  const { added } = await server.upload(project, [{ name: 'shore.mov', bytes: readFileSync(join(footage, 'day', 'shore.mov')) }]);
  source = added[0] as Source;
  const command = (c: CommandInput) => server.ask(`/projects/${project}/commands`, { command: c });
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Main', rate: rate(25), width: 160, height: 120 } });
  const { document } = await server.ask<ProjectState>(`/projects/${project}`);
  const [timeline] = document.timelines;
  if (!timeline) throw new Error('no timeline');
  let n = 0;
  await command({
    type: 'placeClips',
    timelineId: 't',
    clips: clipsFor({ timeline, source, fit: 'nearest', start: 25, newId: () => `c${n++}` }, noTiming),
  });
}, 120_000);
afterAll(() => server.remove());

const state = () => server.ask<ProjectState>(`/projects/${project}`);
const text = async (path: string): Promise<string> => (await fetch(`${server.url}/api${path}`)).text();
const open = (file: string, body: string, at: unknown = null) =>
  server.ask<OpenEditReply>(`/projects/${project}/edits`, { file, text: body, rate: at });

test('the timecode of a file is read with it', () => {
  expect(source.timecode).toBe('01:00:00:00');
});

test('a saved timeline opens again as the same clips, in one step to undo', async () => {
  const otio = await text(`/projects/${project}/timelines/t/edit/otio`);
  const opened = await open('main.otio', otio);
  expect(opened).toMatchObject({ clips: 2, troubles: [] });
  const { document } = await state();
  const [main, again] = document.timelines;
  expect(again?.clips.map(({ id: _, link: __, ...c }) => c)).toEqual(main?.clips.map(({ id: _, link: __, ...c }) => c));
  await server.ask(`/projects/${project}/undo`, {});
  expect((await state()).document.timelines).toHaveLength(1);
});

test("a list counts from the file's own timecode; what is not here yet is placed and found in the media folders by name", async () => {
  const list = [
    'TITLE: DESK',
    '001  SHORE    V     C        01:00:01:00 01:00:02:00 00:00:00:00 00:00:01:00',
    '* FROM CLIP NAME: shore.mov',
    '002  SHORE    V     C        01:00:02:00 01:00:03:00 00:00:01:00 00:00:02:00',
    '* FROM CLIP NAME: elsewhere.mov',
  ].join('\n');
  const opened = await open('desk.edl', list, rate(25));
  expect(opened.troubles).toEqual([{ code: 'not-found', place: '', sentence: expect.stringContaining('elsewhere.mov') }]);
  let { document } = await state();
  const timeline = () => document.timelines.find((t) => t.id === opened.timelineId);
  expect(timeline()?.clips[0]).toMatchObject({ sourceId: source.id, inPicture: 25 });
  const lost = document.sources.find((s) => s.lost);
  await expect(server.ask(`/projects/${project}/sources/${lost?.id}/look`, {})).rejects.toMatchObject({ status: 404 });
  await expect(server.ask(`/projects/${project}/jobs`, { kind: 'render', timelineId: opened.timelineId })).rejects.toMatchObject({
    status: 409,
  });
  spawnSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-i',
    join(footage, 'day', 'shore.mov'),
    '-c',
    'copy',
    '-metadata',
    'title=x',
    '-timecode',
    '01:00:00:00',
    join(footage, 'elsewhere.mov'),
  ]);
  await server.ask(`/projects/${project}/sources/${lost?.id}/look`, {});
  ({ document } = await state());
  expect(document.sources.some((s) => s.lost)).toBe(false);
  expect(timeline()?.clips[1]).toMatchObject({ inPicture: 50, length: 25 });
  await server.ask(`/projects/${project}/undo`, {});
  expect((await state()).document.sources.filter((s) => s.lost)).toHaveLength(1);
});

test('before a list is opened each event tells its picture and how sure that is, and nothing is opened', async () => {
  const list = [
    'TITLE: TIDE',
    '001  SHORE    V     C        01:00:02:00 01:00:03:00 00:00:00:00 00:00:01:00',
    '* FROM CLIP NAME: shore.mov',
    '002  SHORE    V     C        01:00:09:00 01:00:10:00 00:00:01:00 00:00:02:00',
    '* FROM CLIP NAME: nowhere.mov',
  ].join('\n');
  const before = await state();
  const preview = await server.ask<EditPreviewReply>(`/projects/${project}/edits/preview`, {
    file: 'tide.edl',
    text: list,
    rate: rate(25),
  });
  expect(preview.timelines).toEqual([{ name: 'TIDE', rate: rate(25), frames: 50 }]);
  expect(preview.events).toMatchObject([
    { source: source.name, lost: false, picture: 50, sure: 'certain' },
    { source: 'nowhere.mov', lost: true },
  ]);
  expect(await state()).toEqual(before);
  await expect(
    server.ask(`/projects/${project}/edits/preview`, { file: 'sheet.edl', text: 'a shopping list', rate: rate(25) }),
  ).rejects.toMatchObject({ status: 422 });
});

test('what a form cannot say is told before it is saved; an unknown form is refused', async () => {
  expect(await server.ask(`/projects/${project}/timelines/t/edit/otio/losses`)).toEqual({ losses: [] });
  await expect(server.ask(`/projects/${project}/timelines/t/edit/xml`)).rejects.toMatchObject({ status: 400 });
});

test('a file that is no edit is refused with a sentence and changes nothing', async () => {
  const { version } = await state();
  await expect(open('sheet.edl', 'a shopping list', rate(25))).rejects.toMatchObject({ status: 422, message: 'not-an-edit' });
  await expect(open('deep.otio', '{'.repeat(10))).rejects.toMatchObject({ status: 422 });
  expect((await state()).version).toBe(version);
});

test('a range sounds as it is mixed, to the sample', async () => {
  const wave = Buffer.from(
    await (await fetch(`${server.url}/api/projects/${project}/timelines/t/sound?from=20&to=45`)).arrayBuffer(),
  );
  expect(wave.toString('latin1', 0, 4)).toBe('RIFF');
  const from = wave.byteOffset + wave.indexOf('data') + 8;
  const samples = new Int16Array(wave.buffer.slice(from, wave.byteOffset + wave.length));
  // 25 frames at 25 are a second; the clip begins after five of them.
  expect(samples).toHaveLength(48_000 * 2);
  const loud = samples.findIndex((v) => Math.abs(v) > 800);
  expect(loud / 2).toBeGreaterThan(9_590);
  expect(loud / 2).toBeLessThan(9_900);
  await expect(server.ask(`/projects/${project}/timelines/t/sound?from=100000&to=100001`)).rejects.toMatchObject({ status: 400 });
});

test('neighbouring pictures come in one go and are those that come singly', async () => {
  for (;;) {
    const jobs = await server.ask<{ kind: string; state: string; subject: string }[]>(`/projects/${project}/jobs`);
    if (jobs.some((j) => j.kind === 'proxy' && j.state === 'done' && j.subject === source.mediaId)) break;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  const get = async (path: string) =>
    Buffer.from(await (await fetch(`${server.url}/api/media/${source.mediaId}/pictures/${path}`)).arrayBuffer());
  const run = await get('97/run/12');
  // Three are left at the end.
  expect(run.readUInt32LE(0)).toBe(3);
  let at = 16;
  for (let k = 0; k < 3; k++) {
    const length = run.readUInt32LE(4 + k * 4);
    expect(run.subarray(at, at + length).equals(await get(String(97 + k)))).toBe(true);
    at += length;
  }
  expect(at).toBe(run.length);
}, 30_000);

test('documents of before get what timelines have now, wherever they stand', () => {
  const old = {
    timelines: [
      { id: 't', lanes: [{ id: 'p1', kind: 'picture', name: 'Picture 1' }], clips: [{ id: 'c', laneId: 'p1', headTrim: 0 }] },
    ],
    sources: [{ mediaId: 'm', pixelFormat: 'yuv420p' }],
  };
  expect(withTimelines(old)).toEqual({
    timelines: [
      {
        id: 't',
        startFrame: 0,
        dropFrame: false,
        range: null,
        marks: [],
        kept: null,
        lanes: [{ id: 'p1', kind: 'picture', name: 'Picture 1', kept: null }],
        clips: [{ id: 'c', laneId: 'p1', headTrim: 0, framing: 'inside', keptAt: null, label: null, kept: null }],
      },
    ],
    sources: [{ mediaId: 'm', pixelFormat: 'yuv420p', timecode: null, lost: null }],
  });
  const clip = { id: 'c', laneId: 'p1', headTrim: 0 };
  expect(withCurves({ clips: [clip], value: { ...clip, shutter: 90 } })).toEqual({
    clips: [{ ...clip, curve: null, mix: 'stored', shutter: 0, instead: [] }],
    value: { ...clip, curve: null, mix: 'stored', shutter: 90, instead: [] },
  });
  const command: Command = { type: 'renameProject', name: 'x' };
  expect(withCurves(withTimelines(command))).toEqual(command);
});
