import { readdir } from 'node:fs/promises';
import { basename } from 'node:path';
import { ShownMeter } from '@thawline/core/truth';
import { type Encoding, type Media, MediaError, type Probe, seriesName, seriesPattern } from '@thawline/media';
import { FORMS, type ReceiptWhat, type RenderForm, settledForm, shownAt } from '@thawline/project';
import type { Progress } from '../check.js';
import { type RenderInput, rangeOf, timingFrom } from '../compose.js';
import { hasSound } from '../mix.js';
import { smallFrames } from '../small.js';
import { colourFor } from './look.js';
import { fileLines } from './receiptFile.js';
import { soundLines } from './receiptSound.js';
import { bytesOf, fingerprintOfAll, stampOf } from './written.js';

export interface ReceiptLine {
  readonly what: ReceiptWhat;
  readonly asked: string;
  readonly measured: string;
  readonly same: boolean;
}

/** A picture of a source (or of a placed timeline) by its name. */
export interface NamedPicture {
  readonly source: string;
  readonly picture: number;
}

/** Frames of the file that show something else than was asked, all alike. */
export interface WrongStretch {
  /** First frame of the file; the timeline's is `range.from` more. */
  readonly frame: number;
  readonly frames: number;
  /** Frame whose picture the first one shows; null: none of those near by. */
  readonly shows: number | null;
  /** Null: black. */
  readonly asked: NamedPicture | null;
  readonly shown: NamedPicture | null;
}

/** What a file is and what it should be. Never changed: measuring again gives another one. */
export interface Receipt {
  readonly lines: readonly ReceiptLine[];
  readonly wrong: readonly WrongStretch[];
  /** Things that differ: lines, and stretches of wrong pictures. */
  readonly differs: number;
  /** Frames that hardly differ from a neighbour and cannot be told from it. */
  readonly alike: number;
  readonly frames: number;
  readonly bytes: number;
  /** Of all that was written, to see later whether it still is the same. */
  readonly fingerprint: string;
  /** Size and time of each file: while these are the same, so is what was measured. */
  readonly stamp: string;
  /** Names of what was written: the pictures, then sound beside them. */
  readonly files: readonly string[];
  /** Loudness and peak of the sound as it was written. */
  readonly loudness: number | null;
  readonly peak: number | null;
}

export interface ReceiptRequest {
  /** What was asked for, at the render's own rate. */
  readonly input: RenderInput;
  readonly form: RenderForm;
  /** The file (of numbered pictures their folder), then the sound beside it. */
  readonly files: readonly string[];
  readonly signal?: AbortSignal;
}

/** Small enough that coding does not show, large enough that a moving thing does. */
const SMALL = { width: 64, height: 36 };

/**
 * Measures a written file by decoding all of it, against the edit it was made from, composed anew: rate and every timestamp, count, length,
 * size, coding, sound, and for each frame which picture it shows. Nothing that the render said of itself is used.
 */
