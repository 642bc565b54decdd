/**
 * npm run bench -- crash [KILLS [FAULTS [SEED]]]: commands, uploads, jobs, backups and copies run at once while the server (or one of its
 * FFmpegs) is killed at random moments, also while it starts and brings an old database up to date, and while its disk takes nothing (a full
 * disk and refused writes in turn). After each: nothing that was acknowledged is lost or done twice, no orphan is left after the next start,
 * and no file looks whole that is not.
 */
import { execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statfsSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { wavHead } from '../packages/core/dist/sound/index.js';

const BetterSqlite3 = createRequire(new URL('../apps/server/package.json', import.meta.url))('better-sqlite3');
const [kills = 200, faults = 200, seed = Date.now() % 1_000_000] = process.argv.slice(2).map(Number);
process.stdout.write(`seed ${seed}\n`);
let state = seed;
/** 0 to 1, by the seed. */
const random = () => {
  state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32;
  return state / 2 ** 32;
};
const below = (n) => Math.floor(random() * n);
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

const folder = mkdtempSync(join(tmpdir(), 'thawline-crash-'));
const data = join(folder, 'data');
mkdirSync(data);
/** A disk of its own, small enough to fill, where this machine lets us have one. */
const DISK_BYTES = 700_000_000;
let ownDisk = true;
try {
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${DISK_BYTES}`, 'tmpfs', data], { stdio: 'ignore' });
} catch {
  ownDisk = false;
  process.stdout.write('No disk of its own can be had here: refused writes stand for a full one, too.\n');
}

let server = null;
let url = '';
let up = false;

function start() {
  const child = spawn(process.execPath, ['apps/server/bundle/main.js'], {
    env: { ...process.env, PORT: '0', THAWLINE_DATA: data },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  child.said = '';
  child.stderr.on('data', (chunk) => {
    child.said = (child.said + chunk).slice(-4000);
  });
  child.ended = new Promise((resolve) => child.once('exit', resolve));
  server = child;
  return child;
}

async function startAndListen() {
  const child = start();
  url = await new Promise((resolve, reject) => {
    child.once('exit', () => reject(new Error(`the server does not start: ${child.said}`)));
    createInterface({ input: child.stdout }).on('line', (line) => {
      const found = /http:\/\/\S+/.exec(line);
      if (found) resolve(found[0]);
    });
  });
  up = true;
}

/** A reply; null where none came. */
async function ask(path, body, method = body ? 'POST' : 'GET') {
  try {
    const reply = await fetch(`${url}/api${path}`, {
      method,
      ...(body instanceof FormData
        ? { body }
        : body
          ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }
          : {}),
    });
    return { status: reply.status, body: await reply.json() };
  } catch {
    return null;
  }
}

/** What is known of each project: what was acknowledged, and what was asked and never answered. */
const projects = new Map();
const jobs = new Map();
const wrong = [];
const tally = { commands: 0, uploads: 0, jobs: 0, backups: 0, copies: 0, refused: 0, unanswered: 0, fivehundreds: 0 };
let made = 0;

function count(reply) {
  if (reply === null) tally.unanswered++;
  else if (reply.status >= 500) {
    tally.refused++;
    if (reply.status !== 507) {
      tally.fivehundreds++;
      wrong.push(`status ${reply.status}: ${JSON.stringify(reply.body)}`);
    }
  }
}

async function newProject() {
  const reply = await ask('/projects', { name: `Project ${made++}` });
  count(reply);
  if (reply?.status === 200) projects.set(reply.body.id, { timelines: new Set(), asked: new Map(), files: new Map() });
}

const addTimeline = (id) => ({
  type: 'addTimeline',
  timeline: { id, name: 'x'.repeat(1 + below(60)), rate: { num: 25, den: 1 }, width: 64, height: 64 },
});

async function command(project, known, id = `t${made++}`, requestId = `request-${id}`) {
  known.asked.set(id, requestId);
  const reply = await ask(`/projects/${project}/commands`, { command: addTimeline(id), requestId });
  count(reply);
  tally.commands++;
  if (reply === null) return;
  known.asked.delete(id);
  if (reply.status === 200) known.timelines.add(id);
}

/** A sound that no other is: half a second with a number in it. */
function wav(number) {
  const bytes = Buffer.alloc(8000 + below(60_000) * 2);
  bytes.writeUInt32LE(number, 4);
  return Buffer.concat([wavHead({ form: 's16', sampleRate: 8000, channels: 1, samples: bytes.length / 2 }), bytes]);
}

/** A file that was refused for these may be sent again later. */
const NOT_TAKEN = new Set(['disk-full', 'not-stored', 'killed']);

async function upload(project, known, name = `s${made++}`, bytes = wav(made)) {
  known.files.set(name, { bytes, acknowledged: known.files.get(name)?.acknowledged ?? false });
  const body = new FormData();
  body.append('file', new Blob([bytes]), `${name}.wav`);
  const reply = await ask(`/projects/${project}/sources`, body);
  count(reply);
  tally.uploads++;
  if (reply === null) return;
  const { added = [], refused = [] } = reply.body;
  const here = added.some((s) => s.name === name) || refused.some((r) => r.code === 'already-here');
  if (here) known.files.get(name).acknowledged = true;
  else if (reply.status !== 200 || refused.some((r) => NOT_TAKEN.has(r.code))) known.files.delete(name);
  else wrong.push(`${name} was refused: ${JSON.stringify(refused)}`);
}

async function startJob(project) {
  const stateNow = await ask(`/projects/${project}`);
  const source = stateNow?.body.document?.sources?.[0];
  if (!source) return;
  const reply = await ask(`/projects/${project}/jobs`, { kind: 'sound', sourceId: source.id });
  count(reply);
  tally.jobs++;
  if (reply?.status === 200) for (const job of reply.body) jobs.set(job.id, project);
}

async function something() {
  const ids = [...projects.keys()];
  const project = ids[below(ids.length)];
  const known = projects.get(project);
  const what = random();
  if (ids.length === 0 || (what < 0.03 && ids.length < 12)) return newProject();
  if (what < 0.72) return command(project, known);
  if (what < 0.88) return upload(project, known);
  if (what < 0.95) return startJob(project);
  if (what < 0.98) {
    tally.backups++;
    return count(await ask('/backups', {}));
  }
  tally.copies++;
  const reply = await ask(`/projects/${project}/copy`, { name: 'Copy' });
  count(reply);
  if (reply?.status === 200) count(await ask(`/projects/${reply.body.id}`, undefined, 'DELETE'));
}

/** Four at once until `until` says it is time. */
async function busy(until) {
  let over = false;
  const lines = [0, 1, 2, 3].map(async () => {
    while (!over && up) await something();
  });
  await until();
  over = true;
  await Promise.all(lines);
}

function pidsOfFFmpeg() {
  return readdirSync('/proc').filter((n) => {
    try {
      return (
        /^\d+$/.test(n) &&
        readFileSync(`/proc/${n}/cmdline`, 'utf8').startsWith('ff') &&
        readFileSync(`/proc/${n}/cmdline`, 'utf8').includes(data)
      );
    } catch {
      return false;
    }
  });
}

async function settled() {
  for (let waited = 0; waited < 1200; waited++) {
    let open = 0;
    for (const project of projects.keys()) {
      const reply = await ask(`/projects/${project}/jobs`);
      open += reply?.body.filter((j) => j.state === 'queued' || j.state === 'running').length ?? 1;
    }
    if (open === 0) return;
    await pause(50);
  }
  wrong.push('jobs do not come to their end');
}

/** All that was acknowledged is there, once; what was not answered is sent again and is there once, too. */
async function verify(when) {
  for (const [project, known] of projects) {
    for (const [id, requestId] of [...known.asked]) {
      await command(project, known, id, requestId);
      if (!known.timelines.has(id)) wrong.push(`${when}: ${id} was asked for again and not done`);
    }
    for (const [name, file] of [...known.files]) if (!file.acknowledged) await upload(project, known, name, file.bytes);
    const reply = await ask(`/projects/${project}`);
    if (reply?.status !== 200) {
      wrong.push(`${when}: project ${project} answers ${reply?.status}`);
      continue;
    }
    const { timelines, sources } = reply.body.document;
    const ids = timelines.map((t) => t.id);
    for (const id of known.timelines) if (!ids.includes(id)) wrong.push(`${when}: acknowledged ${id} is lost`);
    if (new Set(ids).size !== ids.length) wrong.push(`${when}: a change of ${project} was done twice`);
    if (ids.length !== known.timelines.size)
      wrong.push(`${when}: ${ids.length} timelines where ${known.timelines.size} were made`);
    const names = sources.map((s) => s.name);
    for (const [name, { acknowledged }] of known.files)
      if (acknowledged && names.filter((n) => n === name).length !== 1)
        wrong.push(`${when}: ${name} is there ${names.filter((n) => n === name).length} times`);
  }
}

/** Nothing is left over, and nothing looks whole that is not. The server was started anew and its jobs have ended. */
function lookAtDisk(when) {
  const raw = new BetterSqlite3(join(data, 'thawline.sqlite'), { readonly: true });
  const rows = raw.prepare('SELECT id, bytes, fileName FROM media').all();
  const texts = [
    ...raw.prepare('SELECT document AS t FROM project').pluck().all(),
    ...raw.prepare('SELECT forward || backward AS t FROM revision').pluck().all(),
    ...raw.prepare('SELECT params AS t FROM job').pluck().all(),
  ].join('\n');
  const [integrity] = raw.pragma('integrity_check');
  if (integrity.integrity_check !== 'ok') wrong.push(`${when}: the database does not hold together`);
  raw.close();
  const folders = existsSync(join(data, 'media')) ? readdirSync(join(data, 'media')) : [];
  for (const id of folders) if (!rows.some((r) => r.id === id)) wrong.push(`${when}: media/${id} is nobody's`);
  for (const { id, bytes, fileName } of rows) {
    if (!texts.includes(id)) wrong.push(`${when}: the row of media ${id} is nobody's`);
    const path = join(data, 'media', id, fileName);
    if (!existsSync(path)) wrong.push(`${when}: ${path} is missing`);
    else if (statSync(path).size !== bytes) wrong.push(`${when}: ${path} has ${statSync(path).size} of ${bytes} bytes`);
  }
  for (const entry of readdirSync(data, { recursive: true }))
    if (/\.partial/.test(entry)) wrong.push(`${when}: ${entry} was left`);
  for (const name of ['incoming', 'works'])
    if (existsSync(join(data, name)) && readdirSync(join(data, name)).length > 0)
      wrong.push(`${when}: ${name} holds ${readdirSync(join(data, name))}`);
  for (const name of existsSync(join(data, 'backups')) ? readdirSync(join(data, 'backups')) : []) {
    const backup = new BetterSqlite3(join(data, 'backups', name), { readonly: true });
    const [check] = backup.pragma('quick_check');
    if (check.quick_check !== 'ok') wrong.push(`${when}: the backup ${name} does not hold together`);
    backup.close();
  }
}

async function afterwards(when) {
  await verify(when);
  await settled();
  lookAtDisk(when);
  if (wrong.length > 0) throw new Error(wrong.slice(0, 20).join('\n'));
}

/** The database as the version before this one left it, so that the next start has something to bring up to date. */
function backToOld() {
  new BetterSqlite3(join(data, 'thawline.sqlite'))
    .exec(`DELETE FROM migrations WHERE name = 'Kept1764460000000'; DELETE FROM project WHERE deletedAt IS NOT NULL`)
    .exec('DROP TABLE request; ALTER TABLE revision DROP COLUMN client')
    .exec('ALTER TABLE project DROP COLUMN format; ALTER TABLE project DROP COLUMN deletedAt')
    .close();
}

async function kill(i) {
  const how = random();
  if (how < 0.12) {
    // While it starts, with a database to bring up to date: a backup is made, then the tables change.
    await pause(20);
    server.kill('SIGTERM');
    await server.ended;
    up = false;
    backToOld();
    for (let times = 1 + below(3); times > 0; times--) {
      const child = start();
      await Promise.race([pause(random() * 900), child.ended]);
      child.kill('SIGKILL');
      await child.ended;
    }
    await startAndListen();
    return 'while it started';
  }
  if (how < 0.3) {
    await busy(async () => {
      for (let waited = 0; waited < 20; waited++) {
        const [victim] = pidsOfFFmpeg();
        if (victim) {
          try {
            process.kill(Number(victim), 'SIGKILL');
          } catch {
            // It had ended by itself.
          }
          break;
        }
        await pause(20);
      }
      await pause(random() * 100);
    });
    return 'an FFmpeg';
  }
  await busy(async () => {
    await pause(random() * 500);
    up = false;
    server.kill('SIGKILL');
    await server.ended;
  });
  await startAndListen();
  return `the server, ${i}`;
}

/** The disk takes nothing for a while; then it does again, and the server goes on as it is. */
async function fault() {
  const full = ownDisk && random() < 0.5;
  const filler = join(data, 'filler');
  await busy(async () => {
    await pause(random() * 150);
    if (full) {
      const { bsize, bavail } = statfsSync(data);
      try {
        execFileSync('fallocate', ['-l', String(Math.max(1, bsize * bavail - below(3) * 4096)), filler], { stdio: 'ignore' });
      } catch {
        // Full before it was: as wanted.
      }
    } else execFileSync('prlimit', ['--pid', String(server.pid), `--fsize=${below(4) * 4096}:unlimited`]);
    await pause(50 + random() * 400);
    if (full) rmSync(filler, { force: true });
    else execFileSync('prlimit', ['--pid', String(server.pid), '--fsize=unlimited:unlimited']);
    await pause(random() * 150);
  });
  // Orphans may stay until the next start, and no longer.
  if (random() < 0.4) {
    up = false;
    server.kill(random() < 0.5 ? 'SIGKILL' : 'SIGTERM');
    await server.ended;
    await startAndListen();
    return 'a fault, then a new start';
  }
  return 'a fault';
}

try {
  await startAndListen();
  await newProject();
  const rounds = [...Array(kills).fill('kill'), ...Array(faults).fill('fault')];
  for (let i = rounds.length - 1; i > 0; i--) {
    const j = below(i + 1);
    [rounds[i], rounds[j]] = [rounds[j], rounds[i]];
  }
  for (const [i, round] of rounds.entries()) {
    const when = round === 'kill' ? await kill(i) : await fault();
    await verify(`${i}: ${when}`);
    if (wrong.length > 0) throw new Error(wrong.slice(0, 20).join('\n'));
    // The disk is looked at after a start of its own now and then: that takes longest.
    if (i % 5 === 4 || i === rounds.length - 1) {
      await settled();
      up = false;
      server.kill('SIGTERM');
      await server.ended;
      await startAndListen();
      await afterwards(`${i}: ${when}`);
    }
    if (i % 20 === 19) process.stdout.write(`${i + 1} of ${rounds.length}\n`);
  }
  process.stdout.write(
    `${kills} kills and ${faults} faults: 0 acknowledged changes lost, 0 doubled, 0 orphans, 0 files that look whole and are not\n${JSON.stringify(tally)}\n`,
  );
} catch (error) {
  process.stderr.write(`seed ${seed}: ${error.message}\n${server?.said ?? ''}\n`);
  process.exitCode = 1;
} finally {
  server?.kill('SIGKILL');
  if (ownDisk) {
    await server?.ended;
    execFileSync('umount', ['-l', data], { stdio: 'ignore' });
  }
  rmSync(folder, { recursive: true, force: true });
}
