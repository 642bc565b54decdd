import type { Size } from '@thawline/core/picture';
import { averageRate, pictureCount, type Rate, rateToNumber } from '@thawline/core/time';
import { type Match, matchSequences, type Sequence } from '@thawline/core/truth';
import { MediaError } from '@thawline/media';
import { type RenderInput, rangeOf, type SourceFile } from '../compose/input.js';
import { smallFrames } from '../compose/smallLuma.js';
import type { JobContext, MediaContext } from '../jobs/context.js';

/** Width and height of what is compared; for clips beyond LONG pictures half of it, so that two of six hours fit into memory. */
const WIDTH = 64;
const HEIGHT = 36;
const LONG = 120_000;

/** How two files match. Seconds and rates beside core's pictures. */
export interface Comparison extends Omit<Match, 'start' | 'step'> {
  /** Seconds of a at which b begins: a = offsetSeconds + speed * b. Negative where b begins before a. */
  readonly offsetSeconds: number;
  /** Seconds of a that go by in one second of b: 1 is the same speed. */
  readonly speed: number;
  readonly rateA: Rate;
  readonly rateB: Rate;
  readonly picturesA: number;
  readonly picturesB: number;
}

/** A timeline, compared as it would be rendered. */
export interface ComparedEdit {
  readonly input: RenderInput;
}
export type Compared = SourceFile | ComparedEdit;

export interface ComparedPair {
  readonly a: Compared;
  readonly b: Compared;
}

/** What is compared: how many pictures at which rate, and how to get them small. */
interface Side {
  readonly rate: Rate;
  readonly count: number;
  readonly pictures: (size: Size) => AsyncIterable<Uint8Array>;
}

function sideOf(context: MediaContext, compared: Compared): Side {
  const { media, signal } = context;
  if ('input' in compared) {
    const { from, to } = rangeOf(compared.input);
    const { rate } = compared.input.timeline;
    return { rate, count: to - from, pictures: (size) => smallFrames(context, compared.input, size) };
  }
  const { path, probe } = compared;
  const rate = averageRate(probe.timing);
  if (!rate) throw new MediaError('no-picture');
  const request = { pixelFormat: 'gray', scaling: 'area' as const, signal };
  return {
    rate,
    count: pictureCount(probe.timing),
    pictures: (size) => media.openPictures(path, probe, { ...request, ...size }),
  };
}

/** Decodes both small, a timeline as it would be rendered, and finds which pictures they share. */
export async function compare(context: JobContext, { a, b }: ComparedPair): Promise<Comparison> {
  const { progress } = context;
  const [sideA, sideB] = [sideOf(context, a), sideOf(context, b)];
  const [countA, countB] = [sideA.count, sideB.count];
  const total = countA + countB;
  const shrink = Math.max(countA, countB) > LONG ? 2 : 1;
  let done = 0;
  const read = async (side: Side): Promise<Sequence> => {
    const size = { width: WIDTH / shrink, height: HEIGHT / shrink };
    const samples = size.width * size.height;
    const { count } = side;
    const data = new Uint8Array(count * samples);
    let pictures = 0;
    for await (const picture of side.pictures(size)) {
      if (pictures < count) data.set(picture, pictures * samples);
      pictures++;
      if (++done % 25 === 0) progress(done, total, 'reading pictures');
    }
    return { count: Math.min(pictures, count), samples, data };
  };
  const sequenceA = await read(sideA);
  const sequenceB = await read(sideB);
  progress(total, total, 'matching');
  const [perSecondA, perSecondB] = [rateToNumber(sideA.rate), rateToNumber(sideB.rate)];
  const { start, step, ...match } = matchSequences(sequenceA, sequenceB, [perSecondA / perSecondB, 1]);
  return {
    ...match,
    offsetSeconds: match.path.length > 0 ? start / perSecondA : 0,
    speed: match.path.length > 0 ? (step * perSecondB) / perSecondA : 0,
    rateA: sideA.rate,
    rateB: sideB.rate,
    picturesA: sequenceA.count,
    picturesB: sequenceB.count,
  };
}
