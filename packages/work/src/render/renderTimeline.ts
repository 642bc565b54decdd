import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { type WavForm, wavHead, wavSampleBytes, wavSamples } from '@thawline/core/sound';
import { formatTimecode } from '@thawline/core/time';
import { type Known, MediaError, seriesPattern, statIfThere } from '@thawline/media';
import {
  channelsFor,
  FORMS,
  type FormSamples,
  formFields,
  isSeries,
  numberingOf,
  type RenderForm,
  type SettledForm,
  settledForm,
} from '@thawline/project';
import { hasSound, mixChannels, mixedSound } from '../audio/mix.js';
import { SOUND_RATE, sampleOfFrame } from '../audio/stretch.js';
import { type RenderInput, rangeOf } from '../compose/input.js';
import { folderIsThere, unfinishedPath } from '../files/atomicWrite.js';
import type { JobContext, MediaContext, Progress } from '../jobs/context.js';
import { contentOf } from './cacheKey.js';
import { codeSound } from './codedSound.js';
import { makersOf } from './codeVersion.js';
import { colourFor, lookFor, type RenderColour } from './colour.js';
import { joinedForm } from './joinedForm.js';
import { Parts } from './partCache.js';
import { chunksOf } from './plan.js';
import { place, stemOf } from './publish.js';
import { wavFormOf } from './wavForm.js';
import {
  ffv1Format,
  partForm,
  partRequest,
  saysSphere,
  type WantedPart,
  type Writing,
  watchFiles,
  writeRun,
} from './writeParts.js';

export interface RenderRequest {
  readonly input: RenderInput;
  readonly form: RenderForm;
  /** Where the file is wanted; its ending is the form's. A name that is taken gets a number. */
  readonly path: string;
  /** This render's own folder for parts; kept when it fails, so that another try resumes. */
  readonly work: string;
  /** Parts that renders share; null for none. */
  readonly cache: string | null;
  /** Frames whose parts are written again even if they are cached. */
  readonly anew?: readonly number[];
}

/** What a render wrote, not yet under its name. */
export interface Unplaced {
  /** As it was asked for, with what its look needs. */
  readonly input: RenderInput;
  readonly form: SettledForm;
  readonly colour: RenderColour;
  /** Pictures (none for sound alone), then the sound beside them. */
  readonly files: readonly { readonly path: string; readonly ending: string }[];
  readonly frames: number;
  /** Frames that were taken from the cache. */
  readonly reused: number;
  /** Gives the files their names. */
  readonly place: () => Promise<string[]>;
  /** Takes them away again. */
  readonly discard: () => Promise<void>;
}

/** What a picture of a render looks like while it is made: shown now and then. */
export type Seen = (frame: number, picture: Uint8Array, input: RenderInput) => void;

/** Parts of a range, each with the name of what it shows. */
export async function partsOf(
  context: MediaContext,
  input: RenderInput,
  form: SettledForm,
  colour: RenderColour,
): Promise<WantedPart[]> {
  const makers = await makersOf(context);
  return chunksOf(input).map((chunk) => ({ ...chunk, content: contentOf(input, { form, colour, chunk, makers }) }));
}

/** The input with the look that a form gives it, and the channels of its sound. */
export function lookedAt(
  input: RenderInput,
  form: FormSamples & Pick<SettledForm, 'fields' | 'sound' | 'soundCodec'>,
): { readonly input: RenderInput; readonly colour: RenderColour } {
  const colour = colourFor(input);
  const fields = formFields(form, input.timeline);
  const channels = channelsFor(input.project, input.timeline, input.range ?? null, form);
  return { input: { ...input, look: lookFor(form, colour), channels, ...(fields ? { fields } : {}) }, colour };
}

/**
 * Writes a timeline, or its range, at exactly its rate and size: in parts, each of which is written only once however often the
 * render is begun, and then put together with the sound. Every frame shows what the step map says; sound of a clip begins at
 * the sample of its first frame.
 */
