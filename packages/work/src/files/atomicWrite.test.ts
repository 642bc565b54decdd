import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { atomicWrite, atomicWriteFile, boundedName, removeUnfinished, unfinishedPath } from './atomicWrite.js';

let folder = '';
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'thawline-atomic-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

test('a file appears under its name when it is whole, and replaces the one before', async () => {
  const path = join(folder, 'a.txt');
  await atomicWriteFile(path, 'one');
  await atomicWrite(path, async (temporary) => {
    await writeFile(temporary, 'tw');
    expect(await readFile(path, 'utf8')).toBe('one');
    await writeFile(temporary, 'two');
  });
  expect(await readFile(path, 'utf8')).toBe('two');
  expect(await readdir(folder)).toEqual(['a.txt']);
});

test('a writer that fails leaves the old file and nothing else', async () => {
  const path = join(folder, 'a.txt');
  await atomicWriteFile(path, 'one');
  const failing = atomicWrite(path, async (temporary) => {
    await writeFile(temporary, 'half');
    throw new Error('no more room');
  });
  await expect(failing).rejects.toThrow('no more room');
  expect(await readFile(path, 'utf8')).toBe('one');
  expect(await readdir(folder)).toEqual(['a.txt']);
});

test('two writers of one path at once never meet: one of them wins, whole', async () => {
  const path = join(folder, 'a.txt');
  const texts = Array.from({ length: 20 }, (_, i) => String(i).repeat(50_000));
  await Promise.all(texts.map((text) => atomicWriteFile(path, text)));
  expect(texts).toContain(await readFile(path, 'utf8'));
  expect(await readdir(folder)).toEqual(['a.txt']);
});

test('a name as long as names may be can be written, whatever its alphabet', async () => {
  for (const name of ['x'.repeat(255), 'é'.repeat(127), '😀'.repeat(63)]) {
    await atomicWriteFile(join(folder, name), 'x');
    expect(Buffer.byteLength(basename(unfinishedPath(join(folder, name))))).toBeLessThanOrEqual(255);
  }
  expect(boundedName('aé😀', 3)).toBe('aé');
  expect(boundedName('aé😀', 2)).toBe('a');
});

test('what ended processes left is removed, finished files are not', async () => {
  await writeFile(unfinishedPath(join(folder, 'a.mp4')), 'half');
  await writeFile(join(folder, 'b.mp4'), 'whole');
  await removeUnfinished(folder);
  expect(await readdir(folder)).toEqual(['b.mp4']);
  await removeUnfinished(join(folder, 'missing'));
});
