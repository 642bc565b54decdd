import { execFile } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  FIELD_VIEWS,
  type FileState,
  type FolderReply,
  type ProjectState,
  type ScanReply,
  type StorageReply,
} from '@thawline/contract';
import { rate } from '@thawline/core/time';
import type { Command, CommandInput, Film, Source } from '@thawline/project';
import { TestServer } from './server.fixture.js';

/** Adding in bulk and in place, files that move, and what is told of sources: the compiled server over HTTP. */
const server = new TestServer();
const footage = join(server.folder, 'footage');
const ask = server.ask.bind(server);
const run = promisify(execFile);

async function film(path: string, seed: number, seconds = 1): Promise<void> {
  const input = ['-f', 'lavfi', '-i', `testsrc2=s=64x48:r=25:d=${seconds},hue=h=${seed * 20}`];
  await run('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, '-c:v', 'libx264', '-preset', 'ultrafast', path]);
}

beforeAll(async () => {
  mkdirSync(join(footage, 'day 1', 'drips'), { recursive: true });
  await film(join(footage, 'day 1', 'a.mp4'), 1);
  await film(join(footage, 'day 1', 'b.mp4'), 2);
  const pattern = join(footage, 'day 1', 'drips', 'drip_%04d.png');
  await run('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=64x48:r=25:d=0.4,hue=h=n*30',
    '-start_number',
    '7',
    pattern,
  ]);
  rmSync(join(footage, 'day 1', 'drips', 'drip_0010.png'));
  for (let i = 0; i < 2000; i++) writeFileSync(join(footage, `note${i}.${i % 2 ? 'txt' : 'xml'}`), 'x');
  symlinkSync('/etc/hostname', join(footage, 'leak.mp4'));
  symlinkSync(server.folder, join(footage, 'up'));
  symlinkSync(join(footage, 'day 1', 'a.mp4'), join(footage, 'inside.mp4'));
  await server.start({ THAWLINE_MEDIA: footage });
}, 120_000);
afterAll(() => server.remove());

const read = (project: string): Promise<ProjectState> => ask<ProjectState>(`/projects/${project}`);
const files = (project: string): Promise<FileState[]> => ask<FileState[]>(`/projects/${project}/files`);
const newProject = async (name: string): Promise<string> => (await ask<ProjectState>('/projects', { name })).id;

async function inPlace(project: string, paths: string[], sequence: unknown = rate(24), batch?: string) {
  const { items } = await ask<ScanReply>('/folders/scan', { paths });
  const body = { items: items.map(({ path, kind }) => ({ path, kind })), sequence, batch };
  return ask<{ added: Source[]; refused: { code: string; message: string }[] }>(`/projects/${project}/sources/in-place`, body);
}

describe('the media folders', () => {
  test('are listed with what lies in them, and nothing above or beside', async () => {
    expect(await ask<FolderReply>('/folders')).toEqual({ path: '', folders: [{ name: 'footage', path: 'footage' }], files: [] });
    const inside = await ask<FolderReply>('/folders?path=footage/day%201');
    expect(inside.folders.map((f) => f.path)).toEqual(['footage/day 1/drips']);
    expect(inside.files.map((f) => [f.name, f.kind])).toEqual([
      ['a.mp4', 'film'],
      ['b.mp4', 'film'],
    ]);
    const top = await ask<FolderReply>('/folders?path=footage');
    expect(top.files.some((f) => f.name === 'leak.mp4')).toBe(false);
    expect(top.files.some((f) => f.name === 'inside.mp4')).toBe(true);
    expect(top.folders.map((f) => f.name)).toEqual(['day 1']);
  });

  test.each([
    'footage/..',
    '..',
    '/etc',
    'footage/leak.mp4',
    'footage/up',
    'footage/up/data',
    'elsewhere',
    'footage/day 1/../..',
  ])('%s is refused', async (path) => {
    expect(await server.refused(`/folders?path=${encodeURIComponent(path)}`)).toEqual({ status: 403, code: 'outside-folders' });
    const scan = await ask<ScanReply>('/folders/scan', { paths: [path] });
    expect(scan.items).toEqual([]);
    expect(scan.refused).toMatchObject([{ code: 'outside-folders' }]);
  });

  test('a folder with 2,000 other files is told with counts and reasons, its series with what is missing', async () => {
    const scan = await ask<ScanReply>('/folders/scan', { paths: ['footage'] });
    expect(scan.passed.map((p) => [p.reason, p.files])).toEqual([
      ['.xml', 1000],
      ['.txt', 1000],
      ['a link that leads out of the media folders', 2],
    ]);
    expect(scan.items.map((i) => [i.name, i.kind, i.files, i.missing])).toEqual([
      ['inside.mp4', 'film', 1, 0],
      ['a.mp4', 'film', 1, 0],
      ['b.mp4', 'film', 1, 0],
      ['drip', 'series', 9, 1],
    ]);
  });
});

