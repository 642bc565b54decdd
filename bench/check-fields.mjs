/**
 * npm run bench -- check-fields [SEED] [--all]: how well a check tells what fields are (kind, order, stretches, breaks, whether the flag is
 * right), by kinds of scenes that it was tuned on and by kinds that it was not; coded as fields and as whole pictures, flagged rightly,
 * wrongly and not at all. --all names those that are wrong.
 */
import { bothTables, checkedTrials, seedOf, share } from './checked.mjs';

const ILACE = ['-flags', '+ilme+ildct', '-top', '1'];
const MPEG2 = ['-c:v', 'mpeg2video', '-b:v', '8M', '-bf', '2'];
const H264 = ['-c:v', 'libx264', '-preset', 'medium', '-crf', '23', '-threads', '2'];
const ENCODERS = [
  { name: 'h264', ending: 'mp4', args: H264, fields: ['-flags', '+ilme+ildct', '-x264-params', 'tff=1'] },
  { name: 'h264-whole', ending: 'mp4', args: H264, fields: [] },
  { name: 'mpeg2', ending: 'mpg', args: MPEG2, fields: ILACE },
  { name: 'mpeg2-lies', ending: 'mpg', args: MPEG2, fields: ILACE, lies: true },
];

const kindOf = (stretches) => (new Set(stretches.map((s) => s.kind)).size > 1 ? 'mixed' : stretches[0].kind);

/** Places may be one picture off: the picture between two stretches is of both. */
function scored({ trial, probe, verdict }) {
  const { stretches, first, breaks } = trial.truth;
  const { fields } = verdict;
  const kind = fields.kind === kindOf(stretches);
  const order = fields.first === first;
  const near = (a, b) => Math.abs(a - b) <= 1;
  const places =
    fields.stretches.length === stretches.length &&
    fields.stretches.every((s, i) => s.kind === stretches[i].kind && near(s.from, stretches[i].from));
  const found = fields.breaks.length === breaks.length && fields.breaks.every((b, i) => near(b, breaks[i]));
  const said = probe.flagged === false ? null : probe.fields;
  const isRight = stretches.every((s) => said === (s.kind === 'none' ? 'progressive' : first));
  const flag = fields.flag === (said === null ? 'absent' : isRight ? 'right' : 'wrong');
  return { kind, order, places: places && found, flag, all: kind && order && places && found && flag };
}

const seed = seedOf();
const results = (await checkedTrials(seed, 'fields', ENCODERS)).map((r) => ({ ...r, ...scored(r) }));
process.stdout.write(`seed ${seed}: ${results.length} clips\n`);
const columns = ['kind', 'order', 'places', 'flag', 'all'];
process.stdout.write(`${bothTables(results, columns, (rows) => columns.map((column) => share(rows, (r) => r[column])))}\n`);
if (process.argv.includes('--all'))
  for (const { trial, encoder, verdict, all } of results) {
    if (all) continue;
    const { kind, first, flag, certainty, stretches, breaks } = verdict.fields;
    const told = stretches.map((s) => `${s.from}-${s.to} ${s.kind} ${s.certainty.toFixed(2)}`).join(', ');
    process.stdout.write(
      `${trial.name}.${encoder.name}: ${kind} ${first} ${flag} ${certainty.toFixed(3)}, ${told}, breaks ${breaks.join(',')}; ${verdict.kind}\n`,
    );
  }
