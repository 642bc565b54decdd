import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { get as httpGet } from 'node:http';
import { join } from 'node:path';
import type { BackupProject, BackupReply, ChangeReply, ProjectState, ProjectSummary, StorageReply } from '@thawline/contract';
import type { CommandInput } from '@thawline/project';
import BetterSqlite3 from 'better-sqlite3';
import { TestServer, wavFile } from './server.fixture.js';

/** What was acknowledged stays, and what was not is nowhere. */

const server = new TestServer();
const { data } = server;
const ask = server.ask.bind(server);
const refused = server.refused.bind(server);

beforeAll(() => server.start());
afterAll(() => server.remove());

const newProject = async (name: string): Promise<string> => (await ask<ProjectState>('/projects', { name })).id;
const read = (project: string): Promise<ProjectState> => ask<ProjectState>(`/projects/${project}`);
const timeline = (id: string): CommandInput => ({
  type: 'addTimeline',
  timeline: { id, name: `Timeline ${id}`, rate: { num: 25, den: 1 }, width: 64, height: 64 },
});
const command = (project: string, c: CommandInput, by: object = {}): Promise<ChangeReply> =>
  ask<ChangeReply>(`/projects/${project}/commands`, { command: c, ...by });
const names = async (project: string): Promise<string[]> => (await read(project)).document.timelines.map((t) => t.id);
const restart = async (signal: NodeJS.Signals): Promise<void> => {
  await server.end(signal);
  await server.start();
};

/** Silence with a number in it, so that no two are alike: added in a moment. */
function wav(seconds = 2, first = 0): Uint8Array {
  const bytes = Buffer.alloc(seconds * 16_000);
  bytes.writeInt16LE(first, 0);
  return wavFile(bytes);
}

describe('a disk that takes nothing', () => {
  /** No file of the server may grow past so many bytes, as on a disk without room. */
  const limit = (bytes: number | 'unlimited'): void => {
    execFileSync('prlimit', ['--pid', String(server.pid), `--fsize=${bytes}:unlimited`]);
  };

  afterEach(() => limit('unlimited'));

  test.each([1, 2, 3])('%d commands are refused with 507, are nowhere, and all that follows is stored', async (times) => {
    const project = await newProject('Full');
    await command(project, timeline('a'));
    limit(4096);
    for (let i = 0; i < times; i++)
      expect(await refused(`/projects/${project}/commands`, { command: timeline('b') })).toMatchObject({ status: 507 });
    expect(await names(project)).toEqual(['a']);
    expect(await server.refusedUpload(project, '', 50_000)).toMatchObject({ status: 507 });
    limit('unlimited');
    for (let i = 0; i < 50; i++) await command(project, timeline(`c${i}`));
    await server.upload(project, [{ name: 'a.wav', bytes: wav() }]);
    const before = await read(project);
    expect(before.version).toBe(52);
    await restart('SIGKILL');
    expect(await read(project)).toEqual(before);
    expect(existsSync(join(data, 'incoming'))).toBe(false);
  });
});

describe('requests', () => {
  test('one that is sent again is done once, also after a restart, and is answered the same', async () => {
    const project = await newProject('Once');
    const by = { requestId: 'request-0001' };
    const first = await command(project, timeline('a'), by);
    const second = await command(project, timeline('b'), { requestId: 'request-0002' });
    expect(await command(project, timeline('a'), by)).toMatchObject({ version: first.version, patches: first.patches });
    await restart('SIGKILL');
    expect(await command(project, timeline('b'), { requestId: 'request-0002' })).toMatchObject({ version: second.version });
    const undo = { requestId: 'request-0003' };
    await ask(`/projects/${project}/undo`, undo);
    await ask(`/projects/${project}/undo`, undo);
    expect(await names(project)).toEqual(['a']);
  });
});

/** Listens to a project's events as a window does, until it is closed. */
async function openWindow(project: string, client: string): Promise<{ close(): void; heard: string[] }> {
  const heard: string[] = [];
  const request = httpGet(`${server.url}/api/projects/${project}/events?client=${client}`);
  const response = await new Promise<import('node:http').IncomingMessage>((resolve) => request.on('response', resolve));
  response.on('data', (chunk: Buffer) => heard.push(String(chunk)));
  return { close: () => request.destroy(), heard };
}

