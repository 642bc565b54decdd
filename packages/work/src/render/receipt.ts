import { createHash } from 'node:crypto';
import { open, readdir, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { OUTLINE_RATE } from '@thawline/core/align';
import { formatExact, ppmBetween, rateToNumber, sameRate, secondsOf } from '@thawline/core/time';
import { ShownMeter } from '@thawline/core/truth';
import { type Encoding, type Media, MediaError, type Probe, seriesName, seriesPattern } from '@thawline/media';
import { FORMS, type RenderForm, settledForm, shownAt } from '@thawline/project';
import type { Progress } from '../check.js';
import { type RenderInput, rangeOf, timingFrom } from '../compose.js';
import { hasSound, mixedSound } from '../mix.js';
import { smallFrames } from '../small.js';
import { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame } from '../sound.js';
import { type Listened, lagBetween, listen } from './listen.js';
import { colourFor } from './look.js';
import { firstTimecode } from './render.js';

export const RECEIPT_LINES = [
  ...(['rate', 'frames', 'length', 'timing', 'size', 'coding', 'colour', 'timecode', 'sound', 'sync'] as const),
  ...(['held', 'hitches', 'pictures'] as const),
] as const;

export interface ReceiptLine {
  readonly what: (typeof RECEIPT_LINES)[number];
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
  /** Names to write down, where the files do not have them yet. */
  readonly names?: readonly string[];
  readonly signal?: AbortSignal;
}

/** Small enough that coding does not show, large enough that a moving thing does. */
const SMALL = { width: 64, height: 36 };
/** How far written sound may be from where it was asked for: 1 ms. */
const SYNC = 0.001;
const SOUND_LENGTH = 0.03;

/**
 * Measures a written file by decoding all of it, against the edit it was made from, composed anew: rate and every timestamp, count, length,
 * size, coding, sound, and for each frame which picture it shows. Nothing that the render said of itself is used.
 */
export async function measureReceipt(media: Media, request: ReceiptRequest, progress: Progress): Promise<Receipt> {
  const form = settledForm(request.form);
  const { input, files, signal } = request;
  const [main = ''] = files;
  const written = { bytes: await bytesOf(files), fingerprint: await fingerprintOfAll(files), stamp: await stampOf(files) };
  const names = request.names ?? files.map((f) => basename(f));
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

/** What the file says of itself, counted and timed. */
function fileLines(input: RenderInput, form: RenderForm, probe: Probe, frames: number): ReceiptLine[] {
  const { timeline } = input;
  const range = rangeOf(input);
  const wanted = range.to - range.from;
  const length = secondsOf(wanted, timeline.rate);
  const lines: ReceiptLine[] = [];
  const exact = rateToNumber(timeline.rate);
  const { measured, seconds } = probe;
  // Numbered pictures bear no times.
  if (probe.kind === 'film') {
    const ppm = measured ? ppmBetween(rateToNumber(measured.rate), timeline.rate) + measured.ppm : 0;
    lines.push({
      what: 'rate',
      asked: formatExact(timeline.rate),
      measured: measured ? `${rateToNumber(measured.rate).toFixed(3)} (${ppm.toFixed(0)} ppm)` : 'none',
      same: measured !== null && sameRate(measured.rate, timeline.rate),
    });
  }
  lines.push({ what: 'frames', asked: String(wanted), measured: String(frames), same: frames === wanted });
  if (probe.kind === 'film' && seconds !== null) {
    lines.push({
      what: 'length',
      asked: `${length.toFixed(3)} s`,
      measured: `${seconds.toFixed(3)} s`,
      same: Math.abs(seconds - length) < 0.5 / exact,
    });
    lines.push({
      what: 'timing',
      asked: `every ${(1000 / exact).toFixed(2)} ms`,
      measured: probe.variable ? unevenWords(probe) : 'even, every timestamp',
      same: !probe.variable,
    });
  }
  const square = probe.sampleAspect === 1 ? '' : ', samples not square';
  lines.push({
    what: 'size',
    asked: `${timeline.width}x${timeline.height}`,
    measured: `${probe.width}x${probe.height}${square}`,
    same: probe.width === timeline.width && probe.height === timeline.height && probe.sampleAspect === 1,
  });
  return [...lines, ...codingLines(input, form, probe)];
}

function codingLines(input: RenderInput, form: RenderForm, probe: Probe): ReceiptLine[] {
  const lines: ReceiptLine[] = [];
  const asked = codingOf(form);
  const coding = `${probe.codec}, ${probe.pixelFormat}`;
  lines.push({ what: 'coding', asked, measured: coding, same: coding === asked });
  const colour = colourFor(input);
  if (FORMS[form.kind].codecs.length > 0) {
    const [wanted, said] = [colour, probe.colour].map(
      (c) => `${matrixWords(c?.matrix ?? null)}, ${c?.range ?? 'range not said'}`,
    );
    lines.push({ what: 'colour', asked: wanted ?? '', measured: said ?? '', same: said === wanted });
  }
  if (form.timecode && FORMS[form.kind].timecode && form.kind !== 'wav') {
    const first = firstTimecode(input);
    lines.push({ what: 'timecode', asked: first, measured: probe.timecode ?? 'none', same: probe.timecode === first });
  }
  return lines;
}

/** Matrix coefficients by the recommendation they come from; BT.601's have two names, for 525 and 625 lines. */
const MATRICES: Readonly<Record<string, string>> = {
  bt709: 'BT.709',
  smpte170m: 'BT.601',
  bt470bg: 'BT.601',
  bt2020nc: 'BT.2020',
};

function matrixWords(matrix: string | null): string {
  return matrix === null ? 'not said' : (MATRICES[matrix] ?? matrix);
}

/** What a form's pictures are coded as, in a probe's words. */
function codingOf({ kind, codec, depth }: RenderForm): string {
  if (kind === 'png') return depth === 10 ? 'png, rgb48be' : 'png, rgb24';
  const format = depth === 10 ? 'yuv420p10le' : 'yuv420p';
  return `${kind === 'y4m' ? 'rawvideo' : codec}, ${format}`;
}

function unevenWords({ timing }: Probe): string {
  if (timing.kind !== 'variable') return 'uneven';
  const { ticks, end } = timing;
  const gaps = Array.from(ticks, (tick, k) => (ticks[k + 1] ?? end) - tick);
  const usual = Float64Array.from(gaps).sort()[gaps.length >> 1] ?? 1;
  const odd = gaps.flatMap((gap, k) => (Math.abs(gap - usual) > usual / 20 ? [k] : []));
  return odd.length === 0 ? 'uneven' : `uneven ${odd.length} times, first after frame ${odd[0]}`;
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

interface SoundLines {
  readonly lines: ReceiptLine[];
  readonly level: { readonly loudness: number | null; readonly peak: number | null };
}

/** @param probe of the file that the sound is in; null where there should be one and is none */
async function soundLines(
  media: Media,
  input: RenderInput,
  path: string,
  probe: Probe | null,
  heard: boolean,
  signal?: AbortSignal,
): Promise<SoundLines> {
  const { from, to } = rangeOf(input);
  const { rate } = input.timeline;
  const length = (sampleOfFrame(to, rate) - sampleOfFrame(from, rate)) / SOUND_RATE;
  const sound = probe?.sound ?? null;
  const none = { loudness: null, peak: null };
  if (!sound || !heard) {
    const measured = sound ? `${sound.seconds.toFixed(3)} s` : 'none';
    const asked = heard ? `${length.toFixed(3)} s` : 'none';
    return { lines: [{ what: 'sound', asked, measured, same: !heard === !sound }], level: none };
  }
  const mix = await listen(mixedSound(media, input, signal));
  const at = mix.first && mix.last;
  const late = Math.round(sound.startSeconds * OUTLINE_RATE);
  const places = mix.first && at ? { first: mix.first.from - late, last: at.from - late } : { first: 0, last: 0 };
  const stop = signal ? { signal } : {};
  const request = { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS, ...stop };
  const written = await listen(media.openSound(path, request), places);
  const seconds = written.samples / SOUND_RATE;
  const lines: ReceiptLine[] = [
    {
      what: 'sound',
      asked: `${length.toFixed(3)} s`,
      measured: `${seconds.toFixed(3)} s${written.peak === null ? ', silent' : `, peak ${written.peak.toFixed(1)} dB`}`,
      same: Math.abs(seconds + sound.startSeconds - length) < SOUND_LENGTH,
    },
    syncLine(mix, written),
  ];
  return { lines, level: { loudness: written.loudness, peak: written.peak } };
}

function syncLine(mix: Listened, written: Listened): ReceiptLine {
  const asked = '0 ms';
  if (!mix.first || !mix.last) {
    const silent = written.loudness === null;
    return { what: 'sync', asked: 'silence', measured: silent ? 'silence' : 'sound', same: silent };
  }
  const lags = [lagBetween(mix.first, written.first ?? mix.first), lagBetween(mix.last, written.last ?? mix.last)] as const;
  const word = (lag: number | null): string =>
    lag === null ? 'another sound' : `${signOf(lag)}${Math.abs(lag * 1000).toFixed(1)} ms`;
  return {
    what: 'sync',
    asked,
    measured: `${word(lags[0])} at start, ${word(lags[1])} at end`,
    same: lags.every((lag) => lag !== null && Math.abs(lag) <= SYNC),
  };
}

/** None for what is shown as 0.0. */
function signOf(seconds: number): string {
  if (Math.abs(seconds) < 0.00005) return '';
  return seconds > 0 ? '+' : '\u2212';
}

async function probePngs(media: Media, folder: string, input: RenderInput, signal?: AbortSignal): Promise<Probe> {
  const names = await readdir(folder).catch(() => [] as string[]);
  let count = 0;
  const there = new Set(names);
  while (there.has(seriesName(count, 'png'))) count++;
  if (count === 0) throw new MediaError('missing-file');
  return media.probeSeries(seriesPattern(folder, 'png'), count, input.timeline.rate, signal);
}

/** Paths of all files: of a folder those within it, in their order. */
async function eachFile(files: readonly string[]): Promise<string[]> {
  const all: string[] = [];
  for (const path of files) {
    if ((await stat(path)).isDirectory()) for (const name of (await readdir(path)).sort()) all.push(join(path, name));
    else all.push(path);
  }
  return all;
}

async function bytesOf(files: readonly string[]): Promise<number> {
  let bytes = 0;
  for (const path of await eachFile(files)) bytes += (await stat(path)).size;
  return bytes;
}

/** Size and time of each file, in a line. Rejects with ENOENT where one is gone. */
export async function stampOf(files: readonly string[]): Promise<string> {
  const stats = await Promise.all((await eachFile(files)).map((path) => stat(path)));
  return createHash('sha256')
    .update(stats.map((s) => `${s.size} ${s.mtimeMs}`).join('\n'))
    .digest('hex')
    .slice(0, 40);
}

const BLOCK = 1 << 20;

/** SHA-256 over every byte of every file. Rejects with ENOENT where one is gone. */
export async function fingerprintOfAll(files: readonly string[]): Promise<string> {
  const hash = createHash('sha256');
  const buffer = Buffer.alloc(BLOCK);
  for (const path of await eachFile(files)) {
    const file = await open(path);
    try {
      for (;;) {
        const { bytesRead } = await file.read(buffer, 0, BLOCK);
        if (bytesRead === 0) break;
        hash.update(buffer.subarray(0, bytesRead));
      }
    } finally {
      await file.close();
    }
  }
  return hash.digest('hex').slice(0, 40);
}
