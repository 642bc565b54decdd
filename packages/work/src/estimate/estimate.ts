import { mkdir, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pictureBytes, psnrOf } from '@thawline/core/picture';
import { nominalRate, secondsOf } from '@thawline/core/time';
import { MediaError, seriesPattern } from '@thawline/media';
import { FORMS, isSeries, type RenderForm, segmentAt, settledForm } from '@thawline/project';
import { hasSound } from '../audio/mix.js';
import { composed } from '../compose/compose.js';
import { layoutOf, type RenderInput, rangeOf } from '../compose/input.js';
import type { JobContext, MediaContext } from '../jobs/context.js';
import { bytesOf } from '../receipt/stamp.js';
import { type CodedSound, codeSound } from '../render/codedSound.js';
import { Parts } from '../render/partCache.js';
import { isMaking } from '../render/plan.js';
import { lookedAt, partsOf } from '../render/renderTimeline.js';
import { partForm, type WantedPart } from '../render/writeParts.js';
import { type TriedPart, type TryRequest, tryPart } from './samplePart.js';

export interface TrialRequest {
  readonly input: RenderInput;
  readonly form: RenderForm;
  /** The file that would be written; free space is measured in its folder. */
  readonly path: string;
  /** A folder of its own. */
  readonly work: string;
  readonly cache: string | null;
}

/** An estimate with its lower and upper bound. */
export interface Estimate {
  readonly value: number;
  readonly least: number;
  readonly most: number;
}

/** What a render will cost, from little of it. */
export interface Trial {
  readonly frames: number;
  /** Frames that the cache has already. */
  readonly reused: number;
  /** Of the file. */
  readonly bytes: Estimate;
  /** Until it is written and measured. */
  readonly seconds: Estimate;
  /** Peak signal-to-noise ratio of coded against composed luma, in dB; null for lossless forms, 100 for identical pictures. */
  readonly psnr: number | null;
  /** Bytes that are free where it is written. */
  readonly free: number;
  /** Of the sound as the file will hold it: EBU R 128 in LUFS, and true peak in dBTP; null for silence. */
  readonly loudness: number | null;
  readonly peak: number | null;
  /** What coding adds to the true peak of the mix, and what that is brought up by before, in dB. */
  readonly addedDb: number | null;
  readonly gainDb: number;
}

/** What is alike is tried once at least, so many parts in all; more of what there is most of. */
const PARTS_MOST = 8;
const PARTS_LEAST = 4;
/** A part is tried for a second of its frames, or for so many seconds where each takes long. */
const SECONDS_A_PART = 1.2;
/** Renders of no more than so many seconds are tried whole, so that their size is known. */
const WHOLE_SECONDS = 2;
/** Most pictures between two key pictures (x264's default, and about that of the others). */
const KEY_EVERY = 250;
/** Bytes a frame and once that a container takes for its index. */
const INDEX_BYTES = 12;
const CONTAINER_BYTES = 1500;
/** What is left open where a kind of frames was tried once, twice …: shares of the estimate, when tries agree; never less than LEAST_OPEN. */
const ONCE_OPEN = 0.35;
const LEAST_OPEN = 0.1;
/** Seconds open in any estimate of time, as a share: other work takes from the same cores. */
const TIME_OPEN = 0.2;
/** Frames that are tried as PNG. */
const PNG_FRAMES = 8;
/** Seconds until an encoder of PNGs begins, once. */
const PNG_START = 0.12;
/** "FRAME" and a line's end before each picture of Y4M. */
const Y4M_MARK = 6;
/** Processes that a render starts besides its parts: joining, probing, decoding what came out. Each takes about as long as a decoder's start. */
const STARTS = 5;
/** Bytes a second that are copied when parts are put together. */
const COPY_PACE = 250e6;
/** Decoding the whole file once more for its fingerprint, bytes a second. */
const HASH_PACE = 400e6;

