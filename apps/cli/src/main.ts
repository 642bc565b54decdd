import { parseArgs } from 'node:util';
import { formatRate, parseRate } from '@thawline/core/time';
import { ffmpeg, MediaError, sentence } from '@thawline/media';
import { check, formOf, make, type Progress } from '@thawline/work';
import { checkJson, probeJson } from './json.js';

const USAGE = `Thawline from the shell. JSON goes to standard output, progress to standard error.

  thawline probe FILE --json        what a file stores and what its timestamps measure
  thawline check FILE --json        held pictures, jumps, the true rate
  thawline make IN OUT --rate R [--method nearest|blend] [--json]
                                    the same moments at another rate; OUT ends in .y4m, .mkv (FFV1) or .mp4

R is a rate: 25, 23.976, 24000/1001. Exit code: 0 done, 1 failed, 2 wrong call.
`;

/** The call itself is wrong: told with the usage, exit code 2. */
class WrongCall extends Error {}

const OPTIONS = {
  json: { type: 'boolean' },
  rate: { type: 'string' },
  method: { type: 'string' },
  help: { type: 'boolean', short: 'h' },
} as const;

/** One line that is written over itself on a terminal; a line now and then elsewhere. */
function progressLine(): Progress {
  let last = 0;
  return (done, total, phase) => {
    const now = Date.now();
    if (now - last < (process.stderr.isTTY ? 100 : 2000) && done !== total) return;
    last = now;
    const text = total === null ? `${phase}: ${done}` : `${phase}: ${done} of ${total}`;
    process.stderr.write(process.stderr.isTTY ? `\r\x1b[K${text}${done === total ? '\n' : ''}` : `${text}\n`);
  };
}

async function run(argv: string[]): Promise<void> {
  let parsed: ReturnType<typeof parse>;
  try {
    parsed = parse(argv);
  } catch (error) {
    throw new WrongCall(error instanceof Error ? error.message : String(error));
  }
  const { values, positionals } = parsed;
  const [command, ...files] = positionals;
  if (values.help) {
    process.stdout.write(USAGE);
    return;
  }
  if (command === 'probe') return probeCommand(only(files, 1), values.json ?? false);
  if (command === 'check') return checkCommand(only(files, 1), values.json ?? false);
  if (command === 'make') return makeCommand(files, values);
  throw new WrongCall(command ? `There is no command "${command}".` : 'Say what to do.');
}

function parse(argv: string[]) {
  return parseArgs({ args: argv, options: OPTIONS, allowPositionals: true, strict: true });
}

function only(files: string[], count: number): string {
  if (files.length !== count) throw new WrongCall(`One file is wanted; ${files.length} were given.`);
  return files[0] as string;
}

function print(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value)}\n`);
}

async function probeCommand(file: string, json: boolean): Promise<void> {
  const probe = await told(file, ffmpeg.probe(file));
  if (json) return print(probeJson(file, probe));
  const measured = formatRate(probe.measured.rate);
  const variable = probe.variable ? ', variable timing' : '';
  process.stdout.write(
    `${file}: ${probe.pictures} pictures, stored ${formatRate(probe.stored)}, measured ${measured}${variable}\n`,
  );
}

async function checkCommand(file: string, json: boolean): Promise<void> {
  const probe = await told(file, ffmpeg.probe(file));
  const { verdict } = await told(file, check(ffmpeg, file, probe, progressLine()));
  if (json) return print(checkJson(file, verdict));
  process.stdout.write(
    `${file}: true rate ${verdict.trueRate.toFixed(3)} of ${verdict.storedRate.toFixed(3)}, ${verdict.kind}, ${verdict.held.length} held, ${verdict.jumps.length} jumps\n`,
  );
}

async function makeCommand(files: string[], values: { rate?: string; method?: string; json?: boolean }): Promise<void> {
  if (files.length !== 2) throw new WrongCall('make wants a file to read and a file to write.');
  const [input, output] = files as [string, string];
  if (values.rate === undefined) throw new WrongCall('make wants --rate.');
  const rate = parseRate(values.rate);
  if (!rate) throw new WrongCall(`"${values.rate}" is not a rate. Try 25, 23.976 or 24000/1001.`);
  const method = values.method ?? 'nearest';
  if (method !== 'nearest' && method !== 'blend') throw new WrongCall(`"${method}" is not a method. Try nearest or blend.`);
  if (!formOf(output)) throw new WrongCall('The file to write has to end in .y4m, .mkv or .mp4.');
  const probe = await told(input, ffmpeg.probe(input));
  const made = await told(input, make(ffmpeg, input, probe, output, { rate, method }, progressLine()));
  if (values.json) return print({ ...made, rate });
  process.stdout.write(
    `${output}: ${made.frames} frames at ${formatRate(rate)}, ${made.real} real, ${made.held} held, ${made.blended} blended\n`,
  );
}

/** Names the file in what went wrong. */
async function told<T>(file: string, work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof MediaError) throw new Error(sentence(error.code, file, error.detail));
    throw error;
  }
}

try {
  await run(process.argv.slice(2));
} catch (error) {
  const message = error instanceof Error ? error.message : String(error);
  process.stderr.write(error instanceof WrongCall ? `${message}\n\n${USAGE}` : `${message}\n`);
  process.exitCode = error instanceof WrongCall ? 2 : 1;
}
