/**
 * npm run bench -- kill [TIMES [SEED]]: a render is ended from outside at so many random moments (the server, or one of its FFmpegs), and has
 * to come to a right end by itself after each; in between no file may bear a name that is not whole.
 */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '../packages/core/dist/time/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { clipsFor, noTiming } from '../packages/project/dist/index.js';
import { served } from '../scripts/served.mjs';

const times = Number(process.argv[2] ?? 50);
const seed = Number(process.argv[3] ?? Date.now() % 100_000);
process.stdout.write(`seed ${seed}\n`);
let state = seed;
/** 0 to 1, by the seed. */
const random = () => {
  state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32;
  return state / 2 ** 32;
};

const [WIDTH, HEIGHT, FRAMES] = [160, 90, 450];
const folder = mkdtempSync(join(tmpdir(), 'thawline-kill-'));
const data = join(folder, 'data');
const renders = join(data, 'renders');
const picture = (k) =>
  Uint8Array.from({ length: (WIDTH * HEIGHT * 3) / 2 }, (_, i) =>
    i < WIDTH * HEIGHT ? 120 + 60 * Math.sin(((i % WIDTH) + k * 2.3) * 0.2) + 20 * Math.cos(Math.floor(i / WIDTH) * 0.4) : 128,
  );

function ffmpegs() {
  return readdirSync('/proc')
    .filter((n) => /^\d+$/.test(n))
    .filter((pid) => {
      try {
        const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
        return command.startsWith('ffmpeg') && command.includes(folder);
      } catch {
        return false;
      }
    });
}

/** Every file that bears a name has all of its frames. */
async function allWhole() {
  for (const name of readdirSync(renders)) {
    if (name.startsWith('.')) continue;
    const { pictures } = await ffmpeg.probe(join(renders, name));
    if (pictures !== FRAMES) throw new Error(`${name} has ${pictures} of ${FRAMES} frames`);
  }
}

let server = await served({ THAWLINE_DATA: data });
const tally = { server: 0, ffmpeg: 0 };
try {
  const { id } = await server.ask('/projects', { name: 'Kill' });
  const path = join(folder, 'source.mkv');
  await ffmpeg.encode(
    path,
    { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' },
    (function* () {
      for (let k = 0; k < FRAMES; k++) yield picture(k);
    })(),
  );
  const body = new FormData();
  body.append('file', new Blob([readFileSync(path)]), 'source.mkv');
  const { added } = await (await fetch(`${server.url}/api/projects/${id}/sources`, { method: 'POST', body })).json();
  const command = (c) => server.ask(`/projects/${id}/commands`, { command: c });
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Cut', rate: rate(25), width: WIDTH, height: HEIGHT } });
  const { document } = await server.ask(`/projects/${id}`);
  let made = 0;
  const placement = { timeline: document.timelines[0], source: added[0], fit: 'nearest', newId: () => `c${made++}` };
  await command({ type: 'placeClips', timelineId: 't', clips: clipsFor(placement, noTiming) });
  await server.settled(id);
  /** Milliseconds that a whole render takes: moments are chosen within. */
  const whole = performance.now();
  await server.ask(`/projects/${id}/jobs`, { kind: 'render', timelineId: 't' });
  await server.settled(id, 50);
  const lasts = performance.now() - whole;
  for (let i = 0; i < times; i++) {
    // Nothing is there already: each time another quality or form.
    const form = { kind: i % 3 === 2 ? 'mkv' : 'mp4', quality: 1 + (i % 50), depth: i % 2 === 0 ? 8 : 10 };
    const [job] = await server.ask(`/projects/${id}/jobs`, { kind: 'render', timelineId: 't', form });
    await server.ask('/cache', { most: 0 });
    await new Promise((resolve) => setTimeout(resolve, random() * lasts));
    const victims = ffmpegs();
    if (random() < 0.5 && victims.length > 0) {
      process.kill(Number(victims[Math.floor(random() * victims.length)]), 'SIGKILL');
      tally.ffmpeg++;
    } else {
      server.kill('SIGKILL');
      await server.ended;
      await allWhole();
      server = await served({ THAWLINE_DATA: data });
      tally.server++;
    }
    await server.settled(id, 50);
    const jobs = await server.ask(`/projects/${id}/jobs`);
    const ended = jobs.find((j) => j.id === job.id);
    if (ended?.state !== 'done') throw new Error(`${i}: ${ended?.state}, ${ended?.error?.message}`);
    const [receipt] = await server.ask(`/projects/${id}/receipts`);
    if (receipt.renderId !== job.id || receipt.differs !== 0) throw new Error(`${i}: ${receipt.differs} differ`);
    await allWhole();
    const left = readdirSync(renders).filter((n) => n.startsWith('.'));
    if (left.length > 0) throw new Error(`${i}: ${left.join(', ')} were left`);
    if (i % 10 === 9) process.stdout.write(`${i + 1} of ${times}\n`);
  }
  const works = readdirSync(join(data, 'works'));
  if (works.length > 0) throw new Error(`parts were left: ${works.join(', ')}`);
  process.stdout.write(
    `${times} renders ended right: the server was ended ${tally.server} times, an FFmpeg ${tally.ffmpeg} times; nothing half was left\n`,
  );
} finally {
  server.kill('SIGTERM');
  await server.ended;
  rmSync(folder, { recursive: true, force: true });
}
