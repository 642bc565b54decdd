/**
 * npm run bench -- compare: how much of a conversion's path is found exactly. The demo's clips are brought to other rates by
 * `make`, then halved in size and encoded again by FFmpeg; the truth is the step map.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { writeDemoClips } from '../packages/rig/dist/index.js';
import { compare, make } from '../packages/work/dist/index.js';

const PAIRS = [
  ['warden-interview', { num: 30000, den: 1001 }],
  ['skipper-interview', { num: 25, den: 1 }],
  ['jetty-pan', { num: 25, den: 1 }],
  ['floe-drift', { num: 30, den: 1 }],
  ['ridge-stock', { num: 25, den: 1 }],
  ['ridge-stock', { num: 30000, den: 1001 }],
];
const folder = mkdtempSync(join(tmpdir(), 'thawline-bench-'));
const quiet = () => undefined;

/** Share of b's pictures whose picture of a (of a mix: the earlier one and the share, within an eighth) is that of the step map. */
function exactShare(found, from, to, method, pictures) {
  const mixed = new Map(found.blendsInB.map((m) => [m.b, m]));
  const up = BigInt(from.num) * BigInt(to.den);
  const down = BigInt(from.den) * BigInt(to.num);
  const exact = found.path.filter(([a, b]) => {
    const at = Number((BigInt(b) * up) / down);
    const rest = Number((BigInt(b) * up) % down) / Number(down);
    if (method === 'nearest') return a === at;
    const mix = mixed.get(b);
    return mix ? mix.a === at && Math.abs(mix.share - rest) < 0.125 : a === at + (rest > 0.5 ? 1 : 0);
  });
  return exact.length / pictures;
}

try {
  await writeDemoClips('.cache/rig');
  process.stdout.write(
    '| clip | to | method | path exact | dropped, repeated, mixed | speed | certainty |\n| --- | --- | --- | --- | --- | --- | --- |\n',
  );
  for (const [name, rate] of PAIRS) {
    for (const method of ['nearest', 'blend']) {
      const source = join('.cache', 'rig', `${name}.mp4`);
      const probe = await ffmpeg.probe(source);
      const whole = join(folder, `${name}-${rate.num}-${method}.mkv`);
      await make({ media: ffmpeg, progress: quiet }, { input: source, probe, output: whole, options: { rate, method } });
      const copy = whole.replace('.mkv', '.mp4');
      const args = ['-an', '-vf', 'scale=iw/2:-2', '-c:v', 'libx264', '-crf', '28', '-fps_mode', 'passthrough', copy];
      const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', '-i', whole, ...args]);
      if (made.status !== 0) throw new Error(String(made.stderr));
      const copied = await ffmpeg.probe(copy);
      const found = await compare(
        { media: ffmpeg, progress: quiet },
        { a: { path: source, probe }, b: { path: copy, probe: copied } },
      );
      const share = exactShare(found, probe.measured.rate, rate, method, copied.pictures);
      const counts = [found.droppedFromA, found.repeatedInB, found.blendsInB].map((list) => list.length).join(', ');
      const cells = [name, (rate.num / rate.den).toFixed(2), method, share.toFixed(4), counts];
      process.stdout.write(`| ${cells.join(' | ')} | ${found.speed.toFixed(5)} | ${found.certainty} |\n`);
    }
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
