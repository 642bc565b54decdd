import type { FieldRun } from '@thawline/core/fields';
import { formatRate, type Rate, rate } from '@thawline/core/time';
import { ffmpeg, type Probe, probeWithFields, statIfThere } from '@thawline/media';
import {
  type FieldsAsked,
  fieldWayWords,
  formSchema,
  hasFilm,
  isSeries,
  outcomeOf,
  runsFor,
  settledForm,
  unheldBy,
} from '@thawline/project';
import { type FieldsWritten, formOf, make, makeLosses, makeRefusal, measureFields } from '@thawline/work';
import { checkCurve, readCurve } from './curve.js';
import { namingFile } from './namingFile.js';
import { print, progressLine } from './out.js';
import { seriesIn, withSeries } from './series.js';
import { type Values, WrongCall } from './usage.js';
import {
  fieldsOf,
  lowPassOf,
  methodOf,
  mixOf,
  optional,
  orderOf,
  overOf,
  rateOf,
  shutterOf,
  speedOf,
  sphereOf,
  threadsOf,
} from './values.js';

export async function makeCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('make wants a file to read and a file to write.');
  const [input, output] = files as [string, string];
  if (values.rate === undefined && values.fields === undefined) throw new WrongCall('make wants --rate, or --fields.');
  if (values.order !== undefined && values.fields === undefined) throw new WrongCall('--order goes with --fields.');
  const asked = values.fields === undefined ? null : { way: fieldsOf(values.fields), order: orderOf(values.order ?? 'measured') };
  const said = optional(values.rate);
  const method = methodOf(values.method ?? 'nearest');
  const mix = mixOf(values.mix ?? 'stored');
  const speed = speedOf(values.speed ?? '1');
  const shutterDegrees = shutterOf(values.shutter ?? '0');
  const threads = {
    count: threadsOf(values.threads),
    entry: new URL(import.meta.resolve('@thawline/work/motion/worker')),
  };
  const form = formOf(output);
  if (!form)
    throw new WrongCall(
      'The file to write has to end in .y4m, .mkv, .mov, .mp4 or .webm, or be numbered: shot-####.png or .tif.',
    );
  const over = values.over === undefined ? undefined : overOf(values.over);
  const sphere = values.projection === undefined ? undefined : sphereOf(values.projection);
  const fields = fieldsWritten(values);
  if (fields && (form === 'y4m' || isSeries(form)))
    throw new WrongCall(
      `Fields are written as .mp4, .mov or .mkv: ${form === 'y4m' ? 'Y4M here holds' : 'numbered files are'} whole pictures.`,
    );
  if (fields && form === 'webm') throw new WrongCall('VP9 has no fields. Write .mp4, .mov or .mkv.');
  const curve = values.curve === undefined ? null : await readCurve(values.curve);
  const isFolder = (await statIfThere(input))?.isDirectory() === true;
  if (isFolder && values.from === undefined)
    throw new WrongCall(`${input} is a folder: numbered pictures want --from, the rate they are read at.`);
  const numbered = isFolder ? await seriesIn(input) : null;
  const asRead = values.from === undefined ? rate(25) : rateOf(values.from);
  const lent = <T>(use: (path: string) => Promise<T>): Promise<T> => (numbered ? withSeries(input, numbered, use) : use(input));
  await lent(async (path) => {
    const stored = await namingFile(
      input,
      numbered ? ffmpeg.probeSeries(path, { pictures: numbered.files.length, rate: asRead }) : ffmpeg.probe(path),
    );
    const probe = asked ? await namingFile(input, withFields(path, stored, asked)) : stored;
    const wanted = said ?? rateAsRead(probe);
    if (fields) checkFields(output, { ...probe, rate: wanted });
    if (curve && values.curve) checkCurve(curve, values.curve, probe.pictures);
    const options = {
      rate: wanted,
      method,
      mix,
      speed,
      shutterDegrees,
      threads,
      ...(curve ? { curve } : {}),
      ...(fields ? { fields } : {}),
      ...(over ? { over } : {}),
      ...(sphere === undefined ? {} : { sphere }),
    };
    const refusal = makeRefusal(probe, output, options);
    if (refusal) throw new Error(`${input}: ${refusal} (--over black, say)`);
    for (const lost of makeLosses(probe, output, options)) process.stderr.write(`Not kept: ${lost}.\n`);
    const made = await namingFile(
      input,
      make({ media: ffmpeg, progress: progressLine() }, { input: path, probe, output, options }),
    );
    if (values.json) return print({ ...made, speed, ...(probe.fieldsRead ? { fields: probe.fieldsRead.runs } : {}) });
    process.stdout.write(
      `${output}: ${made.frames}${made.frames === 1 ? ' frame' : ' frames'} at ${formatRate(made.rate)}${fields ? `, ${fields.order} field first; ${fields.pulldown ? 'of film' : 'of its fields'} ` : ', '}${made.real} real, ${made.held} held, ${made.blended} blended, ${made.made} made by motion${cutWords(made.cuts)}${sureWords(made.leastCertainty)}${probe.fieldsRead ? fieldsWords(probe.fieldsRead.runs) : ''}${made.notKept.length > 0 ? `; not kept: ${made.notKept.join('; ')}` : ''}\n`,
    );
  });
}

