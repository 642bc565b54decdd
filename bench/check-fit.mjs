/**
 * npm run bench -- check-fit [SEED…]: fits the weights in packages/core/src/truth/evidence.ts on the rig's trial clips
 * (seeds 1, 2, 3 unless told otherwise) by logistic regression, both classes weighing the same, and prints them.
 */

import { CLUES, cluesOf, stillPlaces, usualLevel } from '../packages/core/dist/truth/evidence/evidence.js';
import { ChangeMeter } from '../packages/core/dist/truth/measure/changeMeter.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { trials } from '../packages/rig/dist/index.js';
import { ENCODERS, trialPath, writeTrials } from './trials.mjs';

const seeds = process.argv.slice(2).map(Number);
if (seeds.length === 0) seeds.push(1, 2, 3);
const [WIDTH, HEIGHT] = [256, 146];
/** A weight costs this much: none grows without need. */
const RIDGE = 1e-5;

const clues = [];
const labels = [];
for (const seed of seeds) {
  await writeTrials(seed);
  for (const trial of trials(seed)) {
    // What is mixed or made is neither held nor plainly new.
    if (trial.truth.fields !== 'none' || trial.truth.blends.length + trial.truth.made.length > 0) continue;
    const held = new Set(trial.truth.held);
    for (const encoder of ENCODERS) {
      const path = trialPath(seed, trial, encoder);
      if (!path) continue;
      const meter = new ChangeMeter(WIDTH, HEIGHT);
      const request = { pixelFormat: 'gray', width: WIDTH, height: HEIGHT, scaling: 'area' };
      for await (const picture of ffmpeg.openPictures(path, await ffmpeg.probe(path), request)) meter.push(picture);
      const changes = meter.finish();
      const usual = usualLevel(changes);
      const still = stillPlaces(changes);
      for (let k = 0; k < changes.length; k++) {
        if (still[k] || trial.truth.still.some((s) => k + 1 >= s.from - 1 && k + 1 <= s.to + 1)) continue;
        const row = new Float64Array(CLUES.length);
        cluesOf(changes, k, usual[k], row);
        clues.push(row);
        labels.push(held.has(k + 1) ? 1 : 0);
      }
    }
  }
}

/** Solves a symmetric system by Gauss's elimination with pivots. */
function solved(matrix, right) {
  const rows = matrix.map((row, i) => [...row, right[i]]);
  const size = rows.length;
  for (let i = 0; i < size; i++) {
    let pivot = i;
    for (let r = i; r < size; r++) if (Math.abs(rows[r][i]) > Math.abs(rows[pivot][i])) pivot = r;
    [rows[i], rows[pivot]] = [rows[pivot], rows[i]];
    for (let r = 0; r < size; r++) {
      if (r === i) continue;
      const share = rows[r][i] / rows[i][i];
      for (let c = i; c <= size; c++) rows[r][c] -= share * rows[i][c];
    }
  }
  return rows.map((row, i) => row[size] / row[i]);
}

const ones = labels.reduce((sum, y) => sum + y, 0);
const weights = new Float64Array(CLUES.length);
for (let round = 0; round < 40; round++) {
  const curve = CLUES.map(() => new Float64Array(CLUES.length));
  const slope = new Float64Array(CLUES.length);
  clues.forEach((row, i) => {
    const odds = row.reduce((sum, x, d) => sum + x * weights[d], 0);
    const p = 1 / (1 + Math.exp(-odds));
    const share = 0.5 / (labels[i] ? ones : labels.length - ones);
    for (let a = 0; a < row.length; a++) {
      slope[a] += share * (labels[i] - p) * row[a];
      for (let b = 0; b < row.length; b++) curve[a][b] += (share * p * (1 - p) + 1e-12) * row[a] * row[b];
    }
  });
  for (let a = 0; a < slope.length; a++) {
    slope[a] -= RIDGE * weights[a];
    curve[a][a] += RIDGE;
  }
  // At most 2 a round: Newton's steps overshoot where the classes part cleanly.
  const step = solved(curve, slope).map((x) => Math.max(-2, Math.min(2, x)));
  for (let a = 0; a < step.length; a++) weights[a] += step[a];
  if (step.every((x) => Math.abs(x) < 1e-5)) break;
}
process.stdout.write(
  `${labels.length} pictures, ${ones} held\n${CLUES.map((name, i) => `${weights[i].toFixed(3)}  ${name}`).join('\n')}\n`,
);
process.stdout.write(`[${Array.from(weights, (w) => w.toFixed(3)).join(', ')}]\n`);
