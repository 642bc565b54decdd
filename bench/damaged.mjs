/**
 * npm run bench -- damaged [FILES [SEED]]: files in fourteen containers, cut, with bytes changed, zeroed, left out or doubled, are added
 * over HTTP. Each has to be added (and, where it was cut, to be told as ending early) or refused with a sentence; nothing crashes, no reply
 * is a 5xx, and nothing of a refused file stays.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { served } from '../scripts/served.mjs';

const [files = 500, seed = Date.now() % 1_000_000] = process.argv.slice(2).map(Number);
process.stdout.write(`seed ${seed}\n`);
let state = seed;
const random = () => {
  state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32;
  return state / 2 ** 32;
};
const below = (n) => Math.floor(random() * n);

const folder = mkdtempSync(join(tmpdir(), 'thawline-damaged-'));
const data = join(folder, 'data');
const PICTURES = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=2'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=d=2:r=48000'];
const CONTAINERS = {
  'a.mp4': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
  'a.mov': [...PICTURES, '-c:v', 'prores_ks'],
  'a.mkv': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'flac'],
  'a.webm': [...PICTURES, '-c:v', 'libvpx', '-b:v', '200k'],
  'a.avi': [...PICTURES, ...SOUND, '-c:v', 'mpeg4', '-c:a', 'pcm_s16le'],
  'a.ts': [...PICTURES, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
  'a.mxf': [...PICTURES, '-c:v', 'mpeg2video'],
  'a.flv': [...PICTURES, '-c:v', 'libx264'],
  'a.gif': PICTURES,
  'a.y4m': [...PICTURES, '-pix_fmt', 'yuv420p'],
  'a.wav': SOUND,
  'a.flac': SOUND,
  'a.mp3': SOUND,
  'a.ogg': [...SOUND, '-c:a', 'libvorbis'],
};
/** Containers whose header, or whose end, says where they end: a cut has to show. MP3 promises nothing. */
const TELLS = new Set(Object.keys(CONTAINERS).filter((name) => name !== 'a.mp3'));

const DAMAGES = {
  cut: (bytes) => bytes.subarray(0, 1 + below(bytes.length - 1)),
  changed: (bytes) => {
    const some = Buffer.from(bytes);
    for (let k = 1 + below(40); k > 0; k--) some[below(some.length)] = below(256);
    return some;
  },
  head: (bytes) => {
    const some = Buffer.from(bytes);
    for (let k = 1 + below(8); k > 0; k--) some[below(Math.min(400, some.length))] = below(256);
    return some;
  },
  zeroed: (bytes) => Buffer.from(bytes).fill(0, below(bytes.length), below(bytes.length)),
  leftOut: (bytes) => {
    const at = below(bytes.length);
    return Buffer.concat([bytes.subarray(0, at), bytes.subarray(Math.min(bytes.length, at + 1 + below(3000)))]);
  },
  doubled: (bytes) => {
    const at = below(bytes.length);
    return Buffer.concat([bytes.subarray(0, at), bytes.subarray(Math.max(0, at - below(3000)))]);
  },
};

const server = await served({ THAWLINE_DATA: data });
const wrong = [];
const tally = { added: 0, endsEarly: 0, refused: {} };
let longest = 0;
try {
  const bases = Object.entries(CONTAINERS).map(([name, args]) => {
    const path = join(folder, name);
    execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path]);
    return [name, readFileSync(path)];
  });
  const { id } = await server.ask('/projects', { name: 'Damaged' });
  const kinds = Object.keys(DAMAGES);
  for (let i = 0; i < files; i++) {
    const [name, bytes] = bases[i % bases.length];
    const kind = kinds[Math.floor(i / bases.length) % kinds.length];
    const damaged = DAMAGES[kind](bytes);
    const body = new FormData();
    const called = `${i}-${kind}-${name}`;
    body.append('file', new Blob([damaged]), called);
    const began = performance.now();
    const reply = await fetch(`${server.url}/api/projects/${id}/sources`, { method: 'POST', body });
    longest = Math.max(longest, performance.now() - began);
    const said = await reply.json();
    if (reply.status !== 200) wrong.push(`${called}: status ${reply.status}, ${JSON.stringify(said)}`);
    const [source] = said.added ?? [];
    const [refused] = said.refused ?? [];
    if (source) {
      tally.added++;
      if (source.endsEarly) tally.endsEarly++;
      // Cut between two packets, a transport stream is as whole as any.
      const between = name === 'a.ts' && damaged.length % 188 === 0;
      if (kind === 'cut' && damaged.length < bytes.length && TELLS.has(name) && !between && !source.endsEarly)
        wrong.push(`${called}: cut at ${damaged.length} of ${bytes.length} bytes, and added without a word`);
    } else if (refused) {
      tally.refused[refused.code] = (tally.refused[refused.code] ?? 0) + 1;
      if (refused.code === 'internal' || refused.message.length < 20) wrong.push(`${called}: ${refused.message}`);
    } else if (reply.status === 200) wrong.push(`${called}: neither added nor refused`);
    if (i % 100 === 99) process.stdout.write(`${i + 1} of ${files}\n`);
  }
  await server.settled(id);
  const { document } = await server.ask(`/projects/${id}`);
  const media = readdirSync(join(data, 'media')).length;
  if (media !== document.sources.length) wrong.push(`${media} folders of media for ${document.sources.length} sources`);
  if (readdirSync(join(data, 'incoming')).length > 0) wrong.push('something incoming was left');
  process.stdout.write(`${JSON.stringify(tally)}; longest request ${Math.round(longest)} ms\n`);
  for (const line of wrong) process.stdout.write(`${line}\n`);
  process.stdout.write(`${files} damaged files in ${bases.length} containers: ${wrong.length} wrong\n`);
  if (wrong.length > 0) process.exitCode = 1;
} finally {
  server.kill('SIGTERM');
  await server.ended;
  rmSync(folder, { recursive: true, force: true });
}