/** The file's facts with its fields read as asked. What was not said is measured, and so is where film lies. */
async function withFields(input: string, probe: Probe, asked: FieldsAsked): Promise<Probe> {
  if (probe.kind !== 'film' || probe.height % 2 !== 0)
    throw new Error(`${input} has no fields: it is no film, or its pictures have an odd number of lines.`);
  const isSaid = asked.way === 'progressive' || (asked.way !== 'film' && asked.way !== 'measured' && asked.order !== 'measured');
  const finding = isSaid ? null : await measureFields({ media: ffmpeg, progress: progressLine() }, { path: input, probe });
  if (asked.way === 'film' && !hasFilm(finding))
    throw new Error(`No film was found in the fields of ${input}. Read it one picture a field, or one a frame.`);
  return probeWithFields(probe, runsFor({ frames: probe.pictures, flag: probe.fields, finding }, asked));
}

/** How fields are to be written; null for whole pictures. */
function fieldsWritten({ interlaced, lowpass, pulldown }: Values): FieldsWritten | null {
  if (pulldown !== undefined && pulldown !== '2:3') throw new WrongCall(`"${pulldown}" is no pulldown. There is 2:3.`);
  if (interlaced === undefined && pulldown === undefined) {
    if (lowpass !== undefined) throw new WrongCall('--lowpass goes with --interlaced, or with --pulldown.');
    return null;
  }
  const order = interlaced ?? 'top';
  if (order !== 'top' && order !== 'bottom') throw new WrongCall(`"${order}" is no order of fields. These are: top, bottom.`);
  return { order, lowPass: lowPassOf(lowpass ?? 'off'), pulldown: pulldown !== undefined };
}

/** Refuses fields that the file's coder cannot hold. */
function checkFields(output: string, frames: { readonly rate: Rate; readonly width: number; readonly height: number }): void {
  const form = settledForm(formSchema.parse({ kind: formOf(output), fields: { order: 'top' } }));
  const unheld = unheldBy(form, frames);
  if (unheld) throw new WrongCall(unheld);
}

function rateAsRead(probe: Probe): Rate {
  if (!probe.measured || probe.variable) throw new WrongCall('Stretches of these fields have rates of their own: say --rate.');
  return probe.measured.rate;
}

function fieldsWords(runs: readonly FieldRun[]): string {
  const { linesKept, breaks } = outcomeOf(runs);
  const kept = `${Math.round(linesKept * 100)} % of lines as stored`;
  return `; fields read: ${fieldWayWords(runs)}, ${kept}${breaks > 0 ? `, ${breaks} ${breaks === 1 ? 'break' : 'breaks'} in the beat bridged` : ''}`;
}

function cutWords(cuts: number): string {
  return cuts === 0 ? '' : `, ${cuts} at cuts as the nearer picture`;
}

function sureWords(least: number | null): string {
  return least === null ? '' : `; least sure ${least.toFixed(2)}`;
}
