/**
 * npm run bench -- blocking: how long any request holds up all others, by the server's own event loop delay, while the worst inputs that
 * are known are sent to it: edit files with endless fractions, with 50,000 events, nested 3,000 deep; files that say impossible things of
 * themselves; a pipe in a media folder; forty pictures at once; a backup of a large database.
 */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wavHead } from '../packages/core/dist/sound/index.js';
import { served } from '../scripts/served.mjs';

const folder = mkdtempSync(join(tmpdir(), 'thawline-blocking-'));
const footage = join(folder, 'footage');
mkdirSync(footage);
const report = join(folder, 'delay.json');
/** Loaded into the server: writes the longest delay since the last signal. */
const preload = join(folder, 'delay.mjs');
writeFileSync(
  preload,
  `import { isMainThread } from 'node:worker_threads';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { writeFileSync } from 'node:fs';
if (isMainThread) {
  const delay = monitorEventLoopDelay({ resolution: 2 });
  delay.enable();
  process.on('SIGWINCH', () => {
    writeFileSync(${JSON.stringify(report)}, JSON.stringify({ max: delay.max / 1e6, p99: delay.percentile(99) / 1e6 }));
    delay.reset();
  });
}
`,
);
const clip = (i, rate) => ({
  OTIO_SCHEMA: 'Clip.2',
  name: `c${i}`,
  source_range: {
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: { OTIO_SCHEMA: 'RationalTime.1', value: 0, rate },
    duration: { OTIO_SCHEMA: 'RationalTime.1', value: 48, rate },
  },
  media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: `file:///x/c${i}.mov` },
});
const edit = (children) =>
  JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    name: 'x',
    tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children }] },
  });
const timecode = (f) =>
  [f / 90_000, (f / 1500) % 60, (f / 25) % 60, f % 25].map((n) => String(Math.floor(n)).padStart(2, '0')).join(':');
const events = Array.from(
  { length: 50_000 },
  (_, i) =>
    `${String(i + 1).padStart(6, '0')}  R${i} V     C        01:00:00:00 01:00:00:20 ${timecode(i * 20)} ${timecode(i * 20 + 20)}\n`,
);
const INPUTS = {
  '3,000 clips at rates without a common measure': [
    'odd.otio',
    edit(Array.from({ length: 3000 }, (_, i) => clip(i, 26.4 + 919 / (10_007 + 2 * i)))),
  ],
  'a list of 50,000 events': ['many.edl', `TITLE: X\n${events.join('')}`],
  '50,000 clips, 15 MB': ['many.otio', edit(Array.from({ length: 50_000 }, (_, i) => clip(i, 25)))],
  'metadata 3,000 levels deep': [
    'deep.otio',
    edit([{ ...clip(0, 25), metadata: 'DEEP' }]).replace('"DEEP"', `${'{"m":'.repeat(3000)}1${'}'.repeat(3000)}`),
  ],
};

const server = await served({
  THAWLINE_DATA: join(folder, 'data'),
  THAWLINE_MEDIA: footage,
  NODE_OPTIONS: `--import ${preload}`,
});
const ask = (path, body) =>
  fetch(`${server.url}/api${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json' },
  });
async function measured(name, work) {
  server.kill('SIGWINCH');
  await new Promise((resolve) => setTimeout(resolve, 200));
  const began = performance.now();
  const status = await work();
  const took = performance.now() - began;
  await new Promise((resolve) => setTimeout(resolve, 100));
  server.kill('SIGWINCH');
  await new Promise((resolve) => setTimeout(resolve, 200));
  const { max } = JSON.parse(readFileSync(report, 'utf8'));
  process.stdout.write(`${name}: status ${status}, ${Math.round(took)} ms, others waited ${Math.round(max)} ms at most\n`);
}
const wav = (rate) => Buffer.concat([wavHead({ form: 's16', sampleRate: rate, channels: 1, samples: 1000 }), Buffer.alloc(2000)]);
const upload = async (id, name, bytes) => {
  const body = new FormData();
  body.append('file', new Blob([bytes]), name);
  return (await fetch(`${server.url}/api/projects/${id}/sources`, { method: 'POST', body })).status;
};
try {
  const small = await server.ask('/projects', { name: 'Small' });
  await measured('nothing at all', () => new Promise((resolve) => setTimeout(() => resolve(200), 1000)));
  for (const [name, [file, text]] of Object.entries(INPUTS)) {
    const { id } = await server.ask('/projects', { name });
    await measured(name, async () => (await ask(`/projects/${id}/edits`, { file, text, rate: { num: 25, den: 1 } })).status);
    await measured(
      '  one command on what it became',
      async () => (await ask(`/projects/${id}/commands`, { command: { type: 'renameProject', name: 'X' } })).status,
    );
  }
  await measured('a Y4M of 2147483647 pictures a second', () =>
    upload(
      small.id,
      'a.y4m',
      Buffer.concat([Buffer.from('YUV4MPEG2 W16 H16 F2147483647:1 Ip A1:1 C420\nFRAME\n'), Buffer.alloc(384)]),
    ),
  );
  await measured('a WAV of one sample a second', () => upload(small.id, 'a.wav', wav(1)));
  execFileSync('mkfifo', [join(footage, 'pipe.mp4')]);
  await measured(
    'a pipe in a media folder',
    async () =>
      (await ask(`/projects/${small.id}/sources/in-place`, { items: [{ path: 'footage/pipe.mp4', kind: 'film' }] })).status,
  );
  const film = join(folder, 'film.mp4');
  execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=1920x1080:r=25:d=4',
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    film,
  ]);
  await upload(small.id, 'film.mp4', readFileSync(film));
  const { document } = await (await fetch(`${server.url}/api/projects/${small.id}`)).json();
  const { mediaId } = document.sources.at(-1);
  await measured('forty pictures of 1080p at once', async () => {
    const replies = await Promise.all(
      Array.from({ length: 40 }, (_, k) => fetch(`${server.url}/api/media/${mediaId}/pictures/${k * 2}`)),
    );
    return replies.every((r) => r.status === 200) ? 200 : replies.map((r) => r.status);
  });
  await measured('a backup', async () => (await ask('/backups', {})).status);
} finally {
  server.kill('SIGTERM');
  await server.ended;
  rmSync(folder, { recursive: true, force: true });
}
