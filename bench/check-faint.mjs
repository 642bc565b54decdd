/**
 * npm run bench -- check-faint [SEED] [--all]: how well a check tells true rates and held pictures of dark scenes under fresh noise, by kinds of
 * scenes that it was tuned on and by kinds that it was not. --all names those that are wrong.
 */
import { bothTables, checkedTrials, seedOf, share } from './checked.mjs';
import { ENCODERS } from './trials.mjs';

const SURE = 0.95;

function scored({ trial, verdict }) {
  const wanted = new Set(trial.truth.held);
  const moves = verdict.stretches.some((s) => s.trueRate !== null);
  const rate = moves && Math.abs(verdict.trueRate / trial.truth.trueRate - 1) < 0.02;
  return {
    // Where nothing is seen to move no rate is claimed: that is no wrong one.
    untold: !moves,
    rate,
    surelyWrong: moves && !rate && verdict.certainty >= SURE,
    held: verdict.held.filter((k) => wanted.has(k)).length,
    wanted: wanted.size,
    told: verdict.held.length,
  };
}

const seed = seedOf();
const encoders = ENCODERS.filter((e) => ['h264-18', 'h264-23', 'mpeg4'].includes(e.name));
const results = (await checkedTrials(seed, 'faint', encoders)).map((r) => ({ ...r, ...scored(r) }));
process.stdout.write(`seed ${seed}: ${results.length} clips\n`);
const sum = (rows, key) => rows.reduce((n, r) => n + r[key], 0);
const cells = (rows) => [
  share(rows, (r) => r.rate),
  rows.filter((r) => r.untold).length,
  rows.filter((r) => r.surelyWrong).length,
  `${sum(rows, 'held')}/${sum(rows, 'wanted')} +${sum(rows, 'told') - sum(rows, 'held')}`,
];
const heads = ['true rate right', 'no rate told', `wrong at ${SURE} or more`, 'held pictures'];
process.stdout.write(`${bothTables(results, heads, cells)}\n`);
if (process.argv.includes('--all'))
  for (const { trial, encoder, verdict, rate, held, wanted, told } of results) {
    if (rate && held === wanted && told === held) continue;
    process.stdout.write(
      `${trial.name}.${encoder.name}: ${verdict.kind} ${verdict.trueRate.toFixed(2)} ${verdict.certainty.toFixed(3)}, held ${held}/${wanted} +${told - held}; wanted ${trial.truth.trueRate.toFixed(2)}\n`,
    );
  }
