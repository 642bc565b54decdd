import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyProject } from '@thawline/project';
import BetterSqlite3 from 'better-sqlite3';
import { z } from 'zod';
import type { Database } from './database.js';
import { JobRow, ProjectRow } from './entities.js';
import { openDatabase } from './opening.js';
import { endedAs, openAs, Store } from './store.js';
import type { StoredMedia } from './stored.js';
import { StoreError } from './storeError.js';

let folder = '';
let database: Database;
let store: Store;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'thawline-database-'));
  database = await openDatabase(folder);
  store = new Store(database);
});
afterEach(async () => {
  await database.close();
  rmSync(folder, { recursive: true, force: true });
});

/** What a program of its own reads in the file: nothing of an open transaction. */
function onDisk(): unknown {
  const raw = new BetterSqlite3(join(folder, 'thawline.sqlite'), { readonly: true });
  try {
    const all = (table: string): unknown[] => raw.prepare(`SELECT * FROM "${table}" ORDER BY rowid`).all();
    return Object.fromEntries(['project', 'revision', 'request', 'media', 'job', 'setting'].map((table) => [table, all(table)]));
  } finally {
    raw.close();
  }
}

const rename = (id: string, name: string, requestId: string | null = null) =>
  store.changeProject(id, { at: 'now', requestId }, async ({ document }, revisions) => {
    const last = await revisions.newest(false);
    const difference = { forward: '[]', backward: '[]', batch: null, client: null };
    await revisions.add({ number: (last?.number ?? 0) + 1, label: name, command: '{}', ...difference });
    return { document: { ...document, name }, patches: [{ op: 'replace', path: ['name'], value: name }] };
  });

/** Makes COMMIT itself fail, which leaves the transaction open: a row that points at no project, looked at when it is committed. */
const commitThatFails = () =>
  database.write(async (manager) => {
    await manager.query('PRAGMA defer_foreign_keys = ON');
    await manager.getRepository(ProjectRow).update({ id: 'p' }, { name: 'never seen' });
    await manager.query(`INSERT INTO "request" ("projectId", "id", "version", "patches") VALUES ('nobody', 'r', 1, '[]')`);
  });

describe('a transaction that fails', () => {
  test.each([1, 2, 3])('at its COMMIT, %d times: nothing of it is stored, and what follows is', async (times) => {
    await store.createProject('p', emptyProject('First'), 'then');
    const before = onDisk();
    for (let i = 0; i < times; i++)
      await expect(commitThatFails()).rejects.toMatchObject({ code: 'SQLITE_CONSTRAINT_FOREIGNKEY' });
    expect(onDisk()).toEqual(before);
    for (let i = 0; i < 50; i++) {
      await rename('p', `Name ${i}`);
      expect((await store.project('p'))?.document.name).toBe(`Name ${i}`);
    }
    expect(onDisk()).toMatchObject({ project: [{ name: 'Name 49', version: 50 }], request: [] });
    await database.close();
    database = await openDatabase(folder);
    expect((await new Store(database).project('p'))?.version).toBe(50);
  });

  test('leaves nothing to those that read meanwhile, nor to those that wait for their turn', async () => {
    await store.createProject('p', emptyProject('First'), 'then');
    let seen = '';
    const failing = database.write(async (manager) => {
      await manager.getRepository(ProjectRow).update({ id: 'p' }, { name: 'half done' });
      seen = (await store.projects())[0]?.name ?? '';
      throw new Error('no');
    });
    const next = rename('p', 'Second');
    await expect(failing).rejects.toThrow('no');
    expect(seen).toBe('First');
    expect(await next).toMatchObject({ version: 1 });
  });

  test('while another program holds the lock it waits without holding up anybody', async () => {
    await store.createProject('p', emptyProject('First'), 'then');
    const other = new BetterSqlite3(join(folder, 'thawline.sqlite'));
    other.exec('BEGIN IMMEDIATE');
    const waiting = rename('p', 'Second');
    let settled = false;
    const done = waiting.finally(() => {
      settled = true;
    });
    done.catch(() => undefined);
    // The lock is held until others had their turn sixteen times: were they held up by the wait, it would end in vain before that.
    for (let turns = 0; turns < 16; turns++) await new Promise((resolve) => setTimeout(resolve, 5));
    expect(settled).toBe(false);
    other.exec('ROLLBACK');
    other.close();
    expect(await waiting).toMatchObject({ version: 1 });
  });
});

