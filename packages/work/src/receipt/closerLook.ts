import {
  type CloseLook,
  codingError,
  type LumaPicture,
  lookClosely,
  onTheWay,
  type SequenceComparison,
  type WrongRun,
  wrongRuns,
} from '@thawline/core/truth';
import type { Probe } from '@thawline/media';
import { FORMS, type SettledForm } from '@thawline/project';
import { composed } from '../compose/compose.js';
import { type RenderInput, rangeOf } from '../compose/input.js';
import { lumaOf } from '../compose/luma.js';
import type { JobContext, MediaContext } from '../jobs/context.js';
import { chunksOf as renderParts } from '../render/plan.js';
import { lookedAt } from '../render/renderTimeline.js';
import { codedAnew } from './codedAnew.js';

/** Frames on each side whose pictures a doubtful one may show. */
const REACH = 8;
/** Doubtful frames that are no further apart are looked at together: opening a file anew costs about as much as decoding these. */
const TOGETHER = 24;
/** Frames that are looked at at a time, fewer where they are large. */
const AT_ONCE = 96;
const AT_ONCE_BYTES = 128 << 20;
/** Of a stretch in which all is shifted alike, so many frames are looked at; where those are as small pictures said, so is the rest. */
const PROVEN_BY = 16;

/** What stands behind pictures that are compared. */
const SEEN = { over: '#000000' } as const;

/** A written file as it is decoded: a path, or a pattern for numbered pictures. */
export interface WrittenFile {
  readonly path: string;
  readonly probe: Probe;
}

export interface CloserRequest {
  readonly input: RenderInput;
  readonly file: WrittenFile;
  readonly form: SettledForm;
  /** What small pictures say. */
  readonly shown: SequenceComparison;
}

/** Looks again at frames that small pictures leave in doubt, composed and decoded at the render's own size. */
export async function closerLook(
  context: JobContext,
  { input: asked, file, form, shown }: CloserRequest,
): Promise<{ readonly shows: Int32Array; readonly alike: number }> {
  const { progress } = context;
  const { input: coding, colour } = lookedAt(asked, form);
  // Pictures with alpha are compared over black, as they are seen.
  const { input } = lookedAt(asked, { ...form, ...SEEN });
  const { width, height } = input.timeline;
  const shows = Int32Array.from(shown.shows);
  const range = rangeOf(input);
  const wanted = range.to - range.from;
  // A file of another size is reported as such and compared by small pictures only.
  const sameSize = file.probe.width === width && file.probe.height === height;
  const doubtful = sameSize ? shown.doubtful.filter((n) => n < wanted) : [];
  let alike = shown.alike;
  /** Frames that are nearer to another one than to their own, by less than coding leaves. */
  const nearer = new Map<number, number>();
  /** Those whose own picture visibly differs from that one, with the ratio of the difference to the coding error. */
  const plain = new Map<number, number>();
  /** How far strange frames are from what was asked for. */
  const errors = new Map<number, number>();
  let done = 0;
  for (const chunk of chunksOf(doubtful, atOnce(width * height))) {
    const proven = isProven(chunk, shows, shown);
    if (!proven) {
      const { sets, usual } = await gather(context, { input, file }, chunk, shown);
      for (const { n, picture, own, others } of sets) {
        const look = lookClosely(picture, own, others, usual);
        shows[n] = look.shows === 'other' ? look.frame : look.shows === 'strange' ? -1 : n;
        if (look.shows === 'strange') errors.set(n, codingError(picture, own));
        if (look.shows !== 'alike') continue;
        alike++;
        nearer.set(n, look.frame);
        const { apart } = onTheWay(picture, own, others.get(look.frame) as LumaPicture);
        if (apart >= PLAIN_TIMES * usual) plain.set(n, apart / Math.max(usual, 1e-3));
      }
    }
    done += chunk.length;
    progress(done, doubtful.length, 'looking closely');
  }
  for (const n of shiftedAlike(nearer)) {
    shows[n] = nearer.get(n) as number;
    plain.delete(n);
    alike--;
  }
  if (sameSize && !FORMS[form.kind].lossless) {
    const runs = strayRuns(shows.subarray(0, wanted));
    const suspects = runs.flatMap(tried);
    const coded = await codedAnew(context, { input: coding, form, colour }, suspects);
    const looking = { input, file };
    const smeared = new Set<number>();
    for (const chunk of chunksOf([...coded.keys()], atOnce(width * height)))
      for (const n of await smearedBy(context, { looking, frames: chunk, shown, coded })) smeared.add(n);
    for (const run of runs) {
      const all = tried(run).every((n) => smeared.has(n));
      const most = REST_TIMES * Math.max(...tried(run).map((n) => errors.get(n) ?? 0));
      for (let n = run.frame; n < run.frame + run.frames; n++)
        if (smeared.has(n) || (all && (errors.get(n) ?? Number.POSITIVE_INFINITY) <= most)) {
          shows[n] = n;
          alike++;
        }
    }
    const few = inFewParts(
      input,
      [...plain.keys()].sort((a, b) => (plain.get(b) ?? 0) - (plain.get(a) ?? 0)),
    );
    const again = await codedAnew(context, { input, form, colour }, few);
    for (const chunk of chunksOf(
      few.filter((n) => again.has(n)).sort((a, b) => a - b),
      atOnce(width * height),
    ))
      for (const { n, picture, own, others } of (await gather(context, looking, chunk, shown)).sets) {
        const [frame, anew] = [nearer.get(n) as number, again.get(n) as LumaPicture];
        const other = others.get(frame);
        if (!other || onTheWay(picture, own, other).share - onTheWay(anew, own, other).share < NOT_CODING) continue;
        shows[n] = frame;
        alike--;
      }
  }
  return { shows, alike };
}

