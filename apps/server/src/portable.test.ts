import { execFile } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { CheckSummary, ImportedReply, ProjectState, ReceiptReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { type CommandInput, clipsFor, noTiming } from '@thawline/project';
import { type Entry, fromBufferPromise } from 'yauzl';
import { ZipFile } from 'yazl';
import { TestServer } from './server.fixture.js';

/** A project leaves one machine as a file and comes in on another; and what comes in is looked at like any hostile file. */
const [here, there] = [new TestServer(), new TestServer()];
let project = '';
let before: ProjectState;

beforeAll(async () => {
  await Promise.all([here.start(), there.start()]);
  const path = join(here.folder, 'floes.mp4');
  const input = ['-f', 'lavfi', '-i', 'testsrc2=s=64x48:r=25:d=1', '-f', 'lavfi', '-i', 'sine=d=1:r=48000'];
  const coding = ['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'];
  await promisify(execFile)('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, ...coding, path]);
  project = (await here.ask<ProjectState>('/projects', { name: 'Ice-out' })).id;
  const { added } = await here.upload(project, [{ name: 'floes.mp4', bytes: readFileSync(path) }]);
  const command = (c: CommandInput) => here.ask(`/projects/${project}/commands`, { command: c });
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Main', rate: rate(24), width: 64, height: 48 } });
  const { document } = await here.ask<ProjectState>(`/projects/${project}`);
  const [timeline, source] = [document.timelines[0], added[0]];
  if (!timeline || !source) throw new Error('nothing to place');
  let made = 0;
  const clips = clipsFor({ timeline, source, fit: 'nearest', newId: () => `c${made++}` }, noTiming);
  await command({ type: 'placeClips', timelineId: 't', clips });
  await here.ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [source.id] });
  await here.ask(`/projects/${project}/jobs`, { kind: 'render', timelineId: 't' });
  await here.settled(project);
  await command({ type: 'renameTimeline', timelineId: 't', name: 'Renamed' });
  await here.ask(`/projects/${project}/undo`, {});
  before = await here.ask<ProjectState>(`/projects/${project}`);
}, 120_000);
afterAll(() => Promise.all([here.remove(), there.remove()]));

async function exported(media: 'yes' | 'no'): Promise<Buffer> {
  const reply = await fetch(`${here.url}/api/projects/${project}/file?media=${media}`);
  expect(reply.headers.get('content-disposition')).toContain('Ice-out.thawline.zip');
  return Buffer.from(await reply.arrayBuffer());
}

async function imported(
  zip: Buffer,
  server = there,
): Promise<{ status: number; body: ImportedReply & { code: string; message: string } }> {
  const init = { method: 'POST', body: new Uint8Array(zip), headers: { 'content-type': 'application/zip' } };
  const reply = await fetch(`${server.url}/api/projects/import`, init);
  return { status: reply.status, body: (await reply.json()) as ImportedReply & { code: string; message: string } };
}

/** The entries of a zip, by name. */
async function entriesOf(zip: Buffer): Promise<Map<string, Buffer>> {
  const file = await fromBufferPromise(zip, { lazyEntries: true });
  const found = new Map<string, Buffer>();
  for await (const entry of file.eachEntry() as AsyncIterable<Entry>) {
    const chunks: Buffer[] = [];
    for await (const chunk of await file.openReadStreamPromise(entry)) chunks.push(chunk as Buffer);
    found.set(entry.fileName, Buffer.concat(chunks));
  }
  return found;
}

async function zipped(entries: Iterable<readonly [string, Buffer]>): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, bytes] of entries) zip.addBuffer(bytes, name);
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}

test('document, history, files and what was found come in on another machine', async () => {
  expect(await here.ask(`/projects/${project}/file/losses?media=yes`)).toEqual({ losses: [] });
  const { status, body } = await imported(await exported('yes'));
  expect([status, body.notes, body.name]).toEqual([200, [], 'Ice-out']);
  await there.settled(body.id);
  const state = await there.ask<ProjectState>(`/projects/${body.id}`);
  const mediaId = state.document.sources[0]?.mediaId ?? '';
  const same = JSON.parse(JSON.stringify(before.document).replaceAll(before.document.sources[0]?.mediaId ?? '-', mediaId));
  expect(state.document).toEqual(same);
  expect(state).toMatchObject({ version: before.version, undoLabel: before.undoLabel, redoLabel: before.redoLabel });
  expect((await fetch(`${there.url}/api/media/${mediaId}/pictures/20`)).status).toBe(200);
  expect(await there.ask<CheckSummary[]>(`/projects/${body.id}/checks`)).toHaveLength(1);
  const [receipt] = await there.ask<ReceiptReply[]>(`/projects/${body.id}/receipts`);
  expect(receipt).toMatchObject({ differs: 0, disk: 'missing' });
  await there.ask(`/projects/${body.id}/redo`, {});
  expect((await there.ask<ProjectState>(`/projects/${body.id}`)).document.timelines[0]?.name).toBe('Renamed');
  for (let i = 0; i < 4; i++) await there.ask(`/projects/${body.id}/undo`, {});
  expect((await there.ask<ProjectState>(`/projects/${body.id}`)).document).toMatchObject({ sources: [], timelines: [] });
  // Back on the machine that it came from it shares the files that are there.
  const media = readdirSync(join(here.data, 'media')).length;
  expect((await imported(await exported('yes'), here)).status).toBe(200);
  expect(readdirSync(join(here.data, 'media'))).toHaveLength(media);
});

