import { execFile } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { request as httpRequest } from 'node:http';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  ERROR_CODES,
  type JobReply,
  jobSchema,
  type ProjectState,
  projectStateSchema,
  receiptSchema,
  routes,
} from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { type CommandInput, clipsFor, noTiming } from '@thawline/project';
import { DataSource } from 'typeorm';
import { First1763900000000 } from './database/migrations.js';
import { openDatabase } from './database/opening.js';
import { STATUS } from './http/failure.js';
import { TestServer } from './server.fixture.js';
import { nameTrouble } from './sources/receive.js';

const server = new TestServer();
const { folder, data } = server;
const ask = server.ask.bind(server);
const refused = server.refused.bind(server);
const upload = server.upload.bind(server);
const settled = server.settled.bind(server);

beforeAll(() => server.start());
afterAll(() => server.remove());

/** Not in step with this thread: connections that the server closes meanwhile have to be noticed. */
async function film(name: string, seconds = 2, size = '160x120'): Promise<string> {
  const path = join(folder, name);
  const inputs = ['-f', 'lavfi', '-i', `testsrc2=s=${size}:r=25:d=${seconds}`, '-f', 'lavfi', '-i', `sine=d=${seconds}:r=48000`];
  const codecs = ['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'];
  await promisify(execFile)('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...inputs, ...codecs, path]);
  return path;
}

const newProject = async (name: string): Promise<string> => (await ask<ProjectState>('/projects', { name })).id;
const read = (project: string): Promise<ProjectState> => ask<ProjectState>(`/projects/${project}`);

async function withTimeline(seconds = 2, size?: string): Promise<{ project: string; timelineId: string }> {
  const project = await newProject('Cut');
  const { added } = await upload(project, [{ name: 'a.mp4', bytes: readFileSync(await film(`a${seconds}.mp4`, seconds, size)) }]);
  const [source] = added;
  if (!source) throw new Error('nothing added');
  const command = (c: CommandInput) => ask(`/projects/${project}/commands`, { command: c });
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Main', rate: rate(24), width: 160, height: 120 } });
  const [timeline] = (await read(project)).document.timelines;
  if (!timeline) throw new Error('no timeline');
  let made = 0;
  await command({
    type: 'placeClips',
    timelineId: 't',
    clips: clipsFor({ timeline, source, fit: 'nearest', newId: () => `c${made++}` }, noTiming),
  });
  return { project, timelineId: 't' };
}

describe('the way through', () => {
  test('a file comes in, is checked, rendered, and the receipt agrees; a restart forgets nothing', async () => {
    const { project, timelineId } = await withTimeline();
    const before = projectStateSchema.parse(await read(project));
    const [source] = before.document.sources;
    expect(source).toMatchObject({ pictures: 50, measured: { rate: rate(25) }, stored: rate(25) });
    await ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [source?.id] });
    await ask(`/projects/${project}/jobs`, { kind: 'render', timelineId });
    const jobs = await settled(project);
    expect(jobs.map((j) => [j.kind, j.state, j.error])).toEqual(
      expect.arrayContaining([
        ['proxy', 'done', null],
        ['check', 'done', null],
        ['render', 'done', null],
      ]),
    );
    const [receipt] = receiptSchema.array().parse(await ask(`/projects/${project}/receipts`));
    expect(receipt?.differs).toBe(0);
    expect(receipt?.lines.find((l) => l.what === 'frames')).toMatchObject({ asked: '48', measured: '48' });
    const file = await fetch(`${server.url}/api/jobs/${receipt?.jobId}/file`);
    expect((await file.arrayBuffer()).byteLength).toBe(receipt?.bytes);
    await server.end('SIGTERM');
    await server.start();
    expect(await read(project)).toEqual(before);
    expect(await ask(`/projects/${project}/checks`)).toHaveLength(1);
  });

  test('any picture is had, from the original and from the proxy', async () => {
    const project = await newProject('Pictures');
    const { added } = await upload(project, [{ name: 'p.mp4', bytes: readFileSync(await film('p.mp4')) }]);
    const path = `${server.url}/api/media/${added[0]?.mediaId}/pictures`;
    const early = await fetch(`${path}/30`);
    expect(early.headers.get('content-type')).toBe('image/jpeg');
    await settled(project);
    const late = await fetch(`${path}/30`);
    expect(Buffer.compare(Buffer.from(await early.arrayBuffer()), Buffer.from(await late.arrayBuffer()))).toBe(0);
    expect(await refused(`/media/${added[0]?.mediaId}/pictures/50`)).toEqual({ status: 404, code: 'unknown-picture' });
  });

  test('undo and redo go back and forth exactly, and survive a restart', async () => {
    const project = await newProject('Undo');
    const command = (c: CommandInput) => ask(`/projects/${project}/commands`, { command: c });
    await command({ type: 'addTimeline', timeline: { id: 't', name: 'A', rate: rate(25), width: 64, height: 64 } });
    const one = await read(project);
    await command({ type: 'renameTimeline', timelineId: 't', name: 'B' });
    const two = await read(project);
    await ask(`/projects/${project}/undo`, {});
    expect((await read(project)).document).toEqual(one.document);
    await server.end('SIGKILL');
    await server.start();
    expect(await read(project)).toMatchObject({ undoLabel: 'Made A at 25', redoLabel: 'Named A B' });
    await ask(`/projects/${project}/redo`, {});
    expect((await read(project)).document).toEqual(two.document);
    expect(await refused(`/projects/${project}/redo`, {})).toEqual({ status: 409, code: 'nothing-to-redo' });
    await ask(`/projects/${project}/undo`, {});
    await command({ type: 'renameTimeline', timelineId: 't', name: 'C' });
    expect(await ask(`/projects/${project}/history`)).toMatchObject([
      { label: 'Named A C', undone: false },
      { label: 'Made A at 25' },
    ]);
  });

  test('commands sent at once are applied one after the other', async () => {
    const project = await newProject('Many');
    const names = Array.from({ length: 20 }, (_, i) => `T${i}`);
    await Promise.all(
      names.map((name, i) =>
        ask(`/projects/${project}/commands`, {
          command: { type: 'addTimeline', timeline: { id: `t${i}`, name, rate: rate(25), width: 64, height: 64 } },
        }),
      ),
    );
    const state = await read(project);
    expect(state.version).toBe(20);
    expect(state.document.timelines.map((t) => t.name).sort()).toEqual(names.sort());
  });
});

