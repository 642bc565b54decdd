/**
 * npm run bench -- estimates [EDITS [SEED]]: what a trial says of size and time beforehand, against what random edits then came to:
 * how many are within 25 %, and how many lie within the range that was told. Edits are of 1 to 20 seconds; default 40, seed 3.
 */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpeg } from '../packages/media/dist/index.js';
import { measureReceipt, renderTimeline, runJob } from '../packages/work/dist/index.js';
import { editOf } from './randomEdits.mjs';

const edits = Number(process.argv[2] ?? 40);
const [seed, only] = (process.argv[3] ?? '3').split(':').map(Number);
const say = (line) => process.stdout.write(`${line}\n`);
const found = [];
for (let number = only ?? 0; number < (only === undefined ? edits : only + 1); number++) {
  const folder = mkdtempSync(join(tmpdir(), 'thawline-estimates-'));
  try {
    const { input, form, notes } = await editOf(seed, number, { longer: [1, 4, 12][number % 3], most: 1200 });
    const work = (name) => {
      mkdirSync(join(folder, name), { recursive: true });
      return join(folder, name);
    };
    const path = join(folder, 'out.x');
    const asked = performance.now();
    const told = await runJob(
      { media: ffmpeg, progress: () => undefined },
      { kind: 'trial', specification: { input, form, path, work: work('trial'), cache: null } },
    );
    const begun = performance.now();
    const unplaced = await renderTimeline(
      { media: ffmpeg, progress: () => undefined },
      { input, form, path, work: work('render'), cache: null },
    );
    const files = unplaced.files.map((f) => f.path);
    const receipt = await measureReceipt({ media: ffmpeg, progress: () => undefined }, { input: unplaced.input, form, files });
    const seconds = (performance.now() - begun) / 1000;
    const one = {
      bytes: told.bytes.value / receipt.bytes,
      seconds: told.seconds.value / seconds,
      within: receipt.bytes >= told.bytes.least * 0.98 && receipt.bytes <= told.bytes.most * 1.02,
      open: told.bytes.most > told.bytes.value * 1.25,
      timely: seconds >= told.seconds.least && seconds <= told.seconds.most,
    };
    found.push(one);
    say(
      `${number}: bytes ${one.bytes.toFixed(2)}${one.within ? '' : ' outside'}${one.open ? ' (a range)' : ''}, seconds ${one.seconds.toFixed(2)} of ${seconds.toFixed(1)}, trial took ${((begun - asked) / 1000).toFixed(1)} s, ${receipt.frames} frames (${notes})`,
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
const share = (test) => `${Math.round((100 * found.filter(test).length) / found.length)} %`;
const near = (ratio) => ratio > 0.8 && ratio < 1.25;
say(
  `${found.length} edits: size within 25 % ${share((f) => near(f.bytes))}, within 25 % or told as a range that holds it ${share((f) => near(f.bytes) || (f.open && f.within))}; time within 25 % ${share((f) => near(f.seconds))}, within 25 % or told as a range that holds it ${share((f) => near(f.seconds) || f.timely)}, within 50 % ${share((f) => f.seconds > 2 / 3 && f.seconds < 1.5)}`,
);