export async function estimateRender(context: JobContext, request: TrialRequest): Promise<Trial> {
  const { progress } = context;
  const form = settledForm(request.form);
  const { input, colour } = lookedAt(request.input, form);
  const { work } = request;
  const { from, to } = rangeOf(input);
  const frames = to - from;
  const folder = dirname(request.path);
  const { bsize, bavail } = await statfs(folder).catch(() => {
    throw new MediaError('no-folder', folder);
  });
  const free = bsize * bavail;
  const parts = new Parts(work, request.cache, partForm(input, form));
  await parts.open();
  try {
    progress(0, null, 'listening');
    const sounds = hasSound(input) && (form.kind === 'wav' || form.sound !== 'off');
    const sound = sounds ? await codeSound(context, input, form, work) : null;
    const level = levelOf(sound);
    if (form.kind === 'wav') {
      const seconds = sound ? 2 * sound.mixSeconds + sound.codeSeconds : 0;
      return {
        frames,
        reused: frames,
        bytes: exactly(sound?.bytes ?? 0),
        seconds: around(0.5 + seconds, TIME_OPEN),
        psnr: null,
        free,
        ...level,
      };
    }
    const there = { frames: 0, bytes: 0 };
    const missing: WantedPart[] = [];
    for (const part of await partsOf(context, input, form, colour)) {
      const path = await parts.find(part.content);
      if (!path) missing.push(part);
      else {
        there.frames += part.to - part.from;
        there.bytes += (await stat(path)).size;
      }
    }
    const tries = await tryMissing(context, { input, form, colour, work }, missing);
    const coded = codedBytes(input, missing, tries, there.bytes);
    const rewritten = await rewrittenBytes(context, { input, form, colour, work });
    const pictures = rewritten?.bytes ?? coded;
    const index = rewritten ? 0 : frames * INDEX_BYTES + CONTAINER_BYTES;
    const bytes = plus(pictures, (sound?.bytes ?? 0) + index);
    const squares = tries.flatMap((t) => (t.square === null ? [] : [t.square]));
    return {
      frames,
      reused: there.frames,
      free,
      bytes,
      ...level,
      seconds: secondsFor(input, missing, tries, { frames, bytes: bytes.value, sound, rewriting: rewritten?.seconds ?? 0 }),
      psnr: FORMS[form.kind].lossless || squares.length === 0 ? null : psnrOf(mean(squares), 255),
    };
  } finally {
    await parts.close();
  }
}

function levelOf(sound: CodedSound | null): Pick<Trial, 'loudness' | 'peak' | 'addedDb' | 'gainDb'> {
  const { coded, mix, gainDb = 0 } = sound ?? {};
  const addedDb = coded && mix && coded.peak !== null && mix.peak !== null ? coded.peak - mix.peak : null;
  return { loudness: coded?.loudness ?? null, peak: coded?.peak ?? null, addedDb, gainDb };
}

/** What frames are alike in, as far as an edit tells: made or not, and of which source. */
function kindOf(input: RenderInput, part: WantedPart): string {
  const { clip = null, dissolve } = segmentAt(input.timeline, part.from) ?? {};
  return `${isMaking(input, part)} ${dissolve !== undefined} ${clip?.sourceId ?? 'black'} ${clip?.fit ?? ''}`;
}

function kindsOf(input: RenderInput, parts: readonly WantedPart[]): Map<string, WantedPart[]> {
  const kinds = new Map<string, WantedPart[]>();
  for (const part of parts) kinds.set(kindOf(input, part), [...(kinds.get(kindOf(input, part)) ?? []), part]);
  return kinds;
}

/** Tries a little of each kind of part that is missing. */
async function tryMissing(context: JobContext, request: TryRequest, missing: readonly WantedPart[]): Promise<TriedPart[]> {
  const { progress } = context;
  const { input } = request;
  const { rate } = input.timeline;
  const all = secondsOf(framesIn(missing), rate) <= WHOLE_SECONDS;
  const chosen = all ? missing : chosenParts(input, missing);
  const tried: TriedPart[] = [];
  for (const [i, part] of chosen.entries()) {
    progress(i, chosen.length, 'trying a little of it');
    const most = all ? part.to - part.from : nominalRate(rate);
    const seconds = all ? Number.POSITIVE_INFINITY : SECONDS_A_PART;
    tried.push(
      await tryPart(context, { request, part, most, secondsMost: isMaking(input, part) ? seconds : Number.POSITIVE_INFINITY }),
    );
  }
  return tried;
}

/** One of each kind, the kinds with most frames first; then more of these, evenly chosen. */
function chosenParts(input: RenderInput, missing: readonly WantedPart[]): WantedPart[] {
  const kinds = [...kindsOf(input, missing).values()].sort((a, b) => framesIn(b) - framesIn(a)).slice(0, PARTS_MOST);
  const frames = framesIn(kinds.flat());
  return kinds
    .flatMap((parts) => {
      const share = Math.round((PARTS_LEAST * framesIn(parts)) / frames);
      const count = Math.min(parts.length, Math.max(1, share));
      return Array.from({ length: count }, (_, i) => parts[Math.floor(((i + 0.5) * parts.length) / count)] as WantedPart);
    })
    .slice(0, PARTS_MOST);
}

/** The tries that say most of a kind of parts: its own, else all there are. */
function triesFor(input: RenderInput, kind: string, tries: readonly TriedPart[]): readonly TriedPart[] {
  const own = tries.filter((t) => kindOf(input, t.part) === kind);
  return own.length > 0 ? own : tries;
}

function codedBytes(input: RenderInput, missing: readonly WantedPart[], tries: readonly TriedPart[], there: number): Estimate {
  let [value, open] = [there, 0];
  for (const [kind, parts] of kindsOf(input, missing)) {
    const own = triesFor(input, kind, tries);
    const frame = mean(own.map((t) => t.frameBytes));
    const key = mean(own.map((t) => t.keyBytes));
    for (const part of parts) {
      const whole = own.find((t) => t.part === part)?.wholeBytes;
      const length = part.to - part.from;
      const keys = Math.ceil(length / KEY_EVERY);
      const bytes = whole ?? keys * key + (length - keys) * frame;
      value += bytes;
      if (whole == null) open += bytes * openShare(own.map((t) => t.frameBytes));
    }
  }
  return { value, least: Math.max(0, value - open), most: value + open };
}

