import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyProject } from '@thawline/project';
import BetterSqlite3 from 'better-sqlite3';
import { BACKUPS_KEPT, backupsFolder, listBackups, makeBackup } from './backups.js';
import { takeFolder } from './folderLock.js';
import { openDatabase } from './opening.js';
import { Store } from './store.js';

let root = '';
let folder = '';
let path = '';
beforeEach(async () => {
  root = mkdtempSync(join(tmpdir(), 'thawline-opening-'));
  folder = join(root, 'data');
  path = join(folder, 'thawline.sqlite');
  mkdirSync(folder);
  const database = await openDatabase(folder);
  await new Store(database).createProject('p', emptyProject('x'.repeat(200_000)), 'then');
  await database.close();
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

/** The sentence that opening ends with. */
async function refusal(options = {}): Promise<string> {
  return openDatabase(folder, options).then(
    async (database) => {
      await database.close();
      return 'opened';
    },
    (error: Error) => error.message,
  );
}

describe('a database that is not as it should be is refused with a sentence, and left as it is', () => {
  test.each<[string, RegExp, () => void]>([
    [
      'empty',
      /is empty.*npx thawline restore/,
      () => {
        truncateSync(path, 0);
        mkdirSync(join(folder, 'renders', 'x'), { recursive: true });
      },
    ],
    ['cut off', /was cut off.*npx thawline restore/, () => truncateSync(path, 40_960)],
    ['cut within a page', /was cut off.*npx thawline restore/, () => truncateSync(path, statSync(path).size - 100)],
    ['no database', /is not a database.*npx thawline restore/, () => writeFileSync(path, 'hello '.repeat(100))],
    [
      "another program's",
      /of another program/,
      () => {
        rmSync(path);
        new BetterSqlite3(path).exec('CREATE TABLE other (a)').close();
      },
    ],
    [
      'newer',
      /written by a newer Thawline \(Later1900000000000\)/,
      () => {
        new BetterSqlite3(path).exec(`INSERT INTO migrations (timestamp, name) VALUES (1, 'Later1900000000000')`).close();
      },
    ],
    [
      'a folder',
      /is not a file/,
      () => {
        rmSync(path);
        mkdirSync(path);
      },
    ],
  ])('%s', async (_name, sentence, hurt) => {
    hurt();
    const before = statSync(path).isFile() ? readFileSync(path) : null;
    expect(await refusal()).toMatch(sentence);
    expect(await refusal()).toMatch(sentence);
    if (before) expect(readFileSync(path).equals(before)).toBe(true);
  });

  test('damaged within, found where the last end was not clean', async () => {
    const bytes = readFileSync(path);
    bytes.fill(0xa5, 4096, 3 * 4096);
    writeFileSync(path, bytes);
    expect(await refusal({ check: true })).toMatch(/is damaged.*npx thawline restore/);
  });

  test('missing, though there are files that it knew', async () => {
    rmSync(path);
    mkdirSync(join(folder, 'media', '0123456789abcdef'), { recursive: true });
    expect(await refusal()).toMatch(/is missing, though there are files that it knew/);
    expect(existsSync(path)).toBe(false);
  });

  test('missing, though there are backups of it', async () => {
    await makeBackup(folder, 'by-hand');
    rmSync(path);
    expect(await refusal()).toMatch(/is missing, though there are backups.*npx thawline restore/);
    expect(existsSync(path)).toBe(false);
  });
});

test('a first start that was ended before it made anything is begun again', async () => {
  truncateSync(path, 0);
  expect(await refusal()).toBe('opened');
});

describe('backups', () => {
  test('one holds everything, opens by itself, and only the newest ten are kept', async () => {
    for (let day = 1; day <= BACKUPS_KEPT + 3; day++) await makeBackup(folder, 'daily', new Date(Date.UTC(2026, 10, day, 9, 30)));
    const kept = await listBackups(folder);
    expect(kept).toHaveLength(BACKUPS_KEPT);
    expect(kept[0]).toMatchObject({ at: '2026-11-13T09:30:00.000Z', reason: 'daily' });
    const other = join(root, 'other');
    mkdirSync(other);
    copyFileSync(join(backupsFolder(folder), kept[0]?.name ?? ''), join(other, 'thawline.sqlite'));
    const database = await openDatabase(other);
    expect((await new Store(database).projects()).map((p) => p.id)).toEqual(['p']);
    await database.close();
  });

  test('one is made before an update changes anything', async () => {
    new BetterSqlite3(path)
      .exec(`DELETE FROM migrations WHERE name = 'Kept1764460000000'`)
      .exec('DROP TABLE request; ALTER TABLE revision DROP COLUMN client')
      .exec('ALTER TABLE project DROP COLUMN format; ALTER TABLE project DROP COLUMN deletedAt')
      .close();
    expect(await refusal()).toBe('opened');
    const [backup] = await listBackups(folder);
    expect(backup?.reason).toBe('before-update');
    const raw = new BetterSqlite3(join(backupsFolder(folder), backup?.name ?? ''), { readonly: true });
    expect(raw.prepare(`SELECT name FROM pragma_table_info('project')`).pluck().all()).not.toContain('format');
    raw.close();
    expect(await refusal()).toBe('opened');
    expect(await listBackups(folder)).toHaveLength(1);
  });

  test('one that finds no room leaves nothing that looks like a backup', async () => {
    rmSync(path);
    await expect(makeBackup(folder, 'daily')).rejects.toMatchObject({ code: 'SQLITE_CANTOPEN' });
    expect(await listBackups(folder)).toEqual([]);
  });
});

test('a data folder is one server’s alone, nobody else looks into it, and an end from outside is remembered', async () => {
  const lock = await takeFolder(folder);
  expect(lock.lastEndClean).toBe(true);
  expect(statSync(folder).mode & 0o777).toBe(0o700);
  await expect(takeFolder(folder)).rejects.toThrow(/Another Thawline works with/);
  await lock.release({ clean: false });
  const second = await takeFolder(folder);
  expect(second.lastEndClean).toBe(false);
  await second.release({ clean: true });
  const third = await takeFolder(folder);
  expect(third.lastEndClean).toBe(true);
  await third.release({ clean: true });
});
