import type { Box, Shape } from '@thawline/core/picture';
import { averageRate, pictureCount, rateToNumber } from '@thawline/core/time';
import {
  ChangeMeter,
  type Changes,
  checkSize,
  isCombed,
  judge,
  judgeFields,
  judgePulldown,
  shifted,
  splitFields,
  type Verdict,
} from '@thawline/core/truth';
import { type Media, MediaError, type Probe } from '@thawline/media';
import type { SourceFile } from '../compose/input.js';

import type { JobContext, Progress } from '../jobs/context.js';

/** What of a file is checked; all of it by default. */
export interface CheckOptions {
  /** Pictures, `to` not included. */
  readonly range?: { readonly from: number; readonly to: number } | null;
  /** Only this part of each picture, in its pixels: beside a counter that is burnt in, say. */
  readonly region?: Box | null;
}

/** A file, and what of it is checked. */
export interface CheckSpecification extends SourceFile {
  readonly options?: CheckOptions;
}

export interface CheckResult {
  /** Numbers are the file's own pictures, whatever part of it was checked. */
  readonly verdict: Verdict;
  /** Root mean square change of each picture against the one before, in 8-bit steps at the checked size; index 0 is the range's second picture. */
  readonly trace: readonly number[];
  readonly size: { readonly width: number; readonly height: number };
  /** Pictures that were decoded; differs from the probe's count when the file holds pictures that cannot be decoded. */
  readonly decoded: number;
  readonly range: { readonly from: number; readonly to: number };
  readonly region: Box | null;
  /** A small part that goes on changing while the pictures hold (a counter burnt in, say), in shares of the picture; null where there is none. */
  readonly counter: Shape | null;
}

const REPORT_EVERY = 25;
/** Pictures from the middle that are looked at for combs, at full height. */
const COMBS = 12;

/** Decodes every picture small and grey, measures its change and judges the clip. Memory does not grow with the length but for the measures. */
export async function check(context: JobContext, { path, probe, options = {} }: CheckSpecification): Promise<CheckResult> {
  const { media, progress, signal } = context;
  const rate = averageRate(probe.timing);
  if (!rate) throw new MediaError('no-picture');
  const all = pictureCount(probe.timing);
  const from = Math.max(0, Math.min(options.range?.from ?? 0, all - 1));
  const to = Math.max(from + 1, Math.min(options.range?.to ?? all, all));
  const region = options.region ? withinPicture(options.region, probe) : null;
  const measured: Measured = { media, path, probe, from, to, region, signal };
  // Most pictures are of one moment: while that is being found out, they are measured as if they were.
  let combed = false;
  const looked = hasCombs(measured).then((found) => {
    combed = found;
  });
  looked.catch(() => undefined);
  let found = await measure(measured, false, progress, () => combed);
  await looked;
  if (combed) found = await measure(measured, true, progress, () => false);
  const { meters, size, decoded } = found;
  progress(decoded, decoded, 'judging');
  const [changes, lower] = meters.map((meter) => meter.finish()) as [Changes, Changes?];
  const verdict = verdictOf(changes, lower ?? null, rateToNumber(rate), gapsOf(probe, from, changes.length));
  // Of pictures of two moments the verdict counts otherwise.
  const counter = lower ? null : ofPicture(meters[0]?.counter(verdict.held) ?? null, region, probe);
  const trace = Array.from(changes.columns.rms.subarray(0, changes.length), (rms) => Math.round(rms * 1000) / 1000);
  return { verdict: shifted(verdict, from), trace, size, decoded, range: { from, to: from + decoded }, region, counter };
}

/**
 * Measures the change of every picture, of each field by itself where they are of two moments.
 * @param isOver asked after each picture: what was measured so far is no longer wanted
 */
