import { mkdtemp, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { FIELD_ORDERS, type FieldOrder, LOW_PASSES, type LowPass } from '@thawline/core/fields';
import { paintHex, paintOf } from '@thawline/core/picture';
import { formatRate } from '@thawline/core/time';
import { ffmpeg, MediaError, sentence, statIfThere } from '@thawline/media';
import {
  apply,
  channelNotes,
  emptyProject,
  FORM_KINDS,
  FORMS,
  type FormKind,
  formSchema,
  fromEdit,
  gradesOf,
  isSeries,
  type Project,
  pictureNotes,
  type RenderForm,
  renderedAt,
  SOUND_CODECS,
  type SoundCodec,
  settledForm,
  type Timeline,
  unheldBy,
} from '@thawline/project';
import {
  atomicWriteFile,
  fingerprintOfAll,
  measureReceipt,
  type Progress,
  type Receipt,
  type RenderInput,
  renderTimeline,
} from '@thawline/work';
import { findEditMedia } from './editMedia.js';
import { type EditOptions, readEdits } from './edits.js';
import { namingFile } from './namingFile.js';
import { progressLine } from './out.js';
import { type Values, WrongCall } from './usage.js';
import { methodOf, only, optional } from './values.js';

/** Rendering an edit file, and measuring a file against one, from the shell: no server, no data folder. */

interface RenderOptions extends EditOptions {
  /** Name of the timeline where the file holds several; the first when left out. */
  readonly timeline: string | null;
  readonly form: RenderForm;
  /** What is written or measured: of numbered pictures their folder. */
  readonly path: string;
}

/** Forms whose frames can be of two fields. */
const FIELD_KINDS = FORM_KINDS.filter((kind) => FORMS[kind].fields);

/** At the first colon alone: what comes behind may hold another. */
function headAndRest(text: string): [string, string] {
  const at = text.indexOf(':');
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)];
}

/** What a form is called on the shell: "mp4", "webm:av1", "mp4:quality=20,depth=10,peak=-1,sound=off". */
export function readForm(text: string | undefined, ending: string): RenderForm | string {
  const [kind = '', rest = ''] = text === undefined ? [ending, ''] : headAndRest(text);
  if (!FORM_KINDS.includes(kind as FormKind))
    return `"${kind}" is no form. There are ${FORM_KINDS.join(', ')}${text === undefined ? '; say one with --form' : ''}.`;
  const asked: Record<string, unknown> = { kind };
  const fields: Record<string, unknown> = {};
  const numbered: Record<string, unknown> = {};
  let grade: string | null = null;
  for (const part of rest.split(',').filter(Boolean)) {
    const [name = '', value] = part.split('=', 2);
    if (value === undefined && FORMS[kind as FormKind].codecs.includes(name as never)) asked.codec = name;
    else if (name === 'quality' || name === 'depth' || name === 'peak') asked[name] = Number(value);
    else if (name === 'chroma') asked.chroma = value;
    else if (name === 'over') {
      const paint = paintOf(value ?? '');
      if (value !== 'nothing' && !paint)
        return `"${value ?? ''}" is no colour. Say over=black, over=grey, over=white or over=#rrggbb; or over=nothing, and alpha is kept.`;
      asked.over = paint ? paintHex(paint) : value;
    } else if (name === 'sound' && SOUND_CODECS.includes(value as SoundCodec)) asked.soundCodec = value;
    else if (name === 'sound') asked.sound = value === 'off' || value === 'all' ? value : 'stereo';
    else if (name === 'grade') grade = value ?? '';
    else if (name === 'name') numbered.name = value;
    else if (name === 'first') numbered.first = Number(value);
    else if (name === 'fields') fields.order = value;
    else if (name === 'lowpass') fields.lowPass = value;
    else if (name === 'pulldown' && value === '2:3') fields.pulldown = true;
    else if (name === 'timecode') asked.timecode = value !== 'off';
    else return `"${part}" is not understood in a form. Try mp4:quality=20,depth=10,chroma=422,peak=-1,sound=off.`;
  }
  if (Object.keys(numbered).length > 0) {
    if (!isSeries(kind as FormKind))
      return `${FORMS[kind as FormKind].words} is no folder of numbered pictures: it takes no name and first.`;
    asked.numbered = numbered;
  }
  if (fields.order === 'whole') asked.fields = 'whole';
  else if (Object.keys(fields).length > 0) {
    if (!FORMS[kind as FormKind].fields)
      return `${FORMS[kind as FormKind].words} holds whole pictures: fields go into ${FIELD_KINDS.join(', ')}.`;
    const { order = fields.pulldown ? 'top' : undefined, lowPass = 'off' } = fields;
    if (!FIELD_ORDERS.includes(order as FieldOrder))
      return `"${order ?? ''}" is no order of fields. In a form it is fields=top, fields=bottom, or fields=whole for whole pictures.`;
    if (!LOW_PASSES.includes(lowPass as LowPass)) return `"${lowPass}" is no low-pass. There are ${LOW_PASSES.join(', ')}.`;
    asked.fields = { ...fields, order };
  }
  const parsed = formSchema.safeParse(asked);
  if (parsed.success && grade !== null) {
    const grades = gradesOf(settledForm(parsed.data)).map(shortGrade);
    const found = grades.indexOf(grade.toLowerCase());
    if (found < 0) return `"${grade}" is no grade of this form.${grades.length > 1 ? ` There are ${grades.join(', ')}.` : ''}`;
    return settledForm({ ...parsed.data, grade: found });
  }
  return parsed.success
    ? settledForm(parsed.data)
    : `${parsed.error.issues[0]?.path.join('.')}: ${parsed.error.issues[0]?.message}`;
}