const text = (bytes: number): string => 'x'.repeat(bytes);
const PROBE: StoredMedia['probe'] = {
  kind: 'still',
  pictures: 1,
  stored: null,
  measured: null,
  variable: false,
  timing: { kind: 'still' },
  seconds: null,
  firstSeconds: 0,
  width: 320,
  height: 180,
  sampleAspect: 1,
  codec: 'png',
  pixelFormat: 'rgb24',
  container: 'png_pipe',
  fields: 'progressive',
  flagged: true,
  sound: null,
  timecode: null,
};
const media = (id: string, bytes: number): StoredMedia => ({
  id,
  name: text(bytes),
  fileName: 'original.mp4',
  bytes: 1,
  path: null,
  modifiedMs: null,
  fingerprint: null,
  series: null,
  probe: { ...PROBE },
});
const job = (id: string, bytes: number) => ({
  id,
  projectId: 'p',
  kind: 'check' as const,
  state: 'queued' as const,
  label: 'l',
  subject: 's',
  params: text(bytes),
  done: 0,
  total: null,
  phase: 'waiting',
  result: null,
  errorCode: null,
  errorMessage: null,
  createdAt: 'now',
  startedAt: null,
  endedAt: null,
});

test('what is stored of a file comes back whole; a row that cannot be read counts as no file', async () => {
  await store.addMedia(media('whole', 10), 'then');
  await store.addMedia({ ...media('broken', 10), probe: { ...PROBE, pictures: -1 } }, 'then');
  await store.addMedia({ ...media('series', 10), series: { ending: 'png', names: ['a.png', 'b.png'] } }, 'then');
  expect(await store.media('whole')).toMatchObject({ probe: PROBE, series: null });
  expect(await store.media('broken')).toBeNull();
  expect((await store.mediaOf(['whole', 'broken', 'series'])).map((m) => m.series?.names.length ?? 0).toSorted()).toEqual([0, 2]);
});

test('a setting is read by its shape, and another thing under its name is an error instead of a wrong value', async () => {
  const number = { name: 'most', schema: z.number() };
  expect(await store.setting(number)).toBeNull();
  expect(await store.changeSetting(number, (was) => (was ?? 1) + 1)).toBe(2);
  expect(await store.changeSetting(number, (was) => (was ?? 1) + 1)).toBe(3);
  await expect(store.setting({ ...number, schema: z.array(z.string()) })).rejects.toThrow();
  expect(await store.setting(number)).toBe(3);
});

/** Every kind of write, each of several pages, so that any of its statements may be the one that finds no room. */
const WRITES: [string, (round: number) => Promise<unknown>][] = [
  ['createProject', (n) => store.createProject(`new${n}`, emptyProject(text(20_000)), 'now')],
  ['a command', (n) => rename('p', text(20_000 + n))],
  ['a command with an id', (n) => rename('p', text(20_000 + n), `request-${n}`)],
  ['addMedia', (n) => store.addMedia(media(`n${n}`, 20_000), 'now')],
  ['moveMedia', (n) => store.moveMedia('m', { path: text(20_000 + n), modifiedMs: n })],
  ['addJob', (n) => store.addJob(job(`n${n}`, 20_000))],
  ['updateJob', (n) => store.updateJob('j', endedAs({ state: 'done', result: text(40_000 + n) }, 'now'))],
  ['changeSetting', (n) => store.changeSetting({ name: 's', schema: z.string() }, () => text(20_000 + n))],
];