/**
 * What a coder smears it smears again. A frame that lies near another one's picture, where the same coder leaves what was asked for this much
 * nearer to its own, was put there.
 */
const NOT_CODING = 0.5;
/** Frames are coded again where what they lack is so many times what coding leaves. */
const PLAIN_TIMES = 1.5;
/** In so many parts of the render at most, those with the plainest of them first. */
const FEW_PARTS = 4;

/** The frames, clearest first, that are in a few parts of the render only. */
function inFewParts(input: RenderInput, frames: readonly number[]): number[] {
  const { from } = rangeOf(input);
  const parts = renderParts(input);
  const partOf = (n: number): number => parts.findIndex((p) => from + n >= p.from && from + n < p.to);
  const chosen = new Set<number>();
  for (const n of frames) if (chosen.size < FEW_PARTS) chosen.add(partOf(n));
  return frames.filter((n) => chosen.has(partOf(n)));
}

/** Frames of which so many follow each other, each nearer to the one that is as far off, are shifted: coding favours none of these. */
const SHIFTED_LEAST = 4;

function shiftedAlike(nearer: ReadonlyMap<number, number>): number[] {
  const found: number[] = [];
  let run: number[] = [];
  const end = (): void => {
    if (run.length >= SHIFTED_LEAST) found.push(...run);
    run = [];
  };
  for (const n of [...nearer.keys()].sort((a, b) => a - b)) {
    const last = run.at(-1);
    const goesOn = last === n - 1 && (nearer.get(n) as number) - n === (nearer.get(last) as number) - last;
    if (!goesOn) end();
    run.push(n);
  }
  end();
  return found;
}

/**
 * Stretches of wrong frames that a coder may have made so: some that show the picture before, or however many that lack what a texture holds.
 */
function strayRuns(shows: Int32Array): WrongRun[] {
  return wrongRuns(shows).filter((run) => run.shows === null || run.frames < PROVEN_BY);
}

/** Frames of a stretch that were not coded anew are as its first ones where they are off by no more than so many times as much. */
const REST_TIMES = 1.5;

/** The frames of a stretch that are coded once more: the first few, as samples of the rest. */
function tried({ frame, frames }: WrongRun): number[] {
  return Array.from({ length: Math.min(frames, PROVEN_BY) }, (_, i) => frame + i);
}

/** Coded anew a frame is the same where they differ by less than so much of what coding makes of it; the same coder's are equal. */
const SAME_SHARE = 0.5;

/** Those of the frames that the coder shows just as wrongly where it codes what was asked for. */
async function smearedBy(
  context: MediaContext,
  {
    looking,
    frames,
    shown,
    coded,
  }: {
    readonly looking: Looking;
    readonly frames: readonly number[];
    readonly shown: SequenceComparison;
    readonly coded: ReadonlyMap<number, LumaPicture>;
  },
): Promise<number[]> {
  const { sets, usual } = await gather(context, looking, frames, shown);
  return sets.flatMap(({ n, picture, own, others }) => {
    const anew = coded.get(n);
    if (!anew || codingError(picture, anew) > SAME_SHARE * codingError(anew, own)) return [];
    const [was, is] = [lookClosely(picture, own, others, usual), lookClosely(anew, own, others, usual)];
    const frame = (look: CloseLook): number | null => ('frame' in look ? look.frame : null);
    return was.shows === is.shows && frame(was) === frame(is) ? [n] : [];
  });
}

function atOnce(lumaBytes: number): number {
  return Math.max(4, Math.min(AT_ONCE, Math.floor(AT_ONCE_BYTES / lumaBytes) - 2 * REACH));
}

/** Doubtful frames, grouped by proximity. */
function chunksOf(frames: readonly number[], most: number): number[][] {
  const chunks: number[][] = [];
  for (const n of frames) {
    const last = chunks.at(-1);
    const before = last?.at(-1);
    if (last && before !== undefined && last.length < most && n - before <= TOGETHER) last.push(n);
    else chunks.push([n]);
  }
  return chunks;
}