/** "proxy" of "422 Proxy". */
function shortGrade(name: string): string {
  return name.toLowerCase().replace(/^422 /, '');
}

/** The form that a file's ending means. */
function kindOf(file: string): string {
  const ending = extname(file).slice(1).toLowerCase() || 'png';
  return FORM_KINDS.find((kind) => FORMS[kind].ending === ending) ?? ending;
}

/** Whether a path names numbered pictures in a folder: "shots/thaw-####.png". */
function namesPictures(file: string, form: Pick<RenderForm, 'kind'>): boolean {
  return isSeries(form.kind) && basename(file).includes('#');
}

function renderOptions(values: Values, file: string): RenderOptions {
  const read = readForm(values.form, kindOf(file));
  if (typeof read === 'string') throw new WrongCall(read);
  const isNamed = namesPictures(file, read);
  const numbered = { name: basename(file, extname(file)), first: read.numbered?.first ?? 0 };
  const named = formSchema.safeParse({ ...read, ...(isNamed ? { numbered } : {}) });
  if (!named.success) throw new WrongCall(`"${basename(file)}" wants one run of # where the number goes, as in shot-####.png.`);
  const form = named.data;
  const way = methodOf(values.method ?? 'nearest');
  return {
    from: optional(values.from),
    timeline: values.timeline ?? null,
    form: { ...form, rate: optional(values.rate), way },
    path: isNamed ? dirname(file) : file,
  };
}

/** An edit with the files it names, found by their full address, else beside the edit file. */
async function inputOf(path: string, options: RenderOptions): Promise<RenderInput & { readonly name: string }> {
  const edits = await readEdits(path, options);
  const edit = options.timeline === null ? edits[0] : edits.find((e) => e.name === options.timeline);
  if (!edit)
    throw new Error(
      options.timeline === null
        ? `${path} holds no timeline.`
        : `${path} has no timeline "${options.timeline}". There are ${edits.map((e) => `"${e.name}"`).join(', ')}.`,
    );
  const { sources, files, find } = await findEditMedia([edit], dirname(resolve(path)), true);
  let made = 0;
  const opened = fromEdit(edit, { sources, find, newId: () => `n${made++}` });
  if (opened.lost[0]) throw new Error(`${path} names ${opened.lost[0].name}, which is not to be found.`);
  const whole: Project = { ...emptyProject(edit.name), sources: [...sources] };
  const applied = apply(whole, { type: 'openEdit', file: path, sources: [], timelines: [...opened.timelines] });
  const timeline = applied.ok && applied.project.timelines.at(-1);
  if (!applied.ok || !timeline) throw new Error(`${path} was not opened: ${applied.ok ? 'it is empty' : applied.code}.`);
  return { ...renderedAt(applied.project, timeline as Timeline, options.form), files, name: edit.name };
}

export async function renderCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('render wants an edit file and a file to write.');
  const [edit, output] = files as [string, string];
  const keep = { receipt: values.receipt ?? null, json: values.json ?? false };
  await renderFile(edit, output, renderOptions(values, output), keep, progressLine());
}

