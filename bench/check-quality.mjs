/**
 * npm run bench -- check-quality [SEED…]: how well a check judges the rig's trial clips, by kind and by encoder.
 * Precision and recall of held pictures, the true rate, and what certainty is worth. Seeds below 100 were tuned on.
 */
import { checkedTrials } from './checked.mjs';
import { ENCODERS } from './trials.mjs';

const verbose = process.argv.includes('--all');
const only = process.argv.find((a) => a.startsWith('--only='))?.slice(7);
const seeds = process.argv
  .slice(2)
  .filter((a) => /^\d+$/.test(a))
  .map(Number);
if (seeds.length === 0) seeds.push(101);

/** Held pictures found, missed and made up; pictures of still sections count for neither. */
function score(truth, verdict) {
  const still = (k) => truth.still.some((s) => k >= s.from && k <= s.to);
  const wanted = new Set(truth.fields === 'none' ? truth.held.filter((k) => !still(k)) : []);
  const found = verdict.held.filter((k) => !still(k));
  const right = found.filter((k) => wanted.has(k)).length;
  const jumps = new Set(truth.jumps);
  return {
    right,
    found: found.length,
    wanted: wanted.size,
    jumpsRight: verdict.jumps.filter((k) => jumps.has(k)).length,
    jumpsFound: verdict.jumps.length,
    jumpsWanted: jumps.size,
    rateOff: Math.abs(verdict.trueRate / truth.trueRate - 1),
  };
}

const results = [];
for (const seed of seeds)
  for (const checked of await checkedTrials(seed, 'trials', ENCODERS, (trial) => !only || trial.name.includes(only)))
    results.push({ seed, ...checked, ...score(checked.trial.truth, checked.verdict) });

const sum = (rows, key) => rows.reduce((total, r) => total + r[key], 0);
const ratio = (a, b) => (b === 0 ? 1 : a / b);
function line(name, rows) {
  const [right, found, wanted] = ['right', 'found', 'wanted'].map((k) => sum(rows, k));
  const precision = ratio(right, found);
  const recall = ratio(right, wanted);
  const rates = rows.filter((r) => r.rateOff <= 0.005).length;
  const jumps = `${sum(rows, 'jumpsRight')}/${sum(rows, 'jumpsWanted')}${sum(rows, 'jumpsFound') > sum(rows, 'jumpsRight') ? ` +${sum(rows, 'jumpsFound') - sum(rows, 'jumpsRight')}` : ''}`;
  const cells = [String(rows.length), String(wanted), precision.toFixed(4), recall.toFixed(4), `${rates}/${rows.length}`, jumps];
  return `| ${name} | ${cells.join(' | ')} |`;
}

const group = (key) => [...new Set(results.map(key))].map((value) => [value, results.filter((r) => key(r) === value)]);
const out = [];
out.push(`seeds ${seeds.join(', ')}: ${results.length} clips`, '');
out.push(
  '| clips about | clips | held pictures | precision | recall | true rate within 0.5 % | jumps found |',
  '| --- | --- | --- | --- | --- | --- | --- |',
);
for (const [about, rows] of group((r) => r.trial.about)) out.push(line(about, rows));
for (const [name, rows] of group((r) => r.encoder.name)) out.push(line(name, rows));
out.push(line('all', results));
const padded = results.filter(
  (r) =>
    r.trial.truth.held.length === 0 && r.trial.truth.fields === 'none' && r.verdict.trueRate < r.trial.truth.trueRate * 0.995,
);
out.push('', `new-picture clips called padded: ${padded.length}`);
// Certainty: of verdicts given that much, so many are right (kind of pattern and rate).
const right = (r) => r.rateOff <= 0.005;
out.push('', '| certainty | verdicts | right |', '| --- | --- | --- |');
for (const [from, to] of [
  [0, 0.8],
  [0.8, 0.9],
  [0.9, 0.95],
  [0.95, 0.99],
  [0.99, 1.01],
]) {
  const rows = results.filter((r) => r.verdict.certainty >= from && r.verdict.certainty < to);
  if (rows.length > 0)
    out.push(
      `| ${from} to ${Math.min(1, to)} | ${rows.length} | ${((100 * rows.filter(right).length) / rows.length).toFixed(1)} % |`,
    );
}
process.stdout.write(`${out.join('\n')}\n`);
if (verbose) {
  process.stdout.write('\n');
  const order = [...results].sort(
    (a, b) => tasks.findIndex((t) => t.path === a.path) - tasks.findIndex((t) => t.path === b.path),
  );
  for (const r of order) {
    const bad =
      r.right < r.wanted ||
      r.found > r.right ||
      r.rateOff > 0.005 ||
      r.jumpsRight !== r.jumpsWanted ||
      r.jumpsFound > r.jumpsRight;
    if (!bad) continue;
    const stretches = r.verdict.stretches.map((s) => `${s.from}-${s.to}:${s.pattern}`).join(' ');
    process.stdout.write(
      `${r.trial.name}.${r.encoder.name} held ${r.right}/${r.wanted} +${r.found - r.right}, jumps ${r.verdict.jumps.join(',')} of ${r.trial.truth.jumps.join(',')}, rate ${r.verdict.trueRate.toFixed(3)} of ${r.trial.truth.trueRate.toFixed(3)}, ${r.verdict.kind} ${stretches} ${(r.verdict.certainty).toFixed(3)}, blends ${r.verdict.blends.length}\n`,
    );
  }
}