describe('what is no file', () => {
  test('a pipe, a device and a socket in a media folder hold up nobody: they are not listed, and asked for they are refused', async () => {
    const project = await newProject('Pipes');
    const place = join(footage, 'odd');
    mkdirSync(place);
    await run('mkfifo', [join(place, 'pipe.mp4')]);
    symlinkSync('/dev/zero', join(place, 'zero.mp4'));
    symlinkSync(join(place, 'pipe.mp4'), join(place, 'link.mp4'));
    writeFileSync(join(place, '.hidden.mp4'), 'x');
    expect((await ask<FolderReply>('/folders?path=footage/odd')).files).toEqual([]);
    expect((await ask<ScanReply>('/folders/scan', { paths: ['footage/odd'] })).items).toEqual([]);
    const items = ['pipe.mp4', 'link.mp4', 'zero.mp4'].map((name) => ({ path: `footage/odd/${name}`, kind: 'film' }));
    const { added, refused } = await ask<{ added: Source[]; refused: { code: string }[] }>(
      `/projects/${project}/sources/in-place`,
      { items },
    );
    expect(added).toEqual([]);
    expect(refused.map((r) => r.code)).toEqual(['unknown-folder', 'unknown-folder', 'outside-folders']);
    rmSync(place, { recursive: true });
  });

  test('a file that became a pipe, or a link that leads out, is missing and is not taken anew', async () => {
    const project = await newProject('Turned');
    const path = join(footage, 'turned.mp4');
    copyFileSync(join(footage, 'day 1', 'a.mp4'), path);
    const { added } = await inPlace(project, ['footage/turned.mp4']);
    await server.settled(project);
    for (const turn of [() => run('mkfifo', [path]), async () => symlinkSync('/etc/hostname', path)]) {
      rmSync(path);
      await turn();
      expect(await files(project)).toMatchObject([{ state: 'missing' }]);
      expect(await server.refused(`/projects/${project}/sources/${added[0]?.id}/renew`, {})).toEqual({
        status: 409,
        code: 'file-missing',
      });
    }
    rmSync(path);
  });
});

