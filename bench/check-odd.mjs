/**
 * npm run bench -- check-odd [SEED] [--all] [--encoder=NAME]: how well a check finds cuts, faulty pictures, missing ones and rhythms of missing ones, by kinds
 * of scenes that it was tuned on and by kinds that it was not. Each clip by three encoders, or by one; --all names those that are wrong.
 */
import { bothTables, certaintyTable, checkedTrials, seedOf, share } from './checked.mjs';
import { ENCODERS } from './trials.mjs';

const only = process.argv.find((a) => a.startsWith('--encoder='))?.slice(10);
const WITH = ENCODERS.filter((e) => (only ? e.name === only : ['h264-18', 'h264-23', 'mpeg4'].includes(e.name)));
const seed = seedOf();
report(
  seed,
  (await checkedTrials(seed, 'odd', WITH)).map((r) => ({ ...r, ...scored(r.trial.truth, r.verdict) })),
);

/** Of what was wanted and what was told how much is the same. */
function counted(wanted, told) {
  const all = new Set(wanted);
  return { right: told.filter((one) => all.has(one)).length, wanted: wanted.length, told: told.length };
}

function scored(truth, verdict) {
  const places = (faults) => faults.map((f) => `${f.picture} ${f.kind}`);
  const made = verdict.stretches.filter((s) => s.skips).map((s) => Math.round(s.skips.madeFrom));
  const [first = null] = made;
  // A rhythm's own places are no single skips.
  const jumps = truth.madeFrom ? { right: 0, wanted: 0, told: 0 } : counted(truth.jumps, verdict.jumps);
  return {
    cuts: counted(truth.cuts, verdict.cuts),
    faults: counted(places(truth.faults), places(verdict.faults)),
    jumps,
    rhythm: first === truth.madeFrom && new Set(made).size <= 1,
    rate: Math.abs(verdict.trueRate / 25 - 1) < 0.005 && verdict.held.length === 0 && verdict.blends.length === 0,
  };
}

function report(seed, results) {
  const out = [`seed ${seed}: ${results.length} clips, ${results.reduce((n, r) => n + r.verdict.pictures, 0)} pictures`];
  const found = (rows, what) => {
    const sum = (key) => rows.reduce((n, r) => n + r[what][key], 0);
    const [right, wanted, told] = ['right', 'wanted', 'told'].map(sum);
    return wanted + told === 0 ? '' : `${right}/${wanted}${told > right ? ` +${told - right}` : ''}`;
  };
  const heads = ['clips', 'cuts', 'faults', 'missing pictures', 'rhythm right', 'rate right'];
  const cells = (rows) => [
    rows.length,
    ...['cuts', 'faults', 'jumps'].map((what) => found(rows, what)),
    ...['rhythm', 'rate'].map((what) => share(rows, (r) => r[what])),
  ];
  out.push(bothTables(results, heads, cells));
  for (const keptOut of [false, true]) {
    const some = results.filter((r) => r.trial.keptOut === keptOut);
    const told = some.flatMap(({ trial, verdict }) =>
      verdict.faults.map(({ picture, kind, certainty }) => ({
        certainty,
        right: trial.truth.faults.some((f) => f.picture === picture && f.kind === kind),
      })),
    );
    out.push(certaintyTable(told));
  }
  process.stdout.write(`${out.join('\n')}\n`);
  if (!process.argv.includes('--all')) return;
  for (const { trial, encoder, verdict, cuts, faults, jumps, rhythm, rate } of results) {
    const wrong = [cuts, faults, jumps].some((c) => c.right < c.wanted || c.told > c.right) || !rhythm || !rate;
    if (!wrong) continue;
    const told = verdict.faults.map((f) => `${f.picture} ${f.kind}`).join(', ');
    process.stdout.write(
      `${trial.name}.${encoder.name}: cuts ${verdict.cuts.join(',')}, faults ${told}, jumps ${verdict.jumps.join(',')}, held ${verdict.held.join(',')}, blends ${verdict.blends.length}, ${verdict.kind} ${verdict.trueRate.toFixed(2)}; wanted ${JSON.stringify(trial.truth)}\n`,
    );
  }
}