export async function renderTimeline(
  context: JobContext,
  request: RenderRequest,
  seen: Seen = () => undefined,
): Promise<Unplaced> {
  const { progress } = context;
  const form = settledForm(request.form);
  const looked = lookedAt(request.input, form);
  const { colour } = looked;
  let { input } = looked;
  const { from, to } = rangeOf(input);
  const frames = to - from;
  if (frames <= 0) throw new MediaError('encode-failed', 'the timeline is empty');
  await folderIsThere(dirname(request.path));
  const unchanged = await watchFiles(input, (id) => new MediaError('source-changed', nameOf(input, id)));
  const parts = new Parts(request.work, request.cache, partForm(input, form));
  await parts.open();
  const finished: { path: string; ending: string }[] = [];
  const discard = async (): Promise<void> => {
    for (const { path } of finished) await rm(path, { recursive: true, force: true });
  };
  try {
    if (form.peak !== null && hasSound(input) && (form.kind === 'wav' || form.sound !== 'off')) {
      progress(0, null, 'bringing its sound to the peak');
      input = { ...input, gainDb: (await codeSound(context, input, form, request.work)).gainDb };
    }
    let reused = 0;
    if (form.kind !== 'wav') {
      const wanted = await partsOf(context, input, form, colour);
      for (const part of wanted)
        if (request.anew?.some((frame) => frame >= part.from && frame < part.to)) await parts.forget(part.content);
      const writing: Writing = {
        context,
        input,
        form,
        colour,
        parts,
        unchanged,
        seen: (frame, picture) => {
          done++;
          if (done % 5 === 0 || done === frames) progress(done, frames, 'writing frames');
          seen(frame, picture, input);
        },
      };
      const { runs, there } = await missingRuns(wanted, parts);
      reused = there;
      let done = there;
      progress(done, frames, 'writing frames');
      for (const run of runs) await writeRun(writing, run);
      const ending = isSeries(form.kind) ? '' : `.${FORMS[form.kind].ending}`;
      const path = unfinishedPath(`${stemOf(request.path)}${ending}`);
      finished.push({ path, ending });
      await assemble(writing, wanted, path, progress);
    }
    const beside = FORMS[form.kind].sound === 'beside' && form.sound !== 'off' && hasSound(input);
    if (form.kind === 'wav' || beside) {
      const path = unfinishedPath(`${stemOf(request.path)}.wav`);
      finished.push({ path, ending: '.wav' });
      await writeWav(context, input, path, wavFormOf(form));
    }
    await unchanged();
    return {
      input,
      form,
      colour,
      frames,
      reused,
      files: finished,
      discard,
      place: () => place(stemOf(request.path), finished),
    };
  } catch (error) {
    await discard();
    throw await explainedError(error, request.path);
  }
}

/** Parts that are not there yet, in runs without a gap, and how many frames are. */
async function missingRuns(wanted: readonly WantedPart[], parts: Parts): Promise<{ runs: WantedPart[][]; there: number }> {
  const runs: WantedPart[][] = [];
  const coming = new Set<string>();
  let there = 0;
  let open: WantedPart[] | null = null;
  for (const part of wanted) {
    // What shows the same as a part before it is written once.
    if (coming.has(part.content) || (await parts.find(part.content))) {
      there += part.to - part.from;
      open = null;
      continue;
    }
    coming.add(part.content);
    if (open) open.push(part);
    else {
      open = [part];
      runs.push(open);
    }
  }
  return { runs, there };
}