describe('when things break', () => {
  test('a server killed in a render starts it again at boot and ends right', async () => {
    const { project, timelineId } = await withTimeline(20, '640x480');
    const before = readdirSync(join(data, 'renders')).filter((n) => n.endsWith('.mp4'));
    await ask(`/projects/${project}/jobs`, { kind: 'render', timelineId });
    for (let waited = 0; waited < 200; waited++) {
      const jobs = await ask<JobReply[]>(`/projects/${project}/jobs`);
      if (jobs.some((j) => j.kind === 'render' && j.done > 0)) break;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    await server.end('SIGKILL');
    expect(readdirSync(join(data, 'renders')).filter((n) => n.endsWith('.mp4'))).toEqual(before);
    await server.start();
    const render = jobSchema
      .array()
      .parse(await settled(project))
      .find((j) => j.kind === 'render');
    expect(render).toMatchObject({ state: 'done', error: null });
    expect(readdirSync(join(data, 'renders')).filter((n) => n.includes('partial'))).toEqual([]);
    expect(await ask(`/projects/${project}/receipts`)).toMatchObject([{ differs: 0 }]);
  });

  test('a stopped render leaves nothing behind', async () => {
    const { project, timelineId } = await withTimeline(20, '640x480');
    await settled(project);
    const before = readdirSync(join(data, 'renders'));
    const [job] = await ask<JobReply[]>(`/projects/${project}/jobs`, { kind: 'render', timelineId });
    await new Promise((resolve) => setTimeout(resolve, 400));
    await ask(`/jobs/${job?.id}`, undefined, 'DELETE');
    expect((await settled(project)).find((j) => j.id === job?.id)?.state).toBe('cancelled');
    expect(readdirSync(join(data, 'renders'))).toEqual(before);
  });
});

describe('what bad input gets', () => {
  test('files that are none are refused by name and reason; nothing changes and nothing stays on disk', async () => {
    const project = await newProject('Bad');
    const before = await read(project);
    const kept = readdirSync(join(data, 'media'));
    const good = readFileSync(await film('good.mp4'));
    const text = new TextEncoder().encode('hello '.repeat(50));
    const reply = await upload(project, [
      { name: 'empty.mp4', bytes: new Uint8Array(0) },
      { name: 'text.mov', bytes: text },
      {
        name: 'list.m3u8',
        bytes: new TextEncoder().encode(`#EXTM3U\n#EXTINF:2,\nfile://${join(folder, 'good.mp4')}\n#EXT-X-ENDLIST\n`),
      },
      { name: 'cut.mp4', bytes: good.subarray(0, good.length * 0.5) },
      { name: '../../escape.mp4', bytes: good },
      { name: `${'x'.repeat(300)}.mp4`, bytes: good },
    ]);
    expect(reply.added).toEqual([]);
    expect(reply.refused.map((r) => r.code)).toEqual([
      'empty-file',
      'not-media',
      'not-media',
      'truncated',
      'bad-name',
      'bad-name',
    ]);
    expect(reply.refused.every((r) => r.message.length > 20)).toBe(true);
    expect(await read(project)).toEqual(before);
    expect(readdirSync(join(data, 'media'))).toEqual(kept);
    expect(readdirSync(join(data, 'incoming'))).toEqual([]);
  });

  test('an upload that breaks off leaves nothing', async () => {
    const project = await newProject('Broken');
    const { port } = new URL(server.url);
    await new Promise<void>((resolve) => {
      const headers = { 'content-type': 'multipart/form-data; boundary=x', 'content-length': '9000000' };
      const request = httpRequest({ host: '127.0.0.1', port, path: `/api/projects/${project}/sources`, method: 'POST', headers });
      request.on('error', () => resolve());
      request.write('--x\r\nContent-Disposition: form-data; name="file"; filename="a.mp4"\r\n\r\n');
      request.write(new Uint8Array(300_000), () => setTimeout(() => request.destroy(new Error('gone')), 200));
    });
    for (let waited = 0; waited < 50 && readdirSync(join(data, 'incoming')).length > 0; waited++) {
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    expect(readdirSync(join(data, 'incoming'))).toEqual([]);
    expect((await read(project)).document.sources).toEqual([]);
  });

  test('hostile names are told, harmless ones are taken', () => {
    for (const name of ['a\nb.mp4', '../x.mp4', 'a/b.mp4', 'c\\d.mp4', '..', '', 'é'.repeat(200)])
      expect(nameTrouble(name)).not.toBeNull();
    for (const name of ['-rf.mp4', 'Éclair ü 日本.mov', '%2e%2e.mp4', "it's.mkv"]) expect(nameTrouble(name)).toBeNull();
  });

  test('foreign hosts and origins are refused', async () => {
    const { port } = new URL(server.url);
    const withHost = (headers: Record<string, string>): Promise<number> =>
      new Promise((resolve, reject) => {
        httpRequest({ host: '127.0.0.1', port, path: '/api/health', headers }, (r) => resolve(r.statusCode ?? 0))
          .on('error', reject)
          .end();
      });
    expect(await withHost({ host: 'example.org' })).toBe(403);
    expect(await withHost({ host: `127.0.0.1:${port}`, origin: 'http://example.org' })).toBe(403);
    expect(await withHost({ host: `localhost:${port}`, origin: `http://localhost:${port}` })).toBe(200);
  });

  test.each<[string, unknown, string | undefined, number, string]>([
    ['/projects/nothing', undefined, undefined, 404, 'unknown-project'],
    ['/projects', { name: '' }, undefined, 400, 'bad-request'],
    ['/projects', { title: 'x' }, undefined, 400, 'bad-request'],
    ['/projects/..%2f..', undefined, undefined, 400, 'bad-request'],
    ['/nothing', undefined, undefined, 404, 'unknown-route'],
    ['/jobs/nothing', undefined, 'DELETE', 404, 'unknown-job'],
    ['/media/nothing/pictures/1', undefined, undefined, 404, 'unknown-media'],
    ['/media/nothing/pictures/-1', undefined, undefined, 400, 'bad-request'],
  ])('%s with %j is turned down', async (path, body, method, status, code) => {
    expect(await refused(path, body, method)).toEqual({ status, code });
  });

  test('commands that break the rules name the place', async () => {
    const project = await newProject('Rules');
    const send = (command: unknown) => refused(`/projects/${project}/commands`, { command });
    expect(await send({ type: 'nothing' })).toEqual({ status: 400, code: 'bad-request' });
    const timeline = { id: 't', name: 'A', rate: { num: 0, den: 1 }, width: 64, height: 64 };
    expect(await send({ type: 'addTimeline', timeline })).toEqual({ status: 400, code: 'bad-request' });
    expect(await send({ type: 'removeTimeline', timelineId: 'x' })).toEqual({ status: 404, code: 'unknown-timeline' });
  });
});

describe('what is claimed is so', () => {
  test('every code has a status', () => {
    expect(Object.keys(STATUS).sort()).toEqual([...ERROR_CODES].sort());
  });

  test('openapi.json describes every route, and every route answers', async () => {
    const described = await ask<{ paths: Record<string, Record<string, unknown>> }>('/openapi.json');
    for (const route of Object.values(routes)) {
      expect(described.paths[`/api${route.path}`]?.[route.method]).toBeDefined();
      if (route.path.endsWith('/events')) continue;
      const path = route.path.replace(/\{picture\}/, '0').replace(/\{\w+\}/g, 'x');
      const reply = await fetch(`${server.url}/api${path}`, { method: route.method.toUpperCase() });
      const body = await reply.text();
      expect(body.includes('"code":"unknown-route"') ? path : 'answered').toBe('answered');
    }
  });

  test('a database of the first version is brought along: sources get a reading, clips a speed', async () => {
    const old = join(folder, 'old');
    mkdirSync(old);
    const first = new DataSource({
      type: 'better-sqlite3',
      database: join(old, 'thawline.sqlite'),
      migrations: [First1763900000000],
      migrationsRun: true,
    });
    await first.initialize();
    const source = { id: 's', mediaId: 'm', name: 's', pictures: 5, pixelFormat: 'yuv420p' };
    const clip = { id: 'c', sourceId: 's', laneId: 'p1', headTrim: 0, inPicture: 0 };
    const document = { name: 'Old', sources: [source], timelines: [{ id: 't', clips: [clip] }] };
    const forward = [{ op: 'add', path: ['sources', 0], value: source }];
    await first.query(`INSERT INTO project VALUES ('p', 'Old', 1, ?, 'then', 'then')`, [JSON.stringify(document)]);
    const add = 'INSERT INTO revision ("projectId", "number", "label", "command", "forward", "backward", "undone", "at") VALUES';
    await first.query(`${add} ('p', 1, 'Added s', '{}', ?, '[]', 0, 'then')`, [JSON.stringify(forward)]);
    await first.destroy();
    const database = await openDatabase(old);
    const [row] = (await database.reader.query('SELECT document FROM project')) as { document: string }[];
    const gained = { kind: 'film', claimed: null, readAt: null };
    expect(JSON.parse(row?.document ?? '')).toMatchObject({
      sources: [gained],
      timelines: [{ clips: [{ speed: rate(1), cut: null }] }],
    });
    const [revision] = (await database.reader.query('SELECT forward, batch FROM revision')) as {
      forward: string;
      batch: unknown;
    }[];
    expect(JSON.parse(revision?.forward ?? '')[0].value).toMatchObject(gained);
    expect(revision?.batch).toBeNull();
    await database.close();
  });

  test('the migrations make what the entities say', async () => {
    const database = await openDatabase(join(folder, 'fresh'));
    expect(await database.missingSql()).toEqual([]);
    expect(database.pragma('journal_mode')).toBe('wal');
    expect(database.pragma('foreign_keys')).toBe(1);
    // FULL: every commit is on the disk before it is acknowledged.
    expect(database.pragma('synchronous')).toBe(2);
    await database.close();
  });
});
