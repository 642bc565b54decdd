/** Renews docs/screenshots from the demo: its own data folder, a free port, ended by its process. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { served } from './served.mjs';

const data = mkdtempSync(join(tmpdir(), 'thawline-shots-'));
const { url, ask, settled, end } = await served({ THAWLINE_DATA: data }, ['--demo']);
try {
  const [project] = await ask('/projects');
  const { document } = await ask(`/projects/${project.id}`);
  await settled(project.id);
  await ask(`/projects/${project.id}/jobs`, { kind: 'render', timelineId: document.timelines[0].id });
  await settled(project.id);
  const { status } = spawnSync(process.execPath, ['scripts/shots.mjs', url, 'docs/screenshots'], { stdio: 'inherit' });
  process.exitCode = status ?? 1;
} finally {
  end();
  rmSync(data, { recursive: true, force: true });
}