/** Puts parts together as the form wants them, with their sound. */
async function assemble(writing: Writing, wanted: readonly WantedPart[], path: string, progress: Progress): Promise<void> {
  const { context, input, form, colour, parts } = writing;
  const { media, signal } = context;
  const { timeline } = input;
  const frames = wanted.reduce((sum, p) => sum + p.to - p.from, 0);
  progress(frames, frames, 'putting it together');
  const files: { path: string; pictures: number }[] = [];
  for (const { content, from, to } of wanted) {
    const part = await parts.find(content);
    if (!part) throw new MediaError('encode-failed', 'a part that was written is gone');
    files.push({ path: part, pictures: to - from });
  }
  if (form.kind === 'y4m' || isSeries(form.kind)) {
    if (isSeries(form.kind)) await mkdir(path);
    const numbering = numberingOf(form);
    const target = isSeries(form.kind) ? seriesPattern(path, FORMS[form.kind].ending, numbering) : path;
    const { width, height, rate } = timeline;
    const pixelFormat = input.look?.pixelFormat ?? 'yuv420p';
    const request = { width, height, rate, pixelFormat, colour, form: form.kind, firstNumber: numbering.first, signal };
    return media.encode(target, request, pictureByPicture(writing, files));
  }
  const heard = form.sound !== 'off' && hasSound(input);
  const request = {
    parts: files,
    rate: timeline.rate,
    form: joinedForm(form.kind),
    ...(saysSphere(input, form) ? { sphere: true } : {}),
    ...(heard ? { sound: { sampleRate: SOUND_RATE, channels: mixChannels(input), codec: form.soundCodec } } : {}),
    ...(form.timecode && FORMS[form.kind].timecode ? { timecode: firstTimecode(input) } : {}),
    signal,
  };
  await media.join(path, request, heard ? mixedSound(context, input) : undefined);
}

/** What the first written frame is called. */
export function firstTimecode(input: RenderInput): string {
  const { rate, dropFrame, startFrame } = input.timeline;
  return formatTimecode(startFrame + rangeOf(input).from, rate, { dropFrame });
}

async function* pictureByPicture(
  writing: Writing,
  files: readonly { path: string; pictures: number }[],
): AsyncGenerator<Uint8Array> {
  const { media, signal } = writing.context;
  const { width, height, rate, pixelFormat } = partRequest(writing);
  for (const { path, pictures } of files) {
    const timing = { kind: 'constant', rate, pictures } as const;
    const known: Known = { timing, firstSeconds: 0, width, height, container: 'matroska', pixelFormat: ffv1Format(pixelFormat) };
    let given = 0;
    for await (const picture of media.openPictures(path, known, { pixelFormat, signal })) {
      given++;
      yield picture;
    }
    if (given !== pictures) throw new MediaError('decode-failed', `a part has ${given} of ${pictures} frames`);
  }
}

/** The mix as WAV at 48 kHz, its place on the timeline's clock in the bext chunk. */
async function writeWav(context: MediaContext, input: RenderInput, path: string, samples: WavForm): Promise<void> {
  await pipeline(wavOf(context, input, samples).parts, createWriteStream(path));
}

/** A WAV file of a known length, made as it is read. */
export interface WavStream {
  readonly bytes: number;
  readonly parts: AsyncGenerator<Uint8Array>;
}

/** A timeline's mix as a WAV file: 48 kHz, the input's channels, where it begins in the bext chunk. */
export function wavOf(context: MediaContext, input: RenderInput, form: WavForm): WavStream {
  const { timeline } = input;
  const range = rangeOf(input);
  const at = (frame: number): number => sampleOfFrame(frame, timeline.rate);
  const samples = at(range.to) - at(range.from);
  const origin = { timeReference: at(timeline.startFrame + range.from), description: timeline.name };
  const channels = mixChannels(input);
  const head = wavHead({ form, sampleRate: SOUND_RATE, channels, samples, origin });
  const length = samples * channels * wavSampleBytes(form);
  async function* parts(): AsyncGenerator<Uint8Array> {
    yield head;
    for await (const block of mixedSound(context, input)) yield wavSamples(block, form);
    if (length % 2 === 1) yield new Uint8Array(1);
  }
  return { bytes: head.length + length + (length % 2), parts: parts() };
}

/** Says of a folder that vanished or takes nothing that it did; other failures are what they are. */
async function explainedError(error: unknown, path: string): Promise<unknown> {
  const folder = dirname(path);
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOSPC') return new MediaError('disk-full', message);
  if (code === 'EROFS' || code === 'EACCES' || /Read-only file system|Permission denied/.test(message ?? ''))
    return new MediaError('no-folder', folder);
  const there = await statIfThere(folder);
  return there ? error : new MediaError('no-folder', folder);
}

function nameOf(input: RenderInput, mediaId: string): string {
  return input.project.sources.find((s) => s.mediaId === mediaId)?.name ?? mediaId;
}
