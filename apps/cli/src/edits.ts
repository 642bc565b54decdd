import { readFile } from 'node:fs/promises';
import { dirname, extname, resolve } from 'node:path';
import { cadenceFacts } from '@thawline/core/cadence';
import {
  type Edit,
  type Opened,
  readEdl,
  readOtio,
  type Trouble,
  troubleSentence,
  writeEdl,
  writeOtio,
} from '@thawline/core/exchange';
import { clockTimecode, formatExact, formatRate, type Rate, rate } from '@thawline/core/time';
import {
  apply,
  type Clip,
  cadenceAsSeen,
  emptyProject,
  flattened,
  fromEdit,
  type ListEvent,
  lossesOf,
  momentsAFrame,
  noTiming,
  ownRate,
  type Project,
  reportCarry,
  type Timeline,
  toEdit,
} from '@thawline/project';
import { atomicWriteFile } from '@thawline/work';
import { findEditMedia } from './editMedia.js';
import { type Values, WrongCall } from './usage.js';
import { only, optional, rateOf } from './values.js';

/** Edit files from the shell, without a server. Media are looked up beside the edit file; what is not there is known as far as the edit tells. */

export interface EditOptions {
  /** What a CMX 3600 list counts in. */
  readonly from: Rate | null;
}

interface OpenedProject {
  readonly project: Project;
  readonly timeline: Timeline;
  readonly events: readonly ListEvent[];
}

/** The timelines of an edit file. What could not be read is reported on standard error. */
export async function readEdits(path: string, options: EditOptions): Promise<readonly Edit[]> {
  const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    throw new Error(error.code === 'ENOENT' ? `${path} is not there.` : `${path} cannot be read: ${error.message}`);
  });
  if (extname(path).toLowerCase() === '.edl' && !options.from)
    throw new Error(`${path} does not say its rate. Say it with --from 25.`);
  const opened: Opened = extname(path).toLowerCase() === '.edl' ? readEdl(text, options.from ?? rate(25)) : readOtio(text);
  tell(opened.troubles);
  if (opened.edits.length === 0) throw new Error(`${path} was not opened.`);
  return opened.edits;
}

/** Opens an edit file as a project of its own. */
async function open(path: string, options: EditOptions): Promise<OpenedProject> {
  const edits = await readEdits(path, options);
  const [edit] = edits as [Edit];
  if (edits.length > 1) process.stderr.write(`${path} holds ${edits.length} timelines: the first is taken.\n`);
  let made = 0;
  const { sources, find } = await findEditMedia([edit], dirname(resolve(path)), false);
  const { timelines, lost, troubles, events } = fromEdit(edit, { sources, find, newId: () => `n${made++}` });
  tell(troubles.filter((t) => t.code !== 'not-found'));
  const whole = { ...emptyProject(edit.name), sources: [...sources] };
  const applied = apply(whole, { type: 'openEdit', file: path, sources: [...lost], timelines: [...timelines] });
  const timeline = applied.ok && applied.project.timelines.at(-1);
  if (!applied.ok || !timeline) throw new Error(`${path} was not opened: ${applied.ok ? 'it is empty' : applied.code}.`);
  return { project: applied.project, timeline, events };
}

function tell(troubles: readonly Trouble[]): void {
  for (const trouble of troubles) process.stderr.write(`${troubleSentence(trouble)}\n`);
}

export async function editCommand(files: string[], values: Values): Promise<void> {
  await describeEdit(only(files, 1), values.json ?? false, { from: optional(values.from) });
}

export async function carryCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('carry wants an edit file to read and one to write.');
  if (values.rate === undefined) throw new WrongCall('carry wants --rate.');
  const [input, output] = files as [string, string];
  if (!/\.(otio|edl)$/i.test(output)) throw new WrongCall('The file to write has to end in .otio or .edl.');
  await carryFile(input, {
    output,
    to: rateOf(values.rate),
    json: values.json ?? false,
    options: { from: optional(values.from) },
  });
}

