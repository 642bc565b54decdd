/**
 * npm run bench -- commits: what it costs that an acknowledged change is on the disk. Commands one after the other over HTTP, with SQLite
 * syncing at every commit (FULL, as it is) and only at checkpoints (NORMAL, as it was), in turn; and a plain write and sync of a page
 * beside it, for what this disk takes. Medians of five rounds of 200.
 */
import { closeSync, fsyncSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { served } from '../scripts/served.mjs';

const BetterSqlite3 = createRequire(new URL('../apps/server/package.json', import.meta.url))('better-sqlite3');
const [ROUNDS, COMMANDS] = [5, 200];
const folder = mkdtempSync(join(tmpdir(), 'thawline-commits-'));
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const page = Buffer.alloc(4096);

function commits(level) {
  const raw = new BetterSqlite3(join(folder, `${level}.sqlite`));
  raw.pragma('journal_mode = WAL');
  raw.pragma(`synchronous = ${level}`);
  raw.exec('CREATE TABLE IF NOT EXISTS t (a)');
  const add = raw.prepare('INSERT INTO t VALUES (?)');
  const began = performance.now();
  for (let i = 0; i < COMMANDS; i++) add.run(page);
  const each = (performance.now() - began) / COMMANDS;
  raw.close();
  return each;
}

function syncs() {
  const file = openSync(join(folder, 'plain'), 'w');
  const began = performance.now();
  for (let i = 0; i < COMMANDS; i++) {
    writeSync(file, page);
    fsyncSync(file);
  }
  const each = (performance.now() - began) / COMMANDS;
  closeSync(file);
  return each;
}

const server = await served({ THAWLINE_DATA: join(folder, 'data') });
try {
  const { id } = await server.ask('/projects', { name: 'Commits' });
  const command = async (n) => {
    const began = performance.now();
    await server.ask(`/projects/${id}/commands`, {
      command: { type: 'renameProject', name: `Name ${n}` },
      requestId: `request-${n}`,
    });
    return performance.now() - began;
  };
  const [full, normal, plain, asked] = [[], [], [], []];
  for (let round = 0; round < ROUNDS; round++) {
    full.push(commits('FULL'));
    normal.push(commits('NORMAL'));
    plain.push(syncs());
    const times = [];
    for (let i = 0; i < COMMANDS; i++) times.push(await command(`${round}-${i}`));
    asked.push(median(times));
  }
  const say = (name, values) => process.stdout.write(`${name}: ${median(values).toFixed(2)} ms\n`);
  say('a page written and synced', plain);
  say('a commit, synced (FULL)', full);
  say('a commit, not synced (NORMAL)', normal);
  say('a command over HTTP, stored and synced', asked);
} finally {
  server.kill('SIGTERM');
  await server.ended;
  rmSync(folder, { recursive: true, force: true });
}