describe('files in place', () => {
  test('are used where they lie, recognised when they come again, and one step to undo', async () => {
    const project = await newProject('Place');
    const before = readdirSync(join(footage, 'day 1'));
    const first = await inPlace(project, ['footage/day 1/a.mp4'], null, 'go1');
    const { added, refused } = await inPlace(project, ['footage'], rate(24), 'go1');
    expect(added.map((s) => [s.name, s.kind, s.pictures])).toEqual([
      ['b', 'film', 25],
      ['drip', 'sequence', 9],
    ]);
    expect(refused.map((r) => r.code)).toEqual(['already-here', 'already-here']);
    expect(added[1]).toMatchObject({
      readAt: { rate: rate(24) },
      numbers: { first: 7, last: 16, missing: 1 },
    });
    expect(await ask(`/projects/${project}/history`)).toMatchObject([{ number: 1, label: 'Added 3 sources' }]);
    await server.settled(project);
    const states = await files(project);
    expect(states.map((f) => [f.state, f.proxy])).toEqual([
      ['here', true],
      ['here', true],
      ['here', true],
    ]);
    expect(states.find((f) => f.mediaId === first.added[0]?.mediaId)?.path).toBe(join(footage, 'day 1', 'a.mp4'));
    expect(readdirSync(join(footage, 'day 1'))).toEqual(before);
    const strip = await fetch(`${server.url}/api/media/${added[1]?.mediaId}/thumbs`);
    expect([strip.status, strip.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
    expect((await fetch(`${server.url}/api/media/${added[1]?.mediaId}/pictures/8`)).status).toBe(200);
    await ask(`/projects/${project}/undo`, {});
    expect((await read(project)).document.sources).toEqual([]);
  });

  test('a series without a rate is refused with what to say', async () => {
    const project = await newProject('Rate');
    expect((await inPlace(project, ['footage/day 1/drips'], null)).refused).toMatchObject([{ code: 'rate-needed' }]);
  });

  test('touched is the same; moved is noticed, refused to jobs and found again; changed is told and taken anew', async () => {
    const project = await newProject('Moves');
    const path = join(footage, 'day 1', 'wander.mp4');
    await film(path, 5);
    const { added } = await inPlace(project, ['footage/day 1/wander.mp4']);
    const [source] = added as [Source];
    await server.settled(project);
    utimesSync(path, new Date(), new Date(Date.now() + 5000));
    expect((await files(project))[0]?.state).toBe('here');
    const moved = join(footage, 'elsewhere.mp4');
    renameSync(path, moved);
    expect((await files(project))[0]).toMatchObject({ state: 'missing', sentence: expect.stringContaining('wander.mp4') });
    await ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [source.id] });
    expect((await server.settled(project))[0]).toMatchObject({ kind: 'check', state: 'failed', error: { code: 'file-missing' } });
    // Shown pictures come from the proxy meanwhile.
    expect((await fetch(`${server.url}/api/media/${source.mediaId}/pictures/3`)).status).toBe(200);
    expect(await server.refused(`/media/${source.mediaId}/find`, { path: 'footage/day 1/a.mp4' })).toEqual({
      status: 422,
      code: 'another-file',
    });
    expect(await server.refused(`/media/${source.mediaId}/find`, { path: '../etc' })).toEqual({
      status: 403,
      code: 'outside-folders',
    });
    expect(await ask(`/media/${source.mediaId}/find`, { path: null })).toMatchObject({ state: 'here', path: moved });
    await film(moved, 9, 2);
    expect((await files(project))[0]?.state).toBe('changed');
    expect(await server.refused(`/media/${source.mediaId}/find`, { path: null })).toEqual({
      status: 404,
      code: 'not-found-again',
    });
    await ask(`/projects/${project}/sources/${source.id}/renew`, {});
    expect((await read(project)).document.sources[0]).toMatchObject({ id: source.id, pictures: 50, name: 'wander' });
    expect((await files(project))[0]?.state).toBe('here');
    expect(await server.refused(`/projects/${project}/sources/${source.id}/renew`, {})).toEqual({
      status: 409,
      code: 'file-unchanged',
    });
    await ask(`/projects/${project}/undo`, {});
    expect((await read(project)).document.sources[0]).toMatchObject({ pictures: 25, mediaId: source.mediaId });
    rmSync(moved);
  });

  test('a series that moved is found in its new folder, and one picture short is not it', async () => {
    const project = await newProject('Series');
    const old = join(footage, 'drips-b');
    const next = join(footage, 'drips-c');
    mkdirSync(old);
    for (const name of readdirSync(join(footage, 'day 1', 'drips')))
      copyFileSync(join(footage, 'day 1', 'drips', name), join(old, name));
    appendFileSync(join(old, 'drip_0016.png'), 'tail');
    const { added } = await inPlace(project, ['footage/drips-b']);
    await server.settled(project);
    renameSync(old, next);
    expect((await files(project))[0]?.state).toBe('missing');
    expect(await server.refused(`/media/${added[0]?.mediaId}/find`, { path: 'footage/day 1/drips' })).toEqual({
      status: 422,
      code: 'another-file',
    });
    expect(await ask(`/media/${added[0]?.mediaId}/find`, { path: 'footage/drips-c' })).toMatchObject({
      state: 'here',
      path: next,
    });
    await ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [added[0]?.id] });
    expect((await server.settled(project))[0]).toMatchObject({ kind: 'check', state: 'done' });
    rmSync(next, { recursive: true });
  });

  test('a series that vanishes in the middle of a job is told as missing', async () => {
    const project = await newProject('Vanish');
    const folder = join(footage, 'vanish');
    mkdirSync(folder);
    await run('ffmpeg', [
      '-nostdin',
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=640x480:r=25:d=12',
      join(folder, 'v_%04d.png'),
    ]);
    await inPlace(project, ['footage/vanish']);
    for (let waited = 0; waited < 200; waited++) {
      const [job] = await server.jobs(project);
      if (job && job.done > 0) break;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    rmSync(folder, { recursive: true });
    expect((await server.settled(project))[0]).toMatchObject({ kind: 'proxy', state: 'failed', error: { code: 'file-missing' } });
  });
});