export async function receiptCommand(files: string[], values: Values): Promise<void> {
  const file = only(files, 1);
  if (values.against === undefined) throw new WrongCall('receipt wants --against and an edit file.');
  const options = renderOptions(values, file);
  await receiptOf(options.path, {
    edit: values.against,
    options,
    json: values.json ?? false,
    progress: progressLine(),
  });
}

/** Writes an edit to a file, measures it, and says what came out. Exit code 1 where something differs. */
async function renderFile(
  edit: string,
  output: string,
  options: RenderOptions,
  { receipt: keep, json }: { readonly receipt: string | null; readonly json: boolean },
  progress: Progress,
): Promise<void> {
  const { name, ...input } = await inputOf(edit, options);
  const settled = settledForm(options.form);
  const unheld = unheldBy(settled, input.timeline);
  if (unheld) throw new WrongCall(unheld);
  const notes = [pictureNotes, channelNotes].flatMap((of) => of(input.project, input.timeline, input.range ?? null, settled));
  for (const note of notes) process.stderr.write(`Note: ${note}\n`);
  const path = resolve(options.path);
  // Beside the file: there is room for it if there is room at all.
  const work = await mkdtemp(join(dirname(path), '.thawline-'));
  const threads = { count: availableParallelism(), entry: new URL(import.meta.resolve('@thawline/work/motion/worker')) };
  const { form } = options;
  try {
    const request = { input: { ...input, threads }, form, path, work, cache: null };
    const unplaced = await renderTimeline({ media: ffmpeg, progress }, request);
    const files = unplaced.files.map((f) => f.path);
    let found: Receipt;
    let paths: string[];
    try {
      found = await measureReceipt({ media: ffmpeg, progress }, { input: unplaced.input, form, files });
      paths = await unplaced.place();
    } catch (error) {
      await unplaced.discard();
      throw error;
    }
    const receipt = { ...found, files: paths.map((p) => basename(p)) };
    if (keep) await atomicWriteFile(keep, `${JSON.stringify(receipt, null, 2)}\n`);
    if (receipt.differs > 0) process.exitCode = 1;
    if (json) return void process.stdout.write(`${JSON.stringify({ files: paths, timeline: name, notes, receipt })}\n`);
    process.stdout.write(
      `${paths.join(', ')}: ${receipt.frames}${receipt.frames === 1 ? ' frame' : ' frames'} at ${formatRate(input.timeline.rate)}, ${words(receipt)}\n`,
    );
  } catch (error) {
    if (error instanceof MediaError) throw new Error(sentence(error.code, output, error.detail));
    throw error;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** Measures a file against an edit. Exit code 1 where something differs. */
async function receiptOf(
  file: string,
  {
    edit,
    options,
    json,
    progress,
  }: { readonly edit: string; readonly options: RenderOptions; readonly json: boolean; readonly progress: Progress },
): Promise<void> {
  const { name: _name, ...input } = await inputOf(edit, options);
  const { form } = options;
  const beside = `${file.slice(0, file.length - extname(file).length)}.wav`;
  const hasBeside = FORMS[form.kind].sound === 'beside' && (await statIfThere(beside)) !== null;
  const files = hasBeside ? [file, beside] : [file];
  await fingerprintOfAll(files).catch(() => {
    throw new Error(`${file} is not there.`);
  });
  const receipt = await namingFile(file, measureReceipt({ media: ffmpeg, progress }, { input, form, files }));
  if (receipt.differs > 0) process.exitCode = 1;
  if (json) return void process.stdout.write(`${JSON.stringify(receipt)}\n`);
  for (const { what, asked, measured, same } of receipt.lines)
    process.stdout.write(`${same ? 'same' : 'look'}  ${what}: asked ${asked}, measured ${measured}\n`);
  process.stdout.write(`${file}: ${words(receipt)}\n`);
}

function words({ differs, wrong }: Receipt): string {
  if (differs === 0) return 'as asked';
  const at = wrong
    .slice(0, 8)
    .map((w) => (w.frames === 1 ? `frame ${w.frame}` : `frames ${w.frame} to ${w.frame + w.frames - 1}`));
  return `${differs} ${differs === 1 ? 'thing differs' : 'things differ'}${at.length > 0 ? `: ${at.join(', ')}` : ''}`;
}
