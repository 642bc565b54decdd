import { readdir } from 'node:fs/promises';
import { basename } from 'node:path';
import { MediaError, type Probe, seriesName, seriesPattern } from '@thawline/media';
import { FORMS, formFields, isSeries, numberingOf, type RenderForm, type SettledForm, settledForm } from '@thawline/project';
import { hasSound } from '../audio/mix.js';
import { type RenderInput, rangeOf } from '../compose/input.js';
import type { JobContext, MediaContext } from '../jobs/context.js';
import { alphaLines } from './alphaLines.js';
import { fieldLines } from './fieldLines.js';
import { fileLines } from './fileLines.js';
import { pictureLines } from './pictureLines.js';
import { soundLines } from './soundLines.js';
import { bytesOf, fingerprintOfAll, stampOf } from './stamp.js';
import type { Receipt, ReceiptLine } from './types.js';

export interface ReceiptRequest {
  /** What was asked for, at the render's own rate. */
  readonly input: RenderInput;
  readonly form: RenderForm;
  /** The file (of numbered pictures their folder), then the sound beside it. */
  readonly files: readonly string[];
}

/**
 * Measures a written file by decoding all of it, against the edit it was made from, composed anew: rate and every timestamp, count, length,
 * size, coding, sound, and for each frame which picture it shows. Nothing that the render said of itself is used.
 */
export async function measureReceipt(context: JobContext, request: ReceiptRequest): Promise<Receipt> {
  const { media, progress, signal } = context;
  const form = settledForm(request.form);
  const { input, files } = request;
  const [main = ''] = files;
  const written = { bytes: await bytesOf(files), fingerprint: await fingerprintOfAll(files), stamp: await stampOf(files) };
  const names = files.map((f) => basename(f));
  const soundFile = form.kind === 'wav' || FORMS[form.kind].sound === 'beside' ? (files.at(-1) ?? main) : main;
  const heard = form.kind === 'wav' || (form.sound !== 'off' && hasSound(input));
  const { from, to } = rangeOf(input);
  if (form.kind === 'wav') {
    const sound = await soundLines(context, input, { form, path: main, probe: await media.probe(main, signal), heard });
    return {
      lines: sound.lines,
      wrong: [],
      differs: differing(sound.lines),
      alike: 0,
      frames: to - from,
      ...written,
      files: names,
      ...sound.level,
    };
  }
  const probe = isSeries(form.kind) ? await probeFolder(context, main, input, form) : await media.probe(main, signal);
  const file = { path: isSeries(form.kind) ? seriesPattern(main, FORMS[form.kind].ending, numberingOf(form)) : main, probe };
  const pictures = await pictureLines(context, input, file, form);
  progress(pictures.frames, pictures.frames, 'listening to the file');
  const soundProbe = soundFile === main ? probe : await media.probe(soundFile, signal);
  const beside = FORMS[form.kind].sound === 'beside' && files.length === 1;
  const sound = await soundLines(context, input, { form, path: soundFile, probe: beside ? null : soundProbe, heard });
  const wanted = { kind: form.kind, fields: formFields(form, input.timeline) };
  const fields = await fieldLines(context, wanted, { path: main, probe });
  const alpha = await alphaLines(context, input, file, form);
  const lines = [...fileLines(input, form, probe, pictures.frames), ...alpha, ...fields, ...sound.lines, ...pictures.lines];
  const { wrong, alike, frames } = pictures;
  return { lines, wrong, differs: differing(lines) + wrong.length, alike, frames, ...written, files: names, ...sound.level };
}

/** Wrong pictures are counted where they are, not by each of the lines that tell of them. */
const TOLD_BY_PLACE: ReadonlySet<ReceiptLine['what']> = new Set(['held', 'hitches', 'pictures']);

function differing(lines: readonly ReceiptLine[]): number {
  return lines.filter((l) => !l.same && !TOLD_BY_PLACE.has(l.what)).length;
}

async function probeFolder(context: MediaContext, folder: string, input: RenderInput, form: SettledForm): Promise<Probe> {
  const { ending } = FORMS[form.kind];
  const numbering = numberingOf(form);
  const { media, signal } = context;
  const names = await readdir(folder).catch(() => [] as string[]);
  let count = 0;
  const there = new Set(names);
  while (there.has(seriesName(count, ending, numbering))) count++;
  if (count === 0) throw new MediaError('missing-file');
  const series = { pictures: count, rate: input.timeline.rate, first: numbering.first };
  return media.probeSeries(seriesPattern(folder, ending, numbering), series, signal);
}
