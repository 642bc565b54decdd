/** Renews docs/screenshots from the demo: its own data folder, a free port, ended by its process. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { ffmpeg } from '../packages/media/dist/index.js';
import { holdPicture } from '../packages/rig/dist/index.js';
import { served } from './served.mjs';

const data = mkdtempSync(join(tmpdir(), 'thawline-shots-'));
const desk = spawn(process.execPath, ['apps/desk/dist/main.js'], {
  env: { ...process.env, DESK_PORT: '0', DESK_DATA: join(data, 'desk') },
  stdio: ['ignore', 'pipe', 'inherit'],
});
const address = await new Promise((resolve) => {
  createInterface({ input: desk.stdout }).on('line', (line) => resolve(/http:\S+/.exec(line)?.[0]));
});
const { url, ask, settled, until, end } = await served({ THAWLINE_DATA: data, THAWLINE_DESK: address }, ['--demo']);
await until('The demo is whole.');
try {
  const [project] = await ask('/projects');
  const { document } = await ask(`/projects/${project.id}`);
  await settled(project.id);
  const jobs = `/projects/${project.id}/jobs`;
  await ask(jobs, { kind: 'render', timelineId: document.timelines[0].id });
  await settled(project.id);
  // A fault put into the file: what a receipt is for.
  const [receipt] = await ask(`/projects/${project.id}/receipts`);
  await holdPicture(ffmpeg, join(receipt.folder, receipt.file), 611);
  await ask(jobs, { kind: 'receipt', jobId: receipt.renderId });
  await settled(project.id);
  const { status } = spawnSync(process.execPath, ['scripts/shots.mjs', url, 'docs/screenshots'], { stdio: 'inherit' });
  process.exitCode = status ?? 1;
} finally {
  end();
  desk.kill();
  rmSync(data, { recursive: true, force: true });
}
