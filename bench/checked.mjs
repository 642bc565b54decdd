/** Checks of trial clips, for benches: as many at a time as there are cores, each in a thread of its own as in the product. */
import { availableParallelism } from 'node:os';
import { ffmpeg } from '../packages/media/dist/index.js';
import { runInThread } from '../packages/work/dist/index.js';
import { SETS, trialPath, writeTrials } from './trials.mjs';

const entry = new URL('../packages/work/dist/jobs/worker.js', import.meta.url);

/** What a check says of the wanted trials of a set by each encoder. @returns trial, encoder, probe and verdict of each, in no order */
export async function checkedTrials(seed, what, encoders, isWanted = () => true) {
  await writeTrials(seed, what, encoders);
  const queue = SETS[what](seed)
    .filter(isWanted)
    .flatMap((trial) =>
      encoders.map((encoder) => ({ trial, encoder, path: trialPath(seed, trial, encoder, what) })).filter((t) => t.path),
    );
  const checked = [];
  await Promise.all(
    Array.from({ length: availableParallelism() }, async () => {
      for (let task = queue.shift(); task; task = queue.shift()) {
        const probe = await ffmpeg.probe(task.path);
        const specification = { path: task.path, probe };
        const { verdict } = await runInThread(entry, { kind: 'check', specification }, { progress: () => undefined });
        checked.push({ ...task, probe, verdict });
      }
    }),
  );
  return checked;
}

export const seedOf = () => Number(process.argv.slice(2).find((a) => /^\d+$/.test(a)) ?? 101);

/** Both tables, of kinds that checks were tuned on and of kinds that they were not: a row for each kind of clip, each scene, and all. */
export function bothTables(results, heads, cells) {
  const out = [];
  for (const keptOut of [false, true]) {
    const rows = results.filter((r) => r.trial.keptOut === keptOut);
    out.push('', keptOut ? 'kinds that nothing was tuned on' : 'kinds that checks were tuned on', '');
    out.push(`| clips | ${heads.join(' | ')} |`, `| --- |${heads.map(() => ' --- |').join('')}`);
    const sceneOf = (r) => r.trial.name.split(', ').at(-1);
    const groups = [
      ...[...new Set(rows.map((r) => r.trial.about))].map((about) => [about, rows.filter((r) => r.trial.about === about)]),
      ...[...new Set(rows.map(sceneOf))].map((scene) => [scene, rows.filter((r) => sceneOf(r) === scene)]),
      ['all', rows],
    ];
    for (const [name, some] of groups) out.push(`| ${[name, ...cells(some)].join(' | ')} |`);
  }
  return out.join('\n');
}

export const share = (rows, is) => `${rows.filter(is).length}/${rows.length}`;

/** Of the faults that are told how many are right in picture and kind, by how certain they are said to be. @param told their certainties, and whether they are right */
export function certaintyTable(told) {
  const out = ['', '| certainty of faults | told | right | said on average |', '| --- | --- | --- | --- |'];
  const bounds = [0, 0.5, 0.9, 0.93, 0.96, 1];
  for (let i = 0; i + 1 < bounds.length; i++) {
    const some = told.filter((one) => one.certainty >= bounds[i] && one.certainty < bounds[i + 1]);
    const mean = some.reduce((sum, one) => sum + one.certainty, 0) / some.length;
    const right = share(some, (one) => one.right);
    if (some.length > 0) out.push(`| ${bounds[i]} to ${bounds[i + 1]} | ${some.length} | ${right} | ${mean.toFixed(3)} |`);
  }
  return out.join('\n');
}
