/** Renews docs/screenshots from the demo: its own data folder, a free port, ended by its process. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';

const data = mkdtempSync(join(tmpdir(), 'thawline-shots-'));
const server = spawn(process.execPath, ['apps/server/dist/main.js', '--demo'], {
  env: { ...process.env, PORT: '0', THAWLINE_DATA: data },
  stdio: ['ignore', 'pipe', 'inherit'],
});
try {
  const url = await new Promise((resolve, reject) => {
    server.once('exit', () => reject(new Error('the server ended')));
    createInterface({ input: server.stdout }).on('line', (line) => {
      const found = /http:\/\/\S+/.exec(line);
      if (found) resolve(found[0]);
    });
  });
  const [project] = await (await fetch(`${url}/api/projects`)).json();
  const jobs = async () => (await fetch(`${url}/api/projects/${project.id}/jobs`)).json();
  const { document } = await (await fetch(`${url}/api/projects/${project.id}`)).json();
  const settled = async () => {
    while ((await jobs()).some((j) => j.state === 'queued' || j.state === 'running'))
      await new Promise((r) => setTimeout(r, 500));
  };
  await settled();
  const body = JSON.stringify({ kind: 'render', timelineId: document.timelines[0].id });
  await fetch(`${url}/api/projects/${project.id}/jobs`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body,
  });
  await settled();
  const { status } = spawnSync(process.execPath, ['scripts/shots.mjs', url, 'docs/screenshots'], { stdio: 'inherit' });
  process.exitCode = status ?? 1;
} finally {
  server.kill('SIGTERM');
  rmSync(data, { recursive: true, force: true });
}
