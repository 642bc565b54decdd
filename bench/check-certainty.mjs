/**
 * npm run bench -- check-certainty [SEED]: what a verdict's certainty is worth, over all of the rig's sets of trials: of verdicts given with so
 * much, how many are right (the true rate within 0.5 %; and, of trials of fields, what these are, by the certainty told of that), of kinds of scenes that checks were tuned on and of kinds
 * that they were not; and the expected calibration error.
 */
import { checkedTrials, seedOf } from './checked.mjs';
import { ENCODERS } from './trials.mjs';

const BINS = [0, 0.5, 0.8, 0.9, 0.95, 0.99, 1.001];
const seed = seedOf();
const one = ENCODERS.filter((e) => e.name === 'h264-23');
const two = ENCODERS.filter((e) => ['h264-23', 'mpeg4'].includes(e.name));

const kindOf = (stretches) => (new Set(stretches.map((s) => s.kind)).size > 1 ? 'mixed' : stretches[0].kind);
const film = (stretches) => stretches.reduce((sum, s) => sum + (s.to - s.from) * (s.kind === 'pulldown' ? 0.8 : 1), 0);

/** The true rate and kind of fields that a clip of each set has. */
const TRUTHS = {
  trials: ({ truth }) => ({ rate: truth.trueRate, kind: truth.fields }),
  odd: () => ({ rate: 25, kind: 'none' }),
  parts: ({ truth }) => ({ rate: truth.trueRate, kind: 'none' }),
  fields: ({ truth, rate, pictures }) => ({
    rate: (rate.num / rate.den) * (film(truth.stretches) / pictures),
    kind: kindOf(truth.stretches),
  }),
};

const rows = [];
for (const [set, encoders] of [
  ['trials', ENCODERS],
  ['odd', one],
  ['parts', two],
  ['fields', one],
]) {
  for (const { trial, verdict } of await checkedTrials(seed, set, encoders)) {
    const { rate, kind } = TRUTHS[set](trial);
    const { fields, certainty } = verdict;
    const row = { set, name: trial.name, keptOut: trial.keptOut ?? false };
    // Where nothing moves no rate is claimed.
    if (verdict.stretches.some((s) => s.trueRate !== null))
      rows.push({ ...row, certainty, right: Math.abs(verdict.trueRate / rate - 1) < 0.005 });
    if (set === 'fields') rows.push({ ...row, about: 'kind', certainty: fields.certainty, right: fields.kind === kind });
  }
}

for (const keptOut of [false, true]) {
  const own = rows.filter((r) => r.keptOut === keptOut);
  let error = 0;
  const out = [
    keptOut ? 'kinds that nothing was tuned on' : 'kinds that checks were tuned on',
    '',
    '| certain | verdicts | said, mean | right |',
    '| --- | --- | --- | --- |',
  ];
  for (let i = 0; i + 1 < BINS.length; i++) {
    const bin = own.filter((r) => r.certainty >= BINS[i] && r.certainty < BINS[i + 1]);
    if (bin.length === 0) continue;
    const said = bin.reduce((sum, r) => sum + r.certainty, 0) / bin.length;
    const right = bin.filter((r) => r.right).length / bin.length;
    error += (bin.length / own.length) * Math.abs(said - right);
    const to = i + 2 === BINS.length ? 'more' : BINS[i + 1];
    out.push(`| ${BINS[i]} to ${to} | ${bin.length} | ${said.toFixed(3)} | ${right.toFixed(3)} |`);
  }
  process.stdout.write(`${out.join('\n')}\nexpected calibration error ${error.toFixed(3)}\n\n`);
}
if (process.argv.includes('--all'))
  for (const r of rows)
    if (!r.right)
      process.stdout.write(`${r.set} ${r.keptOut ? 'out' : 'in'} ${r.name} ${r.about ?? 'rate'} ${r.certainty.toFixed(3)}\n`);
