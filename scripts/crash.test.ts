import { spawnSync } from 'node:child_process';
import { join } from 'node:path';

/** The short form of the crash bench: a few kills and faults, with a seed of its own each time, which it prints. */
test('kills and a disk that takes nothing lose, double and leave behind nothing', () => {
  const root = join(import.meta.dirname, '..');
  const { status, stdout, stderr } = spawnSync(process.execPath, ['bench/crash.mjs', '5', '5'], { cwd: root, encoding: 'utf8' });
  expect(`${stdout}${stderr}`).toContain('0 acknowledged changes lost, 0 doubled, 0 orphans');
  expect(status).toBe(0);
}, 180_000);