export async function measureReceipt(media: Media, request: ReceiptRequest, progress: Progress): Promise<Receipt> {
  const form = settledForm(request.form);
  const { input, files, signal } = request;
  const [main = ''] = files;
  const written = { bytes: await bytesOf(files), fingerprint: await fingerprintOfAll(files), stamp: await stampOf(files) };
  const names = files.map((f) => basename(f));
  const soundFile = form.kind === 'wav' || FORMS[form.kind].sound === 'beside' ? (files.at(-1) ?? main) : main;
  const heard = form.kind === 'wav' || (form.sound !== 'off' && hasSound(input));
  const { from, to } = rangeOf(input);
  if (form.kind === 'wav') {
    const sound = await soundLines(media, input, main, await media.probe(main, signal), heard, signal);
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
  const probe = form.kind === 'png' ? await probePngs(media, main, input, signal) : await media.probe(main, signal);
  const pictures = await pictureLines(media, request, main, probe, progress);
  progress(pictures.frames, pictures.frames, 'listening to the file');
  const soundProbe = soundFile === main ? probe : await media.probe(soundFile, signal);
  const beside = FORMS[form.kind].sound === 'beside' && files.length === 1;
  const sound = await soundLines(media, input, soundFile, beside ? null : soundProbe, heard, signal);
  const lines = [...fileLines(input, form, probe, pictures.frames), ...sound.lines, ...pictures.lines];
  const { wrong, alike, frames } = pictures;
  return { lines, wrong, differs: differing(lines) + wrong.length, alike, frames, ...written, files: names, ...sound.level };
}

/** Wrong pictures are counted where they are, not by each of the lines that tell of them. */
const TOLD_BY_PLACE: ReadonlySet<ReceiptLine['what']> = new Set(['held', 'hitches', 'pictures']);

function differing(lines: readonly ReceiptLine[]): number {
  return lines.filter((l) => !l.same && !TOLD_BY_PLACE.has(l.what)).length;
}

interface PictureLines {
  readonly lines: ReceiptLine[];
  readonly wrong: WrongStretch[];
  readonly alike: number;
  readonly frames: number;
}

/** Decodes the file and composes the edit beside each other, small, and tells which picture each frame shows. */
async function pictureLines(
  media: Media,
  { input, form, signal }: ReceiptRequest,
  path: string,
  probe: Probe,
  progress: Progress,
): Promise<PictureLines> {
  const { from, to } = rangeOf(input);
  const wanted = to - from;
  const { matrix, range } = colourFor(input);
  const colour: Encoding = { matrix, range };
  const meter = new ShownMeter();
  const asked = smallFrames(media, { ...input, look: { pixelFormat: 'yuv420p', colour } }, SMALL, signal);
  const source = form.kind === 'png' ? seriesPattern(path, 'png') : path;
  const stop = signal ? { signal } : {};
  const written = media.openPictures(source, probe, { pixelFormat: 'gray', ...SMALL, scaling: 'area', colour, ...stop });
  let frames = 0;
  const [left, right] = [asked[Symbol.asyncIterator](), written[Symbol.asyncIterator]()];
  try {
    for (;;) {
      const [one, other] = await Promise.all([left.next(), right.next()]);
      if (!one.done) meter.ask(one.value);
      if (!other.done) {
        meter.write(other.value);
        frames++;
        if (frames % 10 === 0) progress(Math.min(frames, wanted), wanted, 'measuring the file');
      }
      if (one.done && other.done) break;
    }
  } finally {
    await Promise.all([left.return?.(undefined), right.return?.(undefined)]);
  }
  const { shows, wrong, alike } = meter.finish();
  return { lines: shownLines(input, shows, wrong.length), wrong: wrong.map((w) => named(input, w)), alike, frames };
}

/** What of the shown pictures the edit did not ask for: held ones, hitches, and all of them together. */
function shownLines(input: RenderInput, shows: Int32Array, places: number): ReceiptLine[] {
  const { from } = rangeOf(input);
  const known = timingFrom(input.files);
  const picture = (frame: number): string => {
    const shown = frame < 0 ? null : shownAt(input.project, input.timeline, from + frame, known);
    return frame < 0 ? 'lost' : shown ? `${shown.clip.id} ${shown.picture} ${shown.nextShare}` : 'black';
  };
  let [held, hitches, wrong] = [0, 0, 0];
  for (let n = 0; n < shows.length; n++) {
    const at = shows[n] as number;
    if (at !== n) wrong++;
    if (n === 0) continue;
    const before = shows[n - 1] as number;
    // What is lost is told as such: nothing is known of its steps.
    if (at < 0 || before < 0 || (at === n && before === n - 1)) continue;
    if (picture(at) === picture(before) && picture(n) !== picture(n - 1)) held++;
    if (at - before !== 1) hitches++;
  }
  const frames = (count: number): string => `${count} ${count === 1 ? 'frame' : 'frames'}`;
  return [
    { what: 'held', asked: '0', measured: String(held), same: held === 0 },
    { what: 'hitches', asked: '0', measured: String(hitches), same: hitches === 0 },
    {
      what: 'pictures',
      asked: 'each frame its own',
      measured:
        wrong === 0 ? 'each frame its own' : `all but ${frames(wrong)}, in ${places} ${places === 1 ? 'place' : 'places'}`,
      same: wrong === 0,
    },
  ];
}

function named(input: RenderInput, run: { frame: number; frames: number; shows: number | null }): WrongStretch {
  const { from } = rangeOf(input);
  const known = timingFrom(input.files);
  const name = (frame: number): NamedPicture | null => {
    const shown = shownAt(input.project, input.timeline, from + frame, known);
    return shown && { source: shown.source.name, picture: shown.picture };
  };
  return { ...run, asked: name(run.frame), shown: run.shows === null ? null : name(run.shows) };
}

async function probePngs(media: Media, folder: string, input: RenderInput, signal?: AbortSignal): Promise<Probe> {
  const names = await readdir(folder).catch(() => [] as string[]);
  let count = 0;
  const there = new Set(names);
  while (there.has(seriesName(count, 'png'))) count++;
  if (count === 0) throw new MediaError('missing-file');
  return media.probeSeries(seriesPattern(folder, 'png'), count, input.timeline.rate, signal);
}