describe('uploads', () => {
  test('numbered pictures sent together are one source at the rate asked for; without a rate each is a still', async () => {
    const names = readdirSync(join(footage, 'day 1', 'drips')).slice(0, 4);
    const pictures = names.map((name) => ({ name, bytes: readFileSync(join(footage, 'day 1', 'drips', name)) }));
    const one = await newProject('One');
    const { added } = await server.upload(one, pictures, '?sequence=30000/1001');
    expect(added).toMatchObject([
      { name: 'drip', kind: 'sequence', pictures: 3 + 1, readAt: { rate: rate(30000, 1001) }, numbers: { missing: 1 } },
    ]);
    const many = await newProject('Many');
    expect((await server.upload(many, pictures)).added.map((s) => s.kind)).toEqual(['still', 'still', 'still', 'still']);
    expect(await server.refusedUpload(one, '?sequence=0')).toEqual({ status: 400, code: 'bad-request' });
  });

  test('uploads of one batch are one step to undo, and the same file twice is recognised', async () => {
    const project = await newProject('Batch');
    const bytes = readFileSync(join(footage, 'day 1', 'a.mp4'));
    await server.upload(project, [{ name: 'a.mp4', bytes }], '?batch=b1');
    const again = await server.upload(project, [{ name: 'copy.mp4', bytes }], '?batch=b1');
    expect(again.refused).toMatchObject([{ code: 'already-here', message: expect.stringContaining('as a.mp4') }]);
    await server.upload(project, [{ name: 'b.mp4', bytes: readFileSync(join(footage, 'day 1', 'b.mp4')) }], '?batch=b1');
    expect(await ask(`/projects/${project}/history`)).toMatchObject([{ number: 1, label: 'Added 2 sources' }]);
    await ask(`/projects/${project}/undo`, {});
    expect((await read(project)).document.sources).toEqual([]);
    await ask(`/projects/${project}/redo`, {});
    expect((await read(project)).document.sources.map((s) => s.name)).toEqual(['a', 'b']);
  });
});