describe('a disk that is full', () => {
  test.each(WRITES)('at every place of %s: all of it is stored or nothing, and later it is', async (_name, write) => {
    await store.createProject('p', emptyProject('First'), 'then');
    await store.addMedia(media('m', 10), 'then');
    await store.addJob(job('j', 10));
    let refused = 0;
    let stored = 0;
    for (let room = 0; room < 40 && stored < 2; room++) {
      for (let times = 1; times <= 3; times++) {
        const before = onDisk();
        // Not one page more than so many: what SQLite finds on a disk without room, at whichever statement it needs the next one.
        const pages = Number(database.pragma('page_count')) + room;
        database.pragma(`max_page_count = ${pages}`);
        const round = room * 10 + times;
        const error = await write(round).then(
          () => null,
          (failed: unknown) => failed,
        );
        if (error === null) {
          stored++;
          expect(onDisk()).not.toEqual(before);
          break;
        }
        refused++;
        expect(error).toBeInstanceOf(StoreError);
        expect(error).toMatchObject({ code: 'disk-full' });
        expect(onDisk()).toEqual(before);
      }
      database.pragma('max_page_count = 1000000');
    }
    expect(refused).toBeGreaterThan(2);
    expect(stored).toBe(2);
    await write(999);
    const now = onDisk();
    await database.close();
    database = await openDatabase(folder);
    expect(onDisk()).toEqual(now);
  });
});

test('a request that is sent again is done once and answered the same', async () => {
  await store.createProject('p', emptyProject('First'), 'then');
  const first = await rename('p', 'Second', 'request-1');
  await rename('p', 'Third', 'request-2');
  const again = await rename('p', 'Second', 'request-1');
  expect(first).toMatchObject({ version: 1, repeated: false });
  expect(again).toEqual({ ...first, repeated: true });
  expect((await store.project('p'))?.document.name).toBe('Third');
});

test('a project whose row cannot be read is listed as damaged, and the others are as they were', async () => {
  await store.createProject('p', emptyProject('First'), 'then');
  await store.createProject('q', emptyProject('Second'), 'until');
  for (const hurt of ['', '{"name":"Fir', '[]', '{"sources":[]}']) {
    await database.write((m) => m.getRepository(ProjectRow).update({ id: 'p' }, { document: hurt }));
    const listed = await store.projects();
    expect(listed.map((p) => [p.name, p.document === null])).toEqual([
      ['Second', false],
      ['First', true],
    ]);
    await expect(store.project('p')).rejects.toMatchObject({ id: 'p', projectName: 'First' });
    await expect(rename('p', 'x')).rejects.toMatchObject({ id: 'p' });
    expect((await store.project('q'))?.document.name).toBe('Second');
  }
});

test('a row says of a job what its state has: a result when it is done, an error when it failed', async () => {
  await store.createProject('p', emptyProject('First'), 'then');
  await store.addJob(job('j', 10));
  await store.updateJob('j', endedAs({ state: 'done', result: '{}' }, 'later'));
  expect(await store.job('j')).toMatchObject({ state: 'done', result: '{}', errorCode: null, endedAt: 'later' });
  await store.updateJob('j', openAs('queued'));
  expect(await store.job('j')).toMatchObject({ state: 'queued', result: null, endedAt: null });
  // A row that another hand wrote: done, and nothing found. It can be started again, and no list of results trips over it.
  await database.write((m) => m.getRepository(JobRow).update({ id: 'j' }, { state: 'done', result: null }));
  expect(await store.job('j')).toMatchObject({ state: 'failed', errorMessage: expect.stringContaining('Start it again') });
  expect(await store.doneJobs({ projectId: 'p', kind: 'render' })).toEqual([]);
  expect(await store.newestDone('render', 'm')).toBeNull();
  // A list does not read results: it says so once the row does.
  await store.failLostJobs();
  expect(await store.listedJobs('p', ['failed'])).toMatchObject([{ id: 'j', error: { code: 'crashed' } }]);
  expect(await store.listedJobs('p', ['done'])).toEqual([]);
});
