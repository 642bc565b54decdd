import { rm } from 'node:fs/promises';
import type { EncodeRequest } from '@thawline/media';
import { statIfThere } from '@thawline/media';
import { keepsAlpha, type SettledForm, showsSphere } from '@thawline/project';
import { composed } from '../compose/compose.js';
import { type RenderInput } from '../compose/input.js';
import type { MediaContext } from '../jobs/context.js';
import type { RenderColour } from './colour.js';
import type { Parts } from './partCache.js';
import type { Chunk } from './plan.js';

/** A part that is to be there: its frames, and what they show. */
export interface WantedPart extends Chunk {
  readonly content: string;
}

export interface Writing {
  readonly context: MediaContext;
  readonly input: RenderInput;
  readonly form: SettledForm;
  readonly colour: RenderColour;
  readonly parts: Parts;
  /** Each frame as it is handed over; good until the next. */
  readonly seen: (frame: number, picture: Uint8Array) => void;
  /** Rejects when a source is another one than when the render began. */
  readonly unchanged: () => Promise<void>;
}

/** Whether a render's file says that its pictures are of all around: they are, and it has a place for that. */
export function saysSphere({ project, timeline, range }: RenderInput, form: SettledForm): boolean {
  const holds = form.kind === 'mp4' || form.kind === 'mov' || form.kind === 'mkv' || form.kind === 'webm';
  // VP9's alpha lies beside it, where nothing of this does.
  return holds && !(form.codec === 'vp9' && keepsAlpha(form)) && showsSphere(project, timeline, range ?? null);
}

/** Part files: MP4 counts in the rate's own ticks; FFV1 and VP9's alpha have no place in it, and what is edited on has one in MOV. */
export function partForm(input: RenderInput, form: SettledForm): 'mp4' | 'mkv' | 'mov' {
  const { codec } = form;
  // What says that it is of all around is MP4 or MOV.
  if (codec === 'ffv1') return saysSphere(input, form) ? 'mov' : 'mkv';
  if (codec === 'vp9' && keepsAlpha(form)) return 'mkv';
  return codec === 'prores' || codec === 'dnxhr' || codec === 'mpeg2' ? 'mov' : 'mp4';
}

/** FFV1 has red, green and blue of 8 bit in one plane, under a name of its own. */
const PACKED_FFV1: Readonly<Record<string, string>> = { gbrp: 'bgr0', gbrap: 'bgra' };

/** What a file that FFV1 coded says its pixel format is. */
export function ffv1Format(pixelFormat: string): string {
  return PACKED_FFV1[pixelFormat] ?? pixelFormat;
}

export function partRequest({ context, input, form, colour }: Omit<Writing, 'parts' | 'seen' | 'unchanged'>): EncodeRequest {
  const { width, height, rate } = input.timeline;
  return {
    width,
    height,
    rate,
    colour,
    ...(colour.highRange ? { highRange: colour.highRange } : {}),
    ...(colour.siting ? { siting: colour.siting } : {}),
    form: partForm(input, form),
    ...(saysSphere(input, form) ? { sphere: true } : {}),
    codec: form.codec,
    crf: form.quality,
    grade: form.grade,
    ...(input.fields ? { fields: input.fields.order } : {}),
    pixelFormat: input.look?.pixelFormat ?? 'yuv420p',
    signal: context.signal,
  };
}

/**
 * Writes parts that follow each other without a gap: their frames come out of one stream, so that no source is entered twice. While one
 * part's encoder comes to its end the next one begins; there are never more than two.
 */
export async function writeRun(writing: Writing, run: readonly WantedPart[]): Promise<void> {
  const [first, last] = [run[0], run.at(-1)];
  if (!first || !last) return;
  const { context, input } = writing;
  const frames = composed(context, { ...input, range: { from: first.from, to: last.to } }, input.timeline);
  let ending: Promise<void> = Promise.resolve();
  let current: Promise<void> = ending;
  try {
    for (const part of run) {
      const { handed, written } = writePart(writing, part, frames);
      // A failure is reported by the await below.
      written.catch(() => undefined);
      current = written;
      await Promise.race([handed, written]);
      await ending;
      ending = written;
    }
    await ending;
  } finally {
    // After a failure an encoder may still wait for frames: ending its input lets it finish and remove its files.
    await frames.return(undefined);
    await Promise.allSettled([ending, current]);
  }
}

/** @returns when its last frame was handed over, and when it is whole */
function writePart(
  writing: Writing,
  part: WantedPart,
  frames: AsyncGenerator<Uint8Array>,
): { readonly handed: Promise<void>; readonly written: Promise<void> } {
  const { parts, seen, unchanged } = writing;
  let tell: () => void = () => undefined;
  const handed = new Promise<void>((resolve) => {
    tell = resolve;
  });
  async function* pictures(): AsyncGenerator<Uint8Array> {
    for (let frame = part.from; frame < part.to; frame++) {
      const next = await frames.next();
      if (next.done) throw new Error(`frame ${frame} was not composed`);
      seen(frame, next.value);
      // The pipe may still hold the last one: each frame is handed over as a copy.
      yield next.value.slice();
    }
    tell();
  }
  const write = async (): Promise<void> => {
    const begun = parts.begin(part.content);
    try {
      await writing.context.media.encode(begun, partRequest(writing), pictures());
      await unchanged();
      await parts.keep(part.content, begun);
    } catch (error) {
      await rm(begun, { force: true });
      throw error;
    }
  };
  return { handed, written: write() };
}

/** Remembers how files stand, and rejects later when one stands otherwise: what was read of it may be of either. */
export async function watchFiles(input: RenderInput, changed: (path: string) => Error): Promise<() => Promise<void>> {
  const look = async (path: string): Promise<string> => {
    const file = await statIfThere(path);
    return file ? `${file.ino} ${file.size} ${file.mtimeMs}` : 'gone';
  };
  // Of a series one name stands for many: its first picture is looked at.
  const paths = Object.entries(input.files).map(
    ([id, { path, probe }]) =>
      [id, probe.kind === 'sequence' ? path.replace(/%08d/, '00000000').replaceAll('%%', '%') : path] as const,
  );
  const before = new Map(await Promise.all(paths.map(async ([id, path]) => [id, await look(path)] as const)));
  return async () => {
    for (const [id, path] of paths) if ((await look(path)) !== before.get(id)) throw changed(id);
  };
}