/** Writes the edit at another rate. Frames with too few pictures, and what the form cannot carry, are reported on standard error. */
async function carryFile(
  input: string,
  {
    output,
    to,
    json,
    options,
  }: { readonly output: string; readonly to: Rate; readonly json: boolean; readonly options: EditOptions },
): Promise<void> {
  const form = extname(output).toLowerCase() === '.edl' ? 'edl' : 'otio';
  const { project, timeline } = await open(input, options);
  const report = reportCarry(project, timeline, to, noTiming);
  const carried = report.timeline;
  const whole = { ...project, timelines: project.timelines.map((t) => (t.id === carried.id ? carried : t)) };
  for (const loss of lossesOf(whole, carried, form)) process.stderr.write(`${loss}\n`);
  const save = { known: noTiming, urlOf: () => null };
  const text = form === 'edl' ? writeEdl(flattened(whole, carried, save)) : writeOtio(toEdit(whole, carried, save));
  await atomicWriteFile(output, text).catch((error: unknown) => {
    throw new Error(`${output} cannot be written: ${(error as Error).message}`);
  });
  const missing = report.clips.filter((c) => c.missing > 0);
  const told = {
    file: output,
    from: exact(timeline.rate),
    to: exact(to),
    clips: carried.clips.length,
    cuts: report.cuts.length,
    furthestMs: Number(report.furthestMs.toFixed(3)),
    halfFrameMs: Number(report.halfFrameMs.toFixed(3)),
    hitchesBefore: report.clips.reduce((n, c) => n + c.hitchesBefore, 0),
    hitches: report.clips.reduce((n, c) => n + c.hitches, 0),
    tooFewPictures: missing.map((c) => ({ clip: c.after.label ?? c.source.name, start: c.after.start, frames: c.missing })),
  };
  if (json) return void process.stdout.write(`${JSON.stringify(told)}\n`);
  process.stdout.write(
    `${output}: ${told.clips} clips from ${formatRate(timeline.rate)} to ${formatRate(to)}, cuts moved by at most ${told.furthestMs} ms, hitches ${told.hitchesBefore} before, ${told.hitches} now${missing.length > 0 ? `, ${missing.length} with too few pictures` : ''}\n`,
  );
}

/** Rates, steps and hitches of an edit's clips. */
async function describeEdit(input: string, json: boolean, options: EditOptions): Promise<void> {
  const { project, timeline, events } = await open(input, options);
  const clock = { rate: timeline.rate, dropFrame: timeline.dropFrame, startFrame: timeline.startFrame };
  const clips = [...timeline.clips]
    .sort((a, b) => a.start - b.start)
    .map((clip) => ({
      lane: timeline.lanes.find((l) => l.id === clip.laneId)?.name ?? '',
      at: clockTimecode(clip.start, clock),
      ...facts(project, timeline, clip),
      ...labelOf(events.find((e) => e.clipId === clip.id)),
    }));
  if (json) {
    const { name, dropFrame, startFrame, fields } = timeline;
    const told = { file: input, name, rate: exact(timeline.rate), dropFrame, startFrame, ...(fields ? { fields } : {}), clips };
    process.stdout.write(`${JSON.stringify(told)}\n`);
    return;
  }
  process.stdout.write(
    `${timeline.name}, ${formatRate(timeline.rate)}${timeline.fields ? ` of two fields, ${timeline.fields} first` : ''}, ${clips.length} clips\n`,
  );
  for (const c of clips)
    process.stdout.write(
      `${c.at}  ${c.name}, ${c.lane}: ${c.frames}${c.frames === 1 ? ' frame' : ' frames'}, ${c.rate ? formatRate(c.rate) : 'no rate'}, steps ${c.steps.join(' ')}, ${c.hitches} ${c.hitches === 1 ? 'hitch' : 'hitches'}${'label' in c ? `, ${c.label} is ${c.source === null ? 'of a file not found' : `picture ${c.picture} of ${c.source}, ${c.sure}`}` : ''}\n`,
    );
}

/** Of an event of a list: what it names, which picture of its source that is, and how sure; of other forms nothing. */
function labelOf(event: ListEvent | undefined) {
  if (!event) return {};
  const { label, picture, sure, lost, source } = event;
  return { source: lost ? null : source, label, picture, sure: lost ? 'unsure' : sure };
}

/** Steps are the first eight: enough to see the pattern. Where frames are of two fields, they are from field to field. */
function facts(project: Project, timeline: Timeline, clip: Clip) {
  const cadence = cadenceAsSeen(project, timeline, clip, noTiming);
  if (!cadence) throw new Error('a clip without a source');
  const { source, mapping, map } = cadence;
  const own = ownRate(source);
  const measured = cadenceFacts(mapping, map, own);
  return {
    name: clip.label ?? source.name,
    start: clip.start,
    frames: clip.length,
    rate: own && exact(own),
    fit: clip.fit,
    inPicture: map.pictures[0] ?? 0,
    speed: Number(measured.speed.toFixed(6)),
    steps: [...map.steps.slice(1, 9)],
    hitches: map.hitches.length,
    hitchFrames: [...new Set([...map.hitches].map((n) => Math.floor(n / momentsAFrame(timeline)) + clip.start))],
    unevennessMs: Number(measured.unevennessMs.toFixed(3)),
  };
}

function exact(r: Rate): { num: number; den: number; text: string } {
  return { num: r.num, den: r.den, text: formatExact(r) };
}
