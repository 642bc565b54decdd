import { nominalRate } from '@thawline/core/time';
import { nestedOf, type Segment, segmentsOf, type Timeline } from '@thawline/project';
import { type RenderInput, rangeOf } from '../compose/input.js';

/** Frames that are written as one part, `to` not included. */
export interface Chunk {
  readonly from: number;
  readonly to: number;
}

/** A part lasts at most so many seconds: what is lost when all ends in its midst, and what a changed picture makes be written again. */
const PLAIN_SECONDS = 8;
/** Where pictures are made, each takes long. */
const MADE_SECONDS = 2;
/** Shorter runs are written together with their neighbours: every part costs an encoder its start. */
const LEAST_SECONDS = 1;

/**
 * The parts that a range is written in. They are cut where clips are, and within a clip at whole parts counted from the clip's own in
 * point, so that what lies before it may change without moving them.
 */
export function chunksOf(input: RenderInput): Chunk[] {
  const { timeline } = input;
  const range = rangeOf(input);
  const least = LEAST_SECONDS * nominalRate(timeline.rate);
  const chunks: Chunk[] = [];
  /** A run of short pieces that wait for each other. */
  const short: Chunk[] = [];
  const flush = (): void => {
    const [first, last] = [short[0], short.at(-1)];
    if (first && last) chunks.push({ from: first.from, to: last.to });
    short.length = 0;
  };
  for (const segment of covering(timeline, range)) {
    const most = Math.round((making(input, segment) ? MADE_SECONDS : PLAIN_SECONDS) * nominalRate(timeline.rate));
    const pieces = piecesOf(segment, most, least);
    const [only] = pieces;
    if (pieces.length === 1 && only && only.to - only.from < least) {
      if (only.to - (short[0]?.from ?? only.from) > most) flush();
      short.push(only);
      continue;
    }
    flush();
    chunks.push(...pieces);
  }
  flush();
  return chunks;
}

/** Segments within a range, and black behind the last one. */
function covering(timeline: Timeline, range: Chunk): Segment[] {
  const within: Segment[] = [];
  let at = range.from;
  for (const segment of segmentsOf(timeline)) {
    const part = { ...segment, from: Math.max(range.from, segment.from), to: Math.min(range.to, segment.to) };
    if (part.to <= part.from) continue;
    within.push(part);
    at = part.to;
  }
  if (at < range.to) within.push({ from: at, to: range.to, clip: null });
  return within;
}

/** Whether a part holds frames that take long to make. */
export function isMaking(input: RenderInput, { from, to }: Chunk): boolean {
  return segmentsOf(input.timeline).some((s) => s.from < to && s.to > from && making(input, s));
}

function making({ project }: RenderInput, { clip, dissolve }: Segment): boolean {
  const seen = dissolve ? [dissolve.out, dissolve.into] : clip ? [clip] : [];
  return seen.some((c) => c.fit === 'motion' || c.shutter > 0 || nestedOf(project, c.sourceId) !== undefined);
}

function piecesOf({ from, to, clip }: Segment, most: number, least: number): Chunk[] {
  const origin = clip ? clip.start - clip.headTrim : from;
  const pieces: Chunk[] = [];
  for (let at = from; at < to; ) {
    const border = origin + (Math.floor((at - origin) / most) + 1) * most;
    const end = Math.min(to, border);
    const last = pieces.at(-1);
    // What is too short by itself goes with the piece beside it.
    if (last && (end - at < least || last.to - last.from < least)) pieces[pieces.length - 1] = { from: last.from, to: end };
    else pieces.push({ from: at, to: end });
    at = end;
  }
  return pieces;
}
