import { extname } from 'node:path';
import { parseArgs } from 'node:util';
import { spread } from '@thawline/core/align';
import { CALM_SECONDS, quickPans } from '@thawline/core/motion';
import { formatExact, formatRate, type Rate, rateToNumber } from '@thawline/core/time';
import { ffmpeg, sentence } from '@thawline/media';
import {
  align,
  type CheckOptions,
  check,
  compare,
  formOf,
  heldOut,
  make,
  measurePan,
  type Progress,
  SoundError,
} from '@thawline/work';
import { checkCurve, readCurve } from './curve.js';
import { carryFile, describeEdit } from './edits.js';
import { alignJson, checkJson, compareJson } from './json.js';
import { probeAll } from './probe.js';
import { type RenderOptions, readForm, receiptOf, renderFile } from './render.js';
import { told } from './told.js';
import { methodOf, mixOf, only, optional, partOf, rateOf, shutterOf, speedOf, threadsOf, WrongCall } from './values.js';

const USAGE = `Thawline from the shell. JSON goes to standard output, progress to standard error.

  thawline probe FILE|FOLDER... [--json|--csv] [--rate R]
                                    what files store and what their timestamps measure; --json prints a line for each,
                                    --rate is what numbered pictures in folders are read at
  thawline check FILE [--json] [--pictures FROM-TO] [--region X,Y,W,H]
                                    held pictures, jumps, blends, fields, the true rate; of a part of the file (TO is not
                                    included) or of each picture (in its pixels), where a counter is burnt in beside it, say
  thawline compare A B [--json]     which pictures of A are shown by B: offset, speed, dropped, repeated, mixed; exit 1 when
                                    the two do not show the same
  thawline align A B [--json]       two recordings of one event by their sound: where B lies and how fast its clock runs,
                                    b = offset + ratio * a; exit 1 when the sounds do not match
  thawline make IN OUT --rate R [--speed S] [--method nearest|blend|motion] [--shutter D]
                [--mix stored|light] [--curve FILE.json] [--threads N] [--json]
                                    the same moments at another rate, S times as fast (0.25, 25%, 1/4; then without sound);
                                    between two pictures stands the earlier one, a mix, or one made by motion
                                    (in N threads; as many as there are cores if nothing is said);
                                    a blend mixes samples as stored, or in linear light;
                                    a shutter open for D of 360 degrees of a frame averages what it covers;
                                    a curve ties pictures to frames, [{"frame": 0, "picture": 0, "way": "even"}, ...], the ways
                                    on are even, eased or held;
                                    OUT ends in .y4m, .mkv (FFV1) or .mp4
  thawline heldout IN [--json]      hides every second picture, makes it from its neighbours by motion, and compares: what
                                    the material allows
  thawline pan IN [--json] [--rate R]
                                    how the camera moves from picture to picture, and where a point crosses the frame in under
                                    7 s: shown at R, or as the file is timed
  thawline edit IN.otio|IN.edl [--json] [--from R]
                                    an edit's clips with their rates, steps and hitches; --from is what a list (.edl) counts in
  thawline carry IN OUT --rate R [--json] [--from R]
                                    the edit at another rate: each cut at its nearest frame, pictures in real time;
                                    OUT ends in .otio or .edl
  thawline render EDIT.otio OUT [--timeline NAME] [--form FORM] [--rate R [--method nearest|blend|motion]]
                  [--receipt FILE.json] [--json] [--from R]
                                    writes an edit, measures the file against it, and says what differs; FORM is mp4, webm,
                                    mkv, y4m, png or wav (else what OUT ends in), with what is asked of it behind a colon:
                                    mp4:quality=20,depth=10,sound=off, webm:av1; a name that is taken gets a number
  thawline receipt FILE --against EDIT.otio [--timeline NAME] [--form FORM] [--rate R] [--json] [--from R]
                                    measures any file against an edit: rate, every timestamp, sound, and which picture each
                                    frame shows

R is a rate: 25, 23.976, 24000/1001. Exit code: 0 done, 1 failed, 2 wrong call.
`;

const OPTIONS = {
  json: { type: 'boolean' },
  csv: { type: 'boolean' },
  rate: { type: 'string' },
  method: { type: 'string' },
  shutter: { type: 'string' },
  threads: { type: 'string' },
  speed: { type: 'string' },
  curve: { type: 'string' },
  mix: { type: 'string' },
  from: { type: 'string' },
  pictures: { type: 'string' },
  region: { type: 'string' },
  timeline: { type: 'string' },
  form: { type: 'string' },
  receipt: { type: 'string' },
  against: { type: 'string' },
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
  if (command === 'probe') return probeMany(files, values);
  if (command === 'check') return checkCommand(only(files, 1), values.json ?? false, partOf(values));
  if (command === 'compare') return compareCommand(files, values.json ?? false);
  if (command === 'align') return alignCommand(files, values.json ?? false);
  if (command === 'make') return makeCommand(files, values);
  if (command === 'heldout') return heldOutCommand(only(files, 1), values.json ?? false);
  if (command === 'pan') return panCommand(only(files, 1), values.json ?? false, optional(values.rate));
  if (command === 'edit') return describeEdit(only(files, 1), values.json ?? false, { from: optional(values.from) });
  if (command === 'carry') return carryCommand(files, values);
  if (command === 'render') return renderCommand(files, values);
  if (command === 'receipt') return receiptCommand(only(files, 1), values);
  throw new WrongCall(command ? `There is no command "${command}".` : 'Say what to do.');
}

