import { averageRate, pictureCount, type Rate, rateToNumber } from '@thawline/core/time';
import { type Match, matchSequences, type Sequence } from '@thawline/core/truth';
import { type Media, MediaError, type Probe } from '@thawline/media';
import type { Progress } from './check.js';

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

export interface ComparedFile {
  readonly path: string;
  readonly probe: Probe;
}

/** Decodes both files small and finds which pictures they share. */
export async function compare(
  media: Media,
  a: ComparedFile,
  b: ComparedFile,
  progress: Progress,
  signal?: AbortSignal,
): Promise<Comparison> {
  const rateA = averageRate(a.probe.timing);
  const rateB = averageRate(b.probe.timing);
  if (!rateA || !rateB) throw new MediaError('no-picture');
  const [countA, countB] = [pictureCount(a.probe.timing), pictureCount(b.probe.timing)];
  const total = countA + countB;
  const shrink = Math.max(countA, countB) > LONG ? 2 : 1;
  let done = 0;
  const read = async ({ path, probe }: ComparedFile, count: number): Promise<Sequence> => {
    const size = { width: WIDTH / shrink, height: HEIGHT / shrink };
    const samples = size.width * size.height;
    const data = new Uint8Array(count * samples);
    const request = { pixelFormat: 'gray', ...size, scaling: 'area' as const, ...(signal ? { signal } : {}) };
    let pictures = 0;
    for await (const picture of media.openPictures(path, probe, request)) {
      if (pictures < count) data.set(picture, pictures * samples);
      pictures++;
      if (++done % 25 === 0) progress(done, total, 'reading pictures');
    }
    return { count: Math.min(pictures, count), samples, data };
  };
  const sequenceA = await read(a, countA);
  const sequenceB = await read(b, countB);
  progress(total, total, 'matching');
  const [perSecondA, perSecondB] = [rateToNumber(rateA), rateToNumber(rateB)];
  const { start, step, ...match } = matchSequences(sequenceA, sequenceB, [perSecondA / perSecondB, 1]);
  return {
    ...match,
    offsetSeconds: match.path.length > 0 ? start / perSecondA : 0,
    speed: match.path.length > 0 ? (step * perSecondB) / perSecondA : 0,
    rateA,
    rateB,
    picturesA: sequenceA.count,
    picturesB: sequenceB.count,
  };
}