describe('two windows', () => {
  const [one, two] = ['window-one', 'window-two'];

  test('each takes back its own newest step, and what the other did stays', async () => {
    const project = await newProject('Two');
    const windows = [await openWindow(project, one), await openWindow(project, two)];
    await command(project, timeline('a'), { client: one });
    const last = await command(project, timeline('b'), { client: two });
    expect(last.undoLabel).toBe('Made Timeline b at 25');
    const undone = await ask<ChangeReply>(`/projects/${project}/undo`, { client: one });
    expect(await names(project)).toEqual(['b']);
    expect(undone).toMatchObject({ undoLabel: null, redoLabel: 'Made Timeline a at 25' });
    expect(await ask(`/projects/${project}/history`)).toMatchObject([
      { number: 2, label: 'Made Timeline a at 25', undone: true },
      { number: 1, label: 'Made Timeline b at 25', undone: false },
    ]);
    await ask(`/projects/${project}/redo`, { client: one });
    expect((await names(project)).sort()).toEqual(['a', 'b']);
    await ask(`/projects/${project}/undo`, { client: two });
    await ask(`/projects/${project}/undo`, { client: one });
    expect(await names(project)).toEqual([]);
    for (const w of windows) w.close();
  });

  test('a step that another window changed since stays, and the sentence says which one is in the way', async () => {
    const project = await newProject('Touched');
    const windows = [await openWindow(project, one), await openWindow(project, two)];
    await command(project, timeline('a'), { client: one });
    await command(project, { type: 'renameTimeline', timelineId: 'a', name: 'Mine' }, { client: two });
    const error = await ask(`/projects/${project}/undo`, { client: one }).catch((e: { reply: unknown }) => e.reply);
    expect(error).toMatchObject({ code: 'step-touched', message: expect.stringContaining('Named Timeline a Mine') });
    for (const w of windows) w.close();
    // The other window is closed: its steps are anybody's.
    for (let waited = 0; waited < 40; waited++) await new Promise((resolve) => setTimeout(resolve, 5));
    await ask(`/projects/${project}/undo`, { client: one });
    expect((await read(project)).document.timelines[0]?.name).toBe('Timeline a');
  });

  test('each hears what its own undo would do', async () => {
    const project = await newProject('Heard');
    const windows = [await openWindow(project, one), await openWindow(project, two)];
    await command(project, timeline('a'), { client: one });
    await command(project, timeline('b'), { client: two });
    for (let waited = 0; waited < 100 && windows.some((w) => !w.heard.join('').includes('"version":2')); waited++)
      await new Promise((resolve) => setTimeout(resolve, 10));
    const lastOf = (heard: string[]): string => heard.join('').split('"version":2')[1] ?? '';
    expect(lastOf(windows[0]?.heard ?? [])).toContain('"undoLabel":"Made Timeline a at 25"');
    expect(lastOf(windows[1]?.heard ?? [])).toContain('"undoLabel":"Made Timeline b at 25"');
    for (const w of windows) w.close();
    expect(await refused('/projects/nothing/events')).toMatchObject({ status: 404, code: 'unknown-project' });
  });
});