describe('what is done and what is told', () => {
  test('the history is walked to any point and back, over a restart', async () => {
    const project = await newProject('Walk');
    const { added } = await server.upload(project, [{ name: 'a.mp4', bytes: readFileSync(join(footage, 'day 1', 'a.mp4')) }]);
    const [source] = added as [Source];
    const command = (c: CommandInput) => ask(`/projects/${project}/commands`, { command: c });
    const states = [(await read(project)).document];
    for (const num of [24, 50, 12]) {
      const reading = { rate: rate(num), pictures: 'once', from: 'typed', sound: 'along' } as const;
      await command({ type: 'readAt', readings: [{ sourceId: source.id, reading }], uses: 'move', except: [] });
      states.push((await read(project)).document);
    }
    expect(await ask(`/projects/${project}/history`)).toMatchObject([
      { label: 'Read a at 12' },
      { label: 'Read a at 50' },
      { label: 'Read a at 24' },
      { label: 'Added a' },
    ]);
    const go = (number: number) => ask(`/projects/${project}/history/${number}`, {});
    for (const number of [1, 4, 2, 3, 1]) {
      await go(number);
      expect((await read(project)).document).toEqual(states[number - 1]);
    }
    await server.end('SIGKILL');
    await server.start({ THAWLINE_MEDIA: footage });
    await go(3);
    expect((await read(project)).document).toEqual(states[2]);
    await go(0);
    expect((await read(project)).document.sources).toEqual([]);
    expect(await server.refused(`/projects/${project}/history/99`, {})).toEqual({ status: 404, code: 'unknown-revision' });
  });

  test('the table and the ledger say what was found', async () => {
    const project = await newProject('Told');
    const bare = await fetch(`${server.url}/api/projects/${project}/sources.csv`);
    expect(await bare.text()).toMatch(/^name,kind,pictures,.*,remarks\r\n$/);
    const bytes = readFileSync(join(footage, 'day 1', 'a.mp4'));
    const { added } = await server.upload(project, [{ name: '=cmd, x.mp4', bytes }]);
    const [source] = added as [Source];
    await ask(`/projects/${project}/commands`, { command: { type: 'setClaim', sourceIds: [source.id], claimed: rate(100) } });
    const table = await fetch(`${server.url}/api/projects/${project}/sources.csv`);
    expect(table.headers.get('content-type')).toContain('text/csv');
    const [head, row] = (await table.text()).split('\r\n');
    expect(head?.startsWith('name,kind,pictures,claimed,stored,measured')).toBe(true);
    expect(row?.startsWith('"\'=cmd, x",film,25,100,25,25')).toBe(true);
    const ledger = await ask<{ lines: { what: string; exact: string | null }[]; seconds: number }>(
      `/projects/${project}/sources/${source.id}/ledger`,
    );
    expect(ledger.lines.map((l) => [l.what, l.exact])).toEqual([
      ['claimed', '100'],
      ['stored', '25'],
      ['measured', '25'],
      ['true', null],
      ['read', '25'],
    ]);
    expect(ledger.seconds).toBeCloseTo(1, 6);
  });

  test('sources in use go only with their uses; a render whose sound keeps its pitch is made', async () => {
    const project = await newProject('Uses');
    const tone = join(server.folder, 'tone.mp4');
    const sound = ['-f', 'lavfi', '-i', 'sine=d=1:r=48000', '-c:a', 'aac', '-shortest'];
    await run('ffmpeg', [
      '-nostdin',
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=64x48:r=25:d=1',
      ...sound,
      '-c:v',
      'libx264',
      tone,
    ]);
    const { added } = await server.upload(project, [{ name: 'tone.mp4', bytes: readFileSync(tone) }]);
    const [source] = added as [Source];
    const command = (c: CommandInput) => ask(`/projects/${project}/commands`, { command: c });
    await command({ type: 'addTimeline', timeline: { id: 't', name: 'Cut', rate: rate(25), width: 64, height: 48 } });
    const clip = {
      sourceId: source.id,
      link: 'l',
      start: 0,
      length: 25,
      inPicture: 0,
      headTrim: 0,
      fit: 'nearest',
      speed: rate(1),
      cut: null,
    } as const;
    await command({
      type: 'placeClips',
      timelineId: 't',
      clips: [
        { ...clip, id: 'p', laneId: 'p1' },
        { ...clip, id: 's', laneId: 's1' },
      ],
    });
    const readAt = (soundWay: 'pitch'): Command => ({
      type: 'readAt',
      readings: [{ sourceId: source.id, reading: { rate: rate(24), pictures: 'once', from: 'typed', sound: soundWay } }],
      uses: 'move',
      except: [],
    });
    await command(readAt('pitch'));
    await ask(`/projects/${project}/jobs`, { kind: 'render', timelineId: 't' });
    expect((await server.settled(project))[0]).toMatchObject({ kind: 'render', state: 'done' });
    const remove = { type: 'removeSources', sourceIds: [source.id] };
    expect(await server.refused(`/projects/${project}/commands`, { command: remove })).toEqual({
      status: 409,
      code: 'source-in-use',
    });
    const before = (await read(project)).document;
    await ask(`/projects/${project}/commands`, { command: { ...remove, withUses: true } });
    expect((await read(project)).document).toMatchObject({ sources: [], timelines: [{ clips: [] }] });
    await ask(`/projects/${project}/undo`, {});
    expect((await read(project)).document).toEqual(before);
  });
});