/** Whether frames go on as enough before them do, all of which were seen to be what small pictures said. */
function isProven(chunk: readonly number[], shows: Int32Array, { shows: small }: SequenceComparison): boolean {
  const first = chunk[0] as number;
  const offset = (small[first] as number) < 0 ? null : (small[first] as number) - first;
  if (offset === 0 || first < PROVEN_BY) return false;
  const alike = (n: number, of: Int32Array): boolean =>
    offset === null ? (of[n] as number) < 0 : (of[n] as number) - n === offset;
  for (let n = first - PROVEN_BY; n < first; n++) if (!alike(n, shows)) return false;
  return chunk.every((n) => alike(n, small));
}

interface Looking {
  readonly input: RenderInput;
  readonly file: WrittenFile;
}

/** A written frame with the pictures that were composed for it and for frames near by. */
interface Gathered {
  readonly n: number;
  readonly picture: LumaPicture;
  readonly own: LumaPicture;
  readonly others: ReadonlyMap<number, LumaPicture>;
}

/** All that is needed to tell what frames show, and what coding usually leaves of them. */
async function gather(
  context: MediaContext,
  looking: Looking,
  frames: readonly number[],
  { shows: small, doubtful }: SequenceComparison,
): Promise<{ readonly sets: readonly Gathered[]; readonly usual: number }> {
  const { input, file } = looking;
  const range = rangeOf(input);
  const wanted = range.to - range.from;
  const candidates = (n: number): number[] => {
    const middle = small[n] as number;
    const near = Array.from({ length: 2 * REACH + 1 }, (_, i) => n - REACH + i);
    return [...new Set([...near, ...(middle >= 0 ? [middle] : [])])].filter((k) => k >= 0 && k < wanted);
  };
  const doubted = new Set(doubtful);
  const needed = new Set(frames.flatMap(candidates));
  const pictures = await composedLumas(context, looking, needed);
  // What coding leaves is seen on frames beside them that are in no doubt.
  const plain = frames
    .flatMap((n) => [n - 2, n - 1, n + 1, n + 2])
    .filter((k) => small[k] === k && !doubted.has(k) && needed.has(k));
  const written = await writtenLumas(context, input, file, new Set([...frames, ...plain]));
  const sets = frames.flatMap((n) => {
    const [picture, own] = [written.get(n), pictures.get(n)];
    if (!picture || !own) return [];
    const others = new Map(candidates(n).flatMap((k) => (k === n ? [] : [[k, pictures.get(k) as LumaPicture] as const])));
    return [{ n, picture, own, others }];
  });
  const errors = [...new Set(plain)].flatMap((k) => {
    const [picture, own] = [written.get(k), pictures.get(k)];
    return picture && own ? [codingError(picture, own)] : [];
  });
  // Where all frames are in doubt each still shows one of the candidates: the difference to the nearest is coding.
  const usual = errors.length > 0 ? median(errors) : median(sets.map(({ picture, own, others }) => least(picture, own, others)));
  return { sets, usual };
}

function least(picture: LumaPicture, own: LumaPicture, others: ReadonlyMap<number, LumaPicture>): number {
  return Math.min(...[own, ...others.values()].map((other) => codingError(picture, other)));
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;
}

/** Composed frames of the range, by their number in it, as luma. */
async function composedLumas(
  context: MediaContext,
  { input }: Looking,
  needed: ReadonlySet<number>,
): Promise<Map<number, LumaPicture>> {
  const { from } = rangeOf(input);
  const lumas = new Map<number, LumaPicture>();
  for (const run of runsOf(needed)) {
    let n = run.from;
    const range = { from: from + run.from, to: from + run.to };
    for await (const picture of composed(context, { ...input, range }, input.timeline)) {
      if (needed.has(n)) lumas.set(n, lumaOf(input, picture));
      n++;
    }
  }
  return lumas;
}

async function writtenLumas(
  context: MediaContext,
  input: RenderInput,
  { path, probe }: WrittenFile,
  needed: ReadonlySet<number>,
): Promise<Map<number, LumaPicture>> {
  const { media, signal } = context;
  const { pixelFormat, colour } = input.look ?? { pixelFormat: 'yuv420p', colour: null };
  const lumas = new Map<number, LumaPicture>();
  for (const { from, to } of runsOf(needed)) {
    let n = from;
    const request = { pixelFormat, from, count: to - from, ...(colour ? { colour } : {}), signal };
    for await (const picture of media.openPictures(path, probe, request)) lumas.set(n++, lumaOf(input, picture));
  }
  return lumas;
}

/** Numbers in stretches that are decoded in one go: small gaps are passed through. */
function runsOf(numbers: ReadonlySet<number>): { from: number; to: number }[] {
  const runs: { from: number; to: number }[] = [];
  for (const n of [...numbers].sort((a, b) => a - b)) {
    const last = runs.at(-1);
    if (last && n - last.to <= TOGETHER) runs[runs.length - 1] = { from: last.from, to: n + 1 };
    else runs.push({ from: n, to: n + 1 });
  }
  return runs;
}
