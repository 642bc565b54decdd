import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyProject } from '@thawline/project';
import { makeBackup } from './backups.js';
import { takeFolder } from './folderLock.js';
import { OpeningError, openDatabase } from './opening.js';
import { backupsOf, restoreBackup } from './restore.js';
import { Store } from './store.js';

let folder = '';
let backup = '';
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'thawline-restore-'));
  await inStore(async (store) => {
    await store.createProject('p', emptyProject('First'), '2026-01-01');
    await store.createProject('q', emptyProject('Second'), '2026-01-02');
  });
  backup = (await makeBackup(folder, 'by-hand', new Date(Date.UTC(2026, 10, 28, 9, 30)))).name;
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

async function inStore<T>(work: (store: Store) => Promise<T>): Promise<T> {
  const database = await openDatabase(folder);
  try {
    return await work(new Store(database));
  } finally {
    await database.close();
  }
}
const names = (): Promise<string[]> => inStore(async (store) => (await store.projects()).map((p) => p.name).sort());

test('backups are listed with what they hold', async () => {
  expect(await backupsOf(folder)).toMatchObject([{ name: backup, projects: [{ name: 'Second' }, { name: 'First' }] }]);
});

test('a project comes back beside the present ones, which stay as they are', async () => {
  await inStore((store) => store.createProject('r', emptyProject('Third'), 'later'));
  const restored = await restoreBackup(folder, backup, 'p');
  expect(restored).toMatchObject({ setAside: null, projects: [{ name: 'First (backup of 2026-11-28 09:30)' }] });
  expect(await names()).toEqual(['First', 'First (backup of 2026-11-28 09:30)', 'Second', 'Third']);
});

test.each<[string, () => void]>([
  ['is missing', () => rmSync(join(folder, 'thawline.sqlite'))],
  ['holds nothing', () => writeFileSync(join(folder, 'thawline.sqlite'), '')],
  ['is something else', () => writeFileSync(join(folder, 'thawline.sqlite'), 'hello '.repeat(1000))],
])('where the database %s, the backup takes its place and what was there is kept', async (_name, hurt) => {
  hurt();
  const path = join(folder, 'thawline.sqlite');
  const before = existsSync(path) ? readFileSync(path) : null;
  await expect(openDatabase(folder)).rejects.toThrow(OpeningError);
  const { setAside } = await restoreBackup(folder, backup, null);
  if (before) expect(readFileSync(setAside ?? '').equals(before)).toBe(true);
  expect(await names()).toEqual(['First', 'Second']);
  expect(readdirSync(folder).filter((n) => n.includes('partial'))).toEqual([]);
});

test('nothing is done while a server works with the folder, or where there is no such backup', async () => {
  await expect(restoreBackup(folder, 'none.sqlite', null)).rejects.toThrow(/There is no backup none.sqlite/);
  const lock = await takeFolder(folder);
  await expect(restoreBackup(folder, backup, null)).rejects.toThrow(/Another Thawline works with/);
  await lock.release({ clean: true });
  expect(await names()).toEqual(['First', 'Second']);
});
