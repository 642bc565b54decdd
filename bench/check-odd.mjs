/**
 * npm run bench -- check-odd [SEED] [--all] [--encoder=NAME]: how well a check finds cuts, faulty pictures, missing ones and rhythms of missing ones, by kinds
 * of scenes that it was tuned on and by kinds that it was not. Each clip by three encoders, or by one; --all names those that are wrong.
 */
import { availableParallelism } from 'node:os';
import { ffmpeg } from '../packages/media/dist/index.js';
import { oddTrials } from '../packages/rig/dist/index.js';
import { runInThread } from '../packages/work/dist/index.js';
import { ENCODERS, trialPath, writeTrials } from './trials.mjs';

const only = process.argv.find((a) => a.startsWith('--encoder='))?.slice(10);
const WITH = ENCODERS.filter((e) => (only ? e.name === only : ['h264-18', 'h264-23', 'mpeg4'].includes(e.name)));
const seed = Number(process.argv.slice(2).find((a) => /^\d+$/.test(a)) ?? 101);
await writeTrials(
  seed,
  'odd',
  WITH.map((e) => e.name),
);
const entry = new URL('../packages/work/dist/jobs/worker.js', import.meta.url);
const queue = oddTrials(seed).flatMap((trial) =>
  WITH.map((encoder) => ({ trial, encoder, path: trialPath(seed, trial, encoder, 'odd') })),
);
const results = [];
await Promise.all(
  Array.from({ length: availableParallelism() }, async () => {
    for (let task = queue.shift(); task; task = queue.shift()) {
      const probe = await ffmpeg.probe(task.path);
      const specification = { path: task.path, probe };
      const { verdict } = await runInThread(entry, { kind: 'check', specification }, { progress: () => undefined });
      results.push({ ...task, verdict, ...scored(task.trial.truth, verdict) });
    }
  }),
);
report(seed, results);

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
  const share = (rows, what) => `${rows.filter((r) => r[what]).length}/${rows.length}`;
  for (const keptOut of [false, true]) {
    const rows = results.filter((r) => r.trial.keptOut === keptOut);
    out.push('', keptOut ? 'kinds that nothing was tuned on' : 'kinds that checks were tuned on', '');
    out.push(
      '| clips about | clips | cuts | faults | missing pictures | rhythm right | rate right |',
      '| --- | --- | --- | --- | --- | --- | --- |',
    );
    const kinds = [...new Set(rows.map((r) => r.trial.about))].map((about) => [
      about,
      rows.filter((r) => r.trial.about === about),
    ]);
    const scenes = [...new Set(rows.map((r) => r.trial.name.replace(`${r.trial.about}, `, '')))];
    const byScene = scenes.map((scene) => [scene, rows.filter((r) => r.trial.name === `${r.trial.about}, ${scene}`)]);
    for (const [name, some] of [...kinds, ...byScene, ['all', rows]])
      out.push(
        `| ${[name, some.length, found(some, 'cuts'), found(some, 'faults'), found(some, 'jumps'), share(some, 'rhythm'), share(some, 'rate')].join(' | ')} |`,
      );
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