describe('fields', () => {
  const tape = join(footage, 'tape', 'tape.mkv');
  beforeAll(async () => {
    mkdirSync(join(footage, 'tape'), { recursive: true });
    const input = ['-f', 'lavfi', '-i', 'testsrc2=s=96x64:r=50:d=2', '-vf', 'interlace=scan=tff:lowpass=off'];
    await run('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, '-r', '25', '-c:v', 'ffv1', tape]);
  });
  const runs = [{ way: 'one-a-field', from: 0, to: 50, first: 'top' }];
  const source = async (project: string): Promise<Film> => {
    const [found] = (await read(project)).document.sources;
    if (found?.kind !== 'film') throw new Error('no film');
    return found;
  };
  const readSo = (project: string, id: string, wanted: unknown) =>
    ask(`/projects/${project}/sources/fields`, { readings: [{ sourceId: id, runs: wanted }] });

  test('read one picture a field they are pictures of their own, and one undo gives back those that were', async () => {
    const project = await newProject('Tape');
    await inPlace(project, ['footage/tape/tape.mkv']);
    const stored = await source(project);
    await readSo(project, stored.id, runs);
    const now = await source(project);
    expect(now).toMatchObject({ pictures: 100, measured: { rate: rate(50) }, fieldsRead: { runs } });
    expect(now.mediaId).not.toBe(stored.mediaId);
    const picture = await fetch(`${server.url}/api/media/${now.mediaId}/pictures/99`);
    expect([picture.status, picture.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
    expect((await files(project)).map((f) => f.state)).toEqual(['here']);
    await ask(`/projects/${project}/undo`, {});
    expect(await source(project)).toEqual(stored);
    // The same reading gives the same media.
    await readSo(project, stored.id, runs);
    expect((await source(project)).mediaId).toBe(now.mediaId);
  });

  test('a stored frame is shown taken apart, however its fields are read', async () => {
    const project = await newProject('Taken apart');
    await inPlace(project, ['footage/tape/tape.mkv']);
    const { id, mediaId } = await source(project);
    await readSo(project, id, runs);
    const asRead = (await source(project)).mediaId;
    for (const [media, view] of [...FIELD_VIEWS.map((each) => [mediaId, each]), [asRead, 'both']]) {
      const reply = await fetch(`${server.url}/api/media/${media}/frames/49/fields/${view}?order=top`);
      expect([view, reply.status]).toEqual([view, 200]);
      const bytes = new Uint8Array(await reply.arrayBuffer());
      expect([bytes[0], bytes[1]]).toEqual([0xff, 0xd8]);
    }
    expect((await fetch(`${server.url}/api/media/${mediaId}/frames/50/fields/both?order=top`)).status).toBe(404);
    expect((await fetch(`${server.url}/api/media/${mediaId}/frames/0/fields/sideways?order=top`)).status).toBe(400);
  });

  test('a copy in the data folder lies there once, and stays while either reading of it is used', async () => {
    const project = await newProject('Copied');
    const added = await server.upload(project, [{ name: 'tape.mkv', bytes: readFileSync(tape) }]);
    const id = added.added[0]?.id ?? '';
    await readSo(project, id, runs);
    const { mediaId, fieldsRead } = await source(project);
    const paths = [mediaId, fieldsRead?.stored.mediaId ?? ''].map((one) => join(server.data, 'media', one, 'original.mkv'));
    expect(new Set(paths.map((path) => statSync(path).ino)).size).toBe(1);
    // What lies there once takes its room once; it is freed by neither reading alone.
    const storage = () => ask<StorageReply>('/storage');
    await server.settled(project);
    const both = await storage();
    await ask(`/projects/${project}/undo`, {});
    const timeline = { id: 't', name: 'After', rate: rate(25), width: 96, height: 64 };
    await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline } });
    const one = await storage();
    await ask('/storage/free', { kind: 'unneeded' });
    const after = await storage();
    expect(paths.map((path) => existsSync(path))).toEqual([false, true]);
    expect(after.media).toEqual(both.media);
    // Told beforehand: what was made of it goes, the file itself does not.
    expect(one.unneeded.bytes).toBe(both.proxies.bytes - after.proxies.bytes);
  });

  test('runs that are of another file are refused, and nothing changes', async () => {
    const project = await newProject('Refused');
    await inPlace(project, ['footage/tape/tape.mkv']);
    const before = await source(project);
    const short = [{ way: 'one-a-field', from: 0, to: 40, first: 'top' }];
    await expect(readSo(project, before.id, short)).rejects.toThrow('fields-end');
    expect(await source(project)).toEqual(before);
  });
});