function parse(argv: string[]) {
  return parseArgs({ args: argv, options: OPTIONS, allowPositionals: true, strict: true });
}

function print(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value)}\n`);
}

async function probeMany(paths: string[], values: { json?: boolean; csv?: boolean; rate?: string }): Promise<void> {
  if (paths.length === 0) throw new WrongCall('probe wants at least one file or folder.');
  if (values.json && values.csv) throw new WrongCall('Either --json or --csv.');
  const form = values.json ? 'json' : values.csv ? 'csv' : 'words';
  const failed = await probeAll(paths, form, values.rate === undefined ? null : rateOf(values.rate));
  if (failed > 0) process.exitCode = 1;
}

async function carryCommand(files: string[], values: { rate?: string; from?: string; json?: boolean }): Promise<void> {
  if (files.length !== 2) throw new WrongCall('carry wants an edit file to read and one to write.');
  if (values.rate === undefined) throw new WrongCall('carry wants --rate.');
  const [input, output] = files as [string, string];
  if (!/\.(otio|edl)$/i.test(output)) throw new WrongCall('The file to write has to end in .otio or .edl.');
  await carryFile(input, output, rateOf(values.rate), values.json ?? false, { from: optional(values.from) });
}

interface FormValues {
  timeline?: string;
  form?: string;
  rate?: string;
  method?: string;
  from?: string;
}

function renderOptions(values: FormValues, file: string): RenderOptions {
  const form = readForm(values.form, extname(file).slice(1).toLowerCase() || 'png');
  if (typeof form === 'string') throw new WrongCall(form);
  const way = methodOf(values.method ?? 'nearest');
  return {
    from: optional(values.from),
    timeline: values.timeline ?? null,
    form: { ...form, rate: optional(values.rate), way },
  };
}

async function renderCommand(files: string[], values: FormValues & { receipt?: string; json?: boolean }): Promise<void> {
  if (files.length !== 2) throw new WrongCall('render wants an edit file and a file to write.');
  const [edit, output] = files as [string, string];
  const keep = { receipt: values.receipt ?? null, json: values.json ?? false };
  await renderFile(edit, output, renderOptions(values, output), keep, progressLine());
}

async function receiptCommand(file: string, values: FormValues & { against?: string; json?: boolean }): Promise<void> {
  if (values.against === undefined) throw new WrongCall('receipt wants --against and an edit file.');
  await receiptOf(file, values.against, renderOptions(values, file), values.json ?? false, progressLine());
}

async function compareCommand(files: string[], json: boolean): Promise<void> {
  if (files.length !== 2) throw new WrongCall('compare wants two files.');
  const [a, b] = files as [string, string];
  const [probeA, probeB] = [await told(a, ffmpeg.probe(a)), await told(b, ffmpeg.probe(b))];
  const found = await told(b, compare(ffmpeg, { path: a, probe: probeA }, { path: b, probe: probeB }, progressLine()));
  if (found.certainty < 0.5) process.exitCode = 1;
  if (json) return print(compareJson(a, b, found));
  process.stdout.write(
    found.certainty < 0.5
      ? `${b} does not show the pictures of ${a}.\n`
      : `${b} shows ${a} from ${found.offsetSeconds.toFixed(3)} s at ${(found.speed * 100).toFixed(3)} %: ${found.path.length} pictures matched, ${found.droppedFromA.length} dropped, ${found.repeatedInB.length} repeated, ${found.blendsInB.length} mixed\n`,
  );
}

async function alignCommand(files: string[], json: boolean): Promise<void> {
  if (files.length !== 2) throw new WrongCall('align wants two files.');
  const [a, b] = files as [string, string];
  const [probeA, probeB] = [await told(a, ffmpeg.probe(a)), await told(b, ffmpeg.probe(b))];
  const work = align(ffmpeg, { path: a, probe: probeA }, { path: b, probe: probeB }, progressLine());
  const found = await work.catch((error: unknown) => {
    if (error instanceof SoundError) throw new Error(sentence(error.code, error.which === 'a' ? a : b, error.detail));
    throw error;
  });
  const { solution, certainty, ties } = found;
  const matched = certainty >= 0.5 && solution !== null;
  if (!matched) process.exitCode = 1;
  if (json) return print(alignJson(a, b, found));
  if (!matched) {
    process.stdout.write(`The sounds of ${a} and ${b} do not match.\n`);
    return;
  }
  const drift = solution.drifts
    ? `its clock runs ${formatExact(solution.ratio)}, ${solution.driftPpm >= 0 ? '+' : ''}${solution.driftPpm.toFixed(1)} ppm`
    : 'its ties lie too close together to tell a drift';
  process.stdout.write(
    `${b} lies ${Math.abs(solution.offsetSeconds).toFixed(4)} s ${solution.offsetSeconds >= 0 ? 'later' : 'earlier'} on its own clock than ${a}; ${drift}; ${ties.length} ties, ${(spread(solution) * 1000).toFixed(2)} ms left over\n`,
  );
}

async function checkCommand(file: string, json: boolean, part: CheckOptions): Promise<void> {
  const probe = await told(file, ffmpeg.probe(file));
  const { verdict, counter } = await told(file, check(ffmpeg, file, probe, progressLine(), undefined, part));
  if (json) return print({ ...checkJson(file, verdict), counter });
  process.stdout.write(
    `${file}: true rate ${verdict.trueRate.toFixed(3)} of ${verdict.storedRate.toFixed(3)}, ${verdict.kind}, ${verdict.held.length} held, ${verdict.jumps.length} jumps\n`,
  );
}

async function makeCommand(
  files: string[],
  values: {
    rate?: string;
    speed?: string;
    method?: string;
    shutter?: string;
    mix?: string;
    curve?: string;
    threads?: string;
    json?: boolean;
  },
): Promise<void> {
  if (files.length !== 2) throw new WrongCall('make wants a file to read and a file to write.');
  const [input, output] = files as [string, string];
  if (values.rate === undefined) throw new WrongCall('make wants --rate.');
  const rate = rateOf(values.rate);
  const method = methodOf(values.method ?? 'nearest');
  const speed = speedOf(values.speed ?? '1');
  const shutterDegrees = shutterOf(values.shutter ?? '0');
  const threads = {
    count: threadsOf(values.threads),
    entry: new URL('./motionWorker.js', import.meta.resolve('@thawline/work')),
  };
  if (!formOf(output)) throw new WrongCall('The file to write has to end in .y4m, .mkv or .mp4.');
  const curve = values.curve === undefined ? null : await readCurve(values.curve);
  const probe = await told(input, ffmpeg.probe(input));
  if (curve && values.curve) checkCurve(curve, values.curve, probe.pictures);
  const options = {
    rate,
    method,
    mix: mixOf(values.mix ?? 'stored'),
    speed,
    shutterDegrees,
    threads,
    ...(curve ? { curve } : {}),
  };
  const made = await told(input, make(ffmpeg, input, probe, output, options, progressLine()));
  if (values.json) return print({ ...made, rate, speed });
  process.stdout.write(
    `${output}: ${made.frames} frames at ${formatRate(rate)}, ${made.real} real, ${made.held} held, ${made.blended} blended, ${made.made} made by motion${cutWords(made.cuts)}${sureWords(made.leastCertainty)}\n`,
  );
}

function cutWords(cuts: number): string {
  return cuts === 0 ? '' : `, ${cuts} at cuts as the nearer picture`;
}

function sureWords(least: number | null): string {
  return least === null ? '' : `; least sure ${least.toFixed(2)}`;
}

async function heldOutCommand(file: string, json: boolean): Promise<void> {
  const probe = await told(file, ffmpeg.probe(file));
  const found = await told(file, heldOut(ffmpeg, file, probe, progressLine()));
  if (json) return print(found);
  const worst = found.perPicture.reduce((a, b) => (b.psnr < a.psnr ? b : a));
  process.stdout.write(
    `${file}: ${found.perPicture.length} pictures hidden and made again: PSNR ${found.psnr.toFixed(2)} dB, SSIM ${found.ssim.toFixed(4)}; picture ${worst.picture} is the worst with ${worst.psnr.toFixed(2)} dB\n`,
  );
}

async function panCommand(file: string, json: boolean, shownAt: Rate | null): Promise<void> {
  const probe = await told(file, ffmpeg.probe(file));
  const { shifts } = await told(file, measurePan(ffmpeg, file, probe, progressLine()));
  const rate = shownAt ?? probe.measured?.rate ?? probe.stored;
  if (!rate) throw new WrongCall(`${file} has no rate of its own: say --rate.`);
  const pans = quickPans(shifts, rateToNumber(rate));
  if (json) return print({ rate, shifts, pans });
  const words = pans.map((p) => `pictures ${p.from} to ${p.to - 1} cross the frame in ${p.seconds.toFixed(1)} s`);
  process.stdout.write(
    `${file} at ${formatRate(rate)}: ${words.length === 0 ? `nothing crosses the frame in under ${CALM_SECONDS} s` : words.join('; ')}\n`,
  );
}

// Whoever reads our lines may stop: `thawline probe … | head`.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

try {
  await run(process.argv.slice(2));
} catch (error) {
  const message = error instanceof Error ? error.message : String(error);
  process.stderr.write(error instanceof WrongCall ? `${message}\n\n${USAGE}` : `${message}\n`);
  process.exitCode = error instanceof WrongCall ? 2 : 1;
}
