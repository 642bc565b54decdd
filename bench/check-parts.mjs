/**
 * npm run bench -- check-parts [SEED] [--all]: how well a check tells the rate of a picture whose parts have rates of their own, and those
 * parts, by kinds of scenes that it was tuned on and by kinds that it was not. --all names those that are wrong.
 */
import { bothTables, checkedTrials, seedOf, share } from './checked.mjs';
import { ENCODERS } from './trials.mjs';

const near = (a, b) => Math.abs(a / b - 1) < 0.005;

/** How much of two boxes lies in both. */
function overlap(a, b) {
  const width = Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x);
  const height = Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y);
  const both = Math.max(0, width) * Math.max(0, height);
  return both / (a.width * a.height + b.width * b.height - both);
}

function scored({ trial, probe, verdict }) {
  const { trueRate, part } = trial.truth;
  const boxes = verdict.parts.map((p) => ({
    ...p,
    ...{ x: p.x * probe.width, width: p.width * probe.width },
    ...{ y: p.y * probe.height, height: p.height * probe.height },
  }));
  const found = part && boxes.find((p) => near(p.trueRate, part.trueRate));
  return {
    rate: near(verdict.trueRate, trueRate),
    found: part ? Boolean(found) : null,
    overlap: found ? overlap(found, part) : null,
    // A part of a rate that none has.
    false: boxes.some((p) => !near(p.trueRate, trueRate) && !(part && near(p.trueRate, part.trueRate))),
  };
}

const seed = seedOf();
const encoders = ENCODERS.filter((e) => ['h264-18', 'h264-23', 'mpeg4'].includes(e.name));
const results = (await checkedTrials(seed, 'parts', encoders)).map((r) => ({ ...r, ...scored(r) }));
process.stdout.write(`seed ${seed}: ${results.length} clips\n`);
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const cells = (rows) => {
  const parts = rows.filter((r) => r.found !== null);
  const overlaps = rows.filter((r) => r.overlap !== null).map((r) => r.overlap);
  return [
    share(rows, (r) => r.rate),
    parts.length ? share(parts, (r) => r.found) : '',
    overlaps.length ? median(overlaps).toFixed(2) : '',
    rows.filter((r) => r.false).length,
  ];
};
process.stdout.write(
  `${bothTables(results, ['rate of the whole', 'slower part told', 'overlap of its box', 'false parts'], cells)}\n`,
);
if (process.argv.includes('--all'))
  for (const { trial, encoder, verdict, rate, found } of results) {
    if (rate && found !== false) continue;
    const told = verdict.parts.map((p) => `${p.pattern} ${p.certainty.toFixed(2)}`).join(', ');
    process.stdout.write(
      `${trial.name}.${encoder.name}: ${verdict.kind} ${verdict.trueRate.toFixed(2)} ${verdict.certainty.toFixed(3)}, parts ${told}; wanted ${trial.truth.trueRate.toFixed(2)}\n`,
    );
  }
