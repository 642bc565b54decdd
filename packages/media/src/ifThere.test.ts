import { mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { namesIfThere, readIfThere, statIfThere } from './ifThere.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-there-'));
const at = (...names: string[]): string => join(folder, ...names);
writeFileSync(at('a'), 'ice');
symlinkSync(at('circle'), at('circle'));
afterAll(() => rmSync(folder, { recursive: true }));

test('what is there is told', async () => {
  expect((await statIfThere(at('a')))?.size).toBe(3);
  expect(String(await readIfThere(at('a')))).toBe('ice');
  expect((await namesIfThere(folder)).sort()).toEqual(['a', 'circle']);
});

test.each(['gone', 'a/below', 'circle'])('%s is not there', async (name) => {
  expect(await statIfThere(at(name))).toBeNull();
  expect(await readIfThere(at(name))).toBeNull();
  expect(await namesIfThere(at(name, 'more'))).toEqual([]);
});

test('other trouble is no proof that nothing is there', async () => {
  await expect(readIfThere(folder)).rejects.toMatchObject({ code: 'EISDIR' });
  await expect(statIfThere(at('x'.repeat(300)))).rejects.toMatchObject({ code: 'ENAMETOOLONG' });
});