describe('projects', () => {
  test('are copied with their history, deleted into a bin, taken out again, and gone when it is emptied', async () => {
    const project = await newProject('Bin');
    await server.upload(project, [{ name: 'bin.wav', bytes: wav(1, 7) }]);
    await command(project, timeline('a'));
    await server.settled(project);
    const [source] = (await read(project)).document.sources;
    const folder = join(data, 'media', source?.mediaId ?? '');
    const copy = await ask<ProjectState>(`/projects/${project}/copy`, { name: 'Bin, copied' });
    expect(copy.document).toEqual({ ...(await read(project)).document, name: 'Bin, copied' });
    await ask(`/projects/${copy.id}/undo`, {});
    expect(await names(copy.id)).toEqual([]);
    expect(await names(project)).toEqual(['a']);

    const listed = await ask<ProjectSummary[]>(`/projects/${project}`, undefined, 'DELETE');
    expect(listed.find((p) => p.id === project)?.deletedAt).toMatch(/^20/);
    expect(await refused(`/projects/${project}`)).toMatchObject({ status: 404 });
    expect(await refused(`/projects/${project}/commands`, { command: timeline('b') })).toMatchObject({ status: 404 });
    await ask(`/projects/${project}/undelete`, {});
    expect(await names(project)).toEqual(['a']);

    for (const id of [project, copy.id]) await ask(`/projects/${id}`, undefined, 'DELETE');
    expect(existsSync(folder)).toBe(true);
    expect((await ask<StorageReply>('/storage')).bin.map((p) => p.name).sort()).toEqual(['Bin', 'Bin, copied']);
    await ask('/storage/free', { kind: 'bin' });
    expect(existsSync(folder)).toBe(false);
    expect((await ask<ProjectSummary[]>('/projects')).some((p) => p.id === project)).toBe(false);
  });

  test('one in the bin, or one whose row is damaged, keeps nobody from starting', async () => {
    const [binned, hurt, well] = [await newProject('Binned'), await newProject('Hurt'), await newProject('Well')];
    await ask(`/projects/${binned}`, undefined, 'DELETE');
    await server.end('SIGTERM');
    const raw = new BetterSqlite3(join(data, 'thawline.sqlite'));
    raw.prepare('UPDATE project SET document = substr(document, 1, 20) WHERE id = ?').run(hurt);
    raw.close();
    await server.start();
    const listed = await ask<ProjectSummary[]>('/projects');
    expect(listed.find((p) => p.id === hurt)).toMatchObject({ name: 'Hurt', damaged: true });
    expect(await refused(`/projects/${hurt}`)).toEqual({ status: 409, code: 'project-damaged' });
    expect((await read(well)).document.name).toBe('Well');
    await ask(`/projects/${hurt}`, undefined, 'DELETE');
    await ask('/storage/free', { kind: 'bin' });
  });

  test('media of a removed source stay while the history needs them, and go when it does not', async () => {
    const project = await newProject('Unneeded');
    const { added } = await server.upload(project, [{ name: 'gone.wav', bytes: wav(1, 9) }]);
    await server.settled(project);
    const folder = join(data, 'media', added[0]?.mediaId ?? '');
    await ask(`/projects/${project}/undo`, {});
    await ask('/storage/free', { kind: 'unneeded' });
    expect(existsSync(folder)).toBe(true);
    await command(project, timeline('a'));
    expect((await ask<StorageReply>('/storage')).unneeded.files).toBeGreaterThan(0);
    await ask('/storage/free', { kind: 'unneeded' });
    expect(existsSync(folder)).toBe(false);
  });

  test('a backup’s projects come back beside the present ones', async () => {
    const project = await newProject('Restored');
    await command(project, timeline('a'));
    const backup = await ask<BackupReply>('/backups', {});
    await command(project, timeline('b'));
    const held = await ask<BackupProject[]>(`/backups/${backup.name}`);
    expect(held.find((p) => p.id === project)).toMatchObject({ name: 'Restored', timelines: 1, steps: 1 });
    const { projects } = await ask<{ projects: { id: string; name: string }[] }>(`/backups/${backup.name}/restore`, {
      projectId: project,
    });
    expect(projects).toMatchObject([{ name: expect.stringMatching(/^Restored \(backup of 20/) }]);
    expect(await names(projects[0]?.id ?? '')).toEqual(['a']);
    expect(await names(project)).toEqual(['a', 'b']);
    expect(await refused('/backups/nothing.sqlite/restore', {})).toMatchObject({ status: 404, code: 'unknown-backup' });
    expect(await refused('/backups/..%2fthawline.sqlite')).toMatchObject({ status: 404 });
    expect(readdirSync(join(data, 'backups')).filter((n) => n.includes('partial'))).toEqual([]);
  });

  test('the first change of a day makes a backup', async () => {
    const daily = (): string[] => readdirSync(join(data, 'backups')).filter((n) => n.endsWith('-daily.sqlite'));
    for (let waited = 0; waited < 100 && daily().length === 0; waited++) await new Promise((resolve) => setTimeout(resolve, 20));
    expect(daily()).toHaveLength(1);
    await command(await newProject('Again'), timeline('a'));
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(daily()).toHaveLength(1);
  });
});

describe('what lies on the disk', () => {
  test('is its owner’s alone', () => {
    const open: string[] = [];
    for (const entry of readdirSync(data, { recursive: true, withFileTypes: true })) {
      const path = join(entry.parentPath, entry.name);
      if ((statSync(path).mode & 0o077) !== 0) open.push(path);
    }
    expect(open).toEqual([]);
  });

  test('of killed uploads and jobs is cleared at the start; what projects need stays', async () => {
    const project = await newProject('Orphans');
    const { added } = await server.upload(project, [{ name: 'kept.wav', bytes: wav(1, 11) }]);
    await server.settled(project);
    await server.end('SIGKILL');
    const kept = join(data, 'media', added[0]?.mediaId ?? '');
    mkdirSync(join(data, 'media', 'orphan0000000000'));
    writeFileSync(join(data, 'media', 'orphan0000000000', 'original.mp4'), 'x');
    writeFileSync(join(kept, '.proxy.jpegs.0123.partial'), 'x');
    mkdirSync(join(data, 'incoming'), { recursive: true });
    writeFileSync(join(data, 'incoming', 'half'), 'x');
    await server.start();
    expect(existsSync(join(data, 'media', 'orphan0000000000'))).toBe(false);
    expect(readdirSync(kept).filter((n) => n.includes('partial'))).toEqual([]);
    expect(existsSync(join(data, 'incoming', 'half'))).toBe(false);
    expect(readFileSync(join(kept, 'original.wav')).length).toBe(wav(1).length);
    rmSync(join(data, 'incoming'), { recursive: true, force: true });
  });

  test('files that the database does not know any more stay until a person frees them', async () => {
    const project = await newProject('Older');
    const backup = await ask<BackupReply>('/backups', {});
    const { added } = await server.upload(project, [{ name: 'later.wav', bytes: wav(1, 13) }]);
    await server.settled(project);
    const folder = join(data, 'media', added[0]?.mediaId ?? '');
    await server.end('SIGTERM');
    // The database is lost, and an older backup takes its place.
    for (const ending of ['', '-wal', '-shm']) rmSync(join(data, `thawline.sqlite${ending}`), { force: true });
    await expect(server.start()).rejects.toThrow('the server ended');
    expect(existsSync(folder)).toBe(true);
    copyFileSync(join(data, 'backups', backup.name), join(data, 'thawline.sqlite'));
    await server.start();
    expect(existsSync(folder)).toBe(true);
    await restart('SIGKILL');
    expect(existsSync(folder)).toBe(true);
    expect((await ask<StorageReply>('/storage')).unneeded.files).toBeGreaterThan(0);
    await ask('/storage/free', { kind: 'unneeded' });
    expect(existsSync(folder)).toBe(false);
  });
});