test('without its files it says so before and after', async () => {
  const { losses } = await here.ask<{ losses: string[] }>(`/projects/${project}/file/losses?media=no`);
  expect(losses).toEqual([expect.stringContaining('one source')]);
  const { body } = await imported(await exported('no'));
  expect(body.notes).toEqual([expect.stringContaining('The files of one source are not in it')]);
  expect(await there.ask(`/projects/${body.id}/files`)).toMatchObject([{ state: 'missing' }]);
});

test('a hostile or damaged file is refused with what is wrong, and nothing of it stays', async () => {
  const whole = await exported('yes');
  const entries = await entriesOf(whole);
  const [media = ''] = [...entries.keys()].filter((name) => name.startsWith('media/'));
  const withPart = (name: string, change: (value: never) => unknown) =>
    zipped(
      [...entries].map(([n, bytes]) => [
        n,
        n === name ? Buffer.from(JSON.stringify(change(JSON.parse(bytes.toString()) as never))) : bytes,
      ]),
    );
  const more = (name: string, bytes: Buffer) => zipped([...entries, [name, bytes]]);
  const less = (name: string) => zipped([...entries].filter(([n]) => n !== name));
  // A zip's own writer refuses such names: they are put in by hand, in the same length.
  const swapped = Buffer.from(whole.toString('latin1').replaceAll(media, `../../../${'x'.repeat(media.length - 9)}`), 'latin1');
  const cases: [string, Buffer, RegExp][] = [
    ['no zip', Buffer.from('hello '.repeat(100)), /not a Thawline project file/],
    ['cut off', whole.subarray(0, whole.length / 2), /not a Thawline project file/],
    ['a path that leads out', swapped, /not a Thawline project file/],
    ['something else in it', await more('run.sh', Buffer.from('x')), /"run.sh" has no place in it/],
    ['another zip', await zipped([['a.txt', Buffer.from('x')]]), /has no place in it/],
    ['no document', await less('project.json'), /project.json/],
    [
      'a document that is none',
      await withPart('project.json', (p: object) => ({ ...p, document: { name: 'x' } })),
      /the project is not as expected/,
    ],
    ['a newer format', await withPart('thawline.json', (m: object) => ({ ...m, format: 99 })), /made by a newer Thawline/],
    [
      'a file name that leads out',
      await withPart('media.json', (m: object[]) => m.map((x) => ({ ...x, fileName: '../x' }))),
      /media.json is not as expected/,
    ],
    ['a file that is missing', await less(media), /the file of floes.mp4 is missing/],
  ];
  const stood = {
    media: readdirSync(join(there.data, 'media')).sort(),
    projects: (await there.ask<unknown[]>('/projects')).length,
  };
  for (const [name, zip, message] of cases) {
    const { status, body } = await imported(zip);
    expect([name, status, body.code]).toEqual([name, 422, 'not-a-project']);
    expect(body.message).toMatch(message);
  }
  expect(readdirSync(join(there.data, 'media')).sort()).toEqual(stood.media);
  expect(readdirSync(join(there.data, 'incoming'))).toEqual([]);
  expect(await there.ask<unknown[]>('/projects')).toHaveLength(stood.projects);
});

test('paths of another machine are followed nowhere, and results or a history that do not hold together are left out and told', async () => {
  const entries = await entriesOf(await exported('yes'));
  const part = (name: string, value: unknown): [string, Buffer] => [name, Buffer.from(JSON.stringify(value))];
  const jobs = JSON.parse(entries.get('jobs.json')?.toString() ?? '[]') as { kind: string; result: Record<string, unknown> }[];
  for (const job of jobs) {
    if (job.kind === 'render') job.result.paths = ['/etc/passwd'];
    if (job.kind === 'check') job.result.verdict = 'all well';
  }
  const history = JSON.parse(entries.get('history.json')?.toString() ?? '[]') as { backward: unknown[] }[];
  for (const step of history) step.backward = [{ op: 'replace', path: ['sources', 9, 'name'], value: 1 }];
  const zip = await zipped([...new Map([...entries, part('jobs.json', jobs), part('history.json', history)])]);
  const { status, body } = await imported(zip);
  expect(status).toBe(200);
  expect(body.notes).toEqual([expect.stringContaining('history'), expect.stringContaining('earlier result')]);
  const [receipt] = await there.ask<ReceiptReply[]>(`/projects/${body.id}/receipts`);
  expect(receipt?.disk).toBe('missing');
  expect((await fetch(`${there.url}/api/jobs/${receipt?.jobId}/file`)).status).toBe(409);
  expect(await there.ask(`/projects/${body.id}/checks`)).toEqual([]);
  expect(await there.refused(`/projects/${body.id}/undo`, {})).toMatchObject({ code: 'nothing-to-undo' });
});

test('the shell lists, writes and takes projects in', async () => {
  const bin = new URL('../../cli/bin/thawline.mjs', import.meta.url).pathname;
  const thawline = async (...args: string[]) => (await promisify(execFile)(process.execPath, [bin, ...args])).stdout;
  expect(await thawline('projects', '--server', here.url)).toContain(`${project}  Ice-out: 1 sources, 1 timelines`);
  const file = join(here.folder, 'out.thawline.zip');
  await thawline('export', project, file, '--media', '--server', here.url);
  expect(await thawline('import', file, '--server', there.url)).toMatch(/^[0-9a-f]{16} {2}Ice-out\n$/);
  await expect(thawline('export', project, file, '--server', here.url)).rejects.toMatchObject({
    code: 1,
    stderr: expect.stringContaining('is there already'),
  });
  await expect(thawline('projects', '--server', 'http://127.0.0.1:1')).rejects.toMatchObject({
    stderr: expect.stringContaining('No server answers'),
  });
});