/** How far an estimate may be off, as a share: by how far its tries are apart, and how few they are. */
function openShare(values: readonly number[]): number {
  if (values.length < 2) return ONCE_OPEN;
  const middle = mean(values);
  const spread = middle > 0 ? Math.sqrt(mean(values.map((v) => (v - middle) ** 2))) / middle : 0;
  return Math.max(LEAST_OPEN, spread + ONCE_OPEN / values.length);
}

interface Whole {
  readonly frames: number;
  readonly bytes: number;
  readonly sound: CodedSound | null;
  /** Seconds that writing pictures anew from their parts takes. */
  readonly rewriting: number;
}

function secondsFor(input: RenderInput, missing: readonly WantedPart[], tries: readonly TriedPart[], whole: Whole): Estimate {
  const { frames, bytes, sound, rewriting } = whole;
  let measuring = 0;
  const start = tries.length > 0 ? mean(tries.map((t) => t.startSeconds)) : 0.15;
  let [writing, open] = [0, 0];
  for (const [kind, parts] of kindsOf(input, missing)) {
    const own = triesFor(input, kind, tries);
    const each = own.map((t) => t.frameSeconds + t.measureSeconds);
    const tried = parts.every((part) => own.some((t) => t.part === part && t.wholeBytes !== null));
    // While one part comes to its end the next is begun.
    writing += framesIn(parts) * mean(own.map((t) => t.frameSeconds)) + (parts.length * mean(own.map((t) => t.endSeconds))) / 2;
    measuring += framesIn(parts) * mean(own.map((t) => t.measureSeconds));
    if (!tried) open += framesIn(parts) * mean(each) * openShare(each);
  }
  // Parts that exist already are measured too.
  const rest = frames - framesIn(missing);
  measuring += rest * (tries.length > 0 ? mean(tries.map((t) => t.measureSeconds)) : 0.002);
  // Mixed for the file and once more to be held against it; coded, and decoded again.
  const heard = sound
    ? 2 * sound.mixSeconds + sound.codeSeconds + (sound.gainDb === 0 ? 0 : 2 * (sound.mixSeconds + sound.codeSeconds))
    : 0;
  const value = STARTS * start + writing + measuring + heard + rewriting + bytes / COPY_PACE + bytes / HASH_PACE;
  open = Math.max(open, value * TIME_OPEN);
  return { value, least: Math.max(0, value - open), most: value + open };
}

/** Bytes and seconds of forms that are made of their parts' pictures anew; null for those that hold them as they are coded. */
async function rewrittenBytes(
  context: MediaContext,
  { input, form, colour, work }: TryRequest,
): Promise<{ readonly bytes: Estimate; readonly seconds: number } | null> {
  const { media, signal } = context;
  const { width, height, rate } = input.timeline;
  const { from, to } = rangeOf(input);
  const frames = to - from;
  const layout = layoutOf(input);
  if (form.kind === 'y4m') {
    const bytes = frames * (pictureBytes(layout, width, height) + Y4M_MARK);
    return { bytes: exactly(bytes), seconds: (2 * bytes) / COPY_PACE };
  }
  if (!isSeries(form.kind)) return null;
  const tried = Math.min(PNG_FRAMES, frames);
  const folder = join(work, 'trial-png');
  await mkdir(folder, { recursive: true });
  const chosen: Uint8Array[] = [];
  for (let i = 0; i < tried; i++) {
    const frame = from + Math.floor(((i + 0.5) * frames) / tried);
    const range = { from: frame, to: frame + 1 };
    for await (const picture of composed(context, { ...input, range }, input.timeline)) chosen.push(picture.slice());
  }
  const pixelFormat = input.look?.pixelFormat ?? 'yuv420p';
  const request = { width, height, rate, pixelFormat, colour, form: form.kind, signal };
  const begun = performance.now();
  await media.encode(seriesPattern(folder, FORMS[form.kind].ending), request, chosen);
  const pace = Math.max(0, (performance.now() - begun) / 1000 - PNG_START) / tried;
  const each = (await bytesOf([folder])) / tried;
  return {
    bytes: around(each * frames, tried === frames ? 0 : ONCE_OPEN / Math.sqrt(tried)),
    seconds: PNG_START + pace * frames,
  };
}

function framesIn(parts: readonly WantedPart[]): number {
  return parts.reduce((sum, p) => sum + p.to - p.from, 0);
}

function mean(values: readonly number[]): number {
  return values.length === 0 ? 0 : values.reduce((sum, v) => sum + v, 0) / values.length;
}

function exactly(value: number): Estimate {
  return { value, least: value, most: value };
}

function around(value: number, share: number): Estimate {
  return { value, least: value * (1 - share), most: value * (1 + share) };
}

function plus({ value, least, most }: Estimate, more: number): Estimate {
  return { value: Math.round(value + more), least: Math.round(least + more), most: Math.round(most + more) };
}
