import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unfinishedPath } from '../files/atomicWrite.js';
import { place } from './publish.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-output-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function finished(ending: string): { path: string; ending: string } {
  const path = unfinishedPath(join(folder, `cut${ending}`));
  if (ending === '') {
    mkdirSync(path, { mode: 0o700 });
    writeFileSync(join(path, '00000000.png'), 'x', { mode: 0o600 });
  } else writeFileSync(path, 'x', { mode: 0o600 });
  return { path, ending };
}
const mode = (path: string): number => statSync(path).mode & 0o777;

test.each([
  [0o755, 0o644, 0o755],
  [0o700, 0o600, 0o700],
  // Whoever may look into the folder may read; only the owner writes.
  [0o777, 0o644, 0o755],
  [0o750, 0o640, 0o750],
])('in a folder of mode %o a file is of mode %o, a folder of pictures of %o', async (folderMode, file, pictures) => {
  chmodSync(folder, folderMode);
  const [film = ''] = await place(join(folder, 'cut'), [finished('.mp4')]);
  const [series = ''] = await place(join(folder, 'series'), [finished('')]);
  expect([mode(film), mode(series), mode(join(series, '00000000.png'))]).toEqual([file, pictures, file]);
});

test('a name that is taken gets a number, for all that belongs together, and nothing is written over', async () => {
  writeFileSync(join(folder, 'reel.wav'), 'other');
  const names = await place(join(folder, 'reel'), [finished('.y4m'), finished('.wav')]);
  expect(names.map((name) => name.slice(folder.length + 1))).toEqual(['reel (2).y4m', 'reel (2).wav']);
  expect(readFileSync(join(folder, 'reel.wav'), 'utf8')).toBe('other');
  expect(readdirSync(folder).filter((name) => name.includes('partial'))).toEqual([]);
});