async function measure(measured: Measured, combed: boolean, progress: Progress, isOver: () => boolean) {
  const { media, path, probe, from, to, region } = measured;
  const size = checkSize(region?.width ?? probe.width, region?.height ?? probe.height);
  if (combed) size.height = Math.max(32, Math.round(size.height / 4) * 4);
  const meters = combed
    ? [new ChangeMeter(size.width, size.height / 2), new ChangeMeter(size.width, size.height / 2)]
    : [new ChangeMeter(size.width, size.height)];
  let decoded = 0;
  const whole = from === 0 && to === pictureCount(probe.timing);
  const request = { pixelFormat: 'gray', ...size, scaling: 'area' as const, fields: combed, ...part(measured, whole) };
  for await (const picture of media.openPictures(path, probe, request)) {
    if (isOver()) break;
    const parts = combed ? splitFields(picture, size.width, size.height) : [picture];
    for (const [i, meter] of meters.entries()) meter.push(parts[i] as Uint8Array);
    decoded++;
    if (decoded % REPORT_EVERY === 0) progress(decoded, to - from, 'measuring pictures');
  }
  return { meters, size, decoded };
}

interface Measured {
  readonly media: Media;
  readonly path: string;
  readonly probe: Probe;
  readonly from: number;
  readonly to: number;
  readonly region: Box | null;
  readonly signal?: AbortSignal;
}

function part({ from, to, region, signal }: Measured, whole: boolean) {
  return {
    ...(whole ? {} : { from, count: to - from }),
    ...(region ? { crop: region } : {}),
    signal,
  };
}

function verdictOf(changes: Changes, lower: Changes | null, rate: number, gaps: Float64Array | null): Verdict {
  if (!lower) return judge(changes, rate, gaps);
  const { certainty, ...fields } = judgeFields(changes, lower);
  if (fields.kind === 'pulldown')
    return { ...judgePulldown(changes.length + 1, rate, fields.first, certainty), cuts: changes.cuts };
  return { ...judge(changes, rate, gaps), fields };
}

/** Whether the pictures hold two moments each. The file's own flag is not asked: it is wrong often enough. */
async function hasCombs(measured: Measured): Promise<boolean> {
  const { media, path, probe, from, to, region, signal } = measured;
  const rate = averageRate(probe.timing);
  // Faster material is never interlaced, and a picture of odd height has no two fields.
  if (probe.kind !== 'film' || !rate || rateToNumber(rate) > 30.5 || probe.height % 2 !== 0) return false;
  const count = Math.min(COMBS, to - from);
  const first = from + Math.floor((to - from - count) / 2);
  const request = {
    pixelFormat: 'gray',
    from: first,
    about: true,
    count,
    ...(region ? { crop: region } : {}),
    signal,
  };
  let combed = 0;
  for await (const picture of media.openPictures(path, probe, request)) {
    if (isCombed(picture, region?.width ?? probe.width, region?.height ?? probe.height)) combed++;
  }
  // 2:3 by fields combs two pictures in five.
  return combed >= Math.max(2, count / 5);
}

/** A part of the region that was looked at as one of the picture. */
function ofPicture(part: Shape | null, region: Box | null, { width, height }: Probe): Shape | null {
  if (!part || !region) return part;
  return {
    x: (region.x + part.x * region.width) / width,
    y: (region.y + part.y * region.height) / height,
    width: (part.width * region.width) / width,
    height: (part.height * region.height) / height,
  };
}

/** The region in whole even pixels within the picture. */
function withinPicture(box: Box, { width, height }: Probe): Box {
  const even = (n: number): number => Math.floor(n / 2) * 2;
  const x = even(Math.max(0, Math.min(box.x, width - 16)));
  const y = even(Math.max(0, Math.min(box.y, height - 16)));
  return {
    x,
    y,
    width: even(Math.max(16, Math.min(box.width, width - x))),
    height: even(Math.max(16, Math.min(box.height, height - y))),
  };
}

/** Time before each change relative to the usual: a picture that comes late has moved further without any missing. */
function gapsOf(probe: Probe, from: number, length: number): Float64Array | null {
  const { timing } = probe;
  if (timing.kind !== 'variable') return null;
  const gaps = Float64Array.from(
    { length },
    (_, i) => (timing.ticks[from + i + 1] ?? timing.end) - (timing.ticks[from + i] ?? 0),
  );
  const usual = Float64Array.from(gaps).sort()[gaps.length >> 1] ?? 1;
  return gaps.map((gap) => Math.max(0.05, gap / usual));
}
