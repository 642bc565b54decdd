import type { Box, Shape } from '@thawline/core/picture';
import { averageRate, pictureCount, rateToNumber } from '@thawline/core/time';
import {
  ChangeMeter,
  checkSize,
  type FieldFinding,
  FieldMeter,
  judge,
  judgeFields,
  NO_FIELDS,
  shifted,
  type Verdict,
  withFields,
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

/** Decodes every picture small and grey, measures its change and judges the clip. Memory does not grow with the length but for the measures. */
export async function check(context: JobContext, { path, probe, options = {} }: CheckSpecification): Promise<CheckResult> {
  const { media, progress, signal } = context;
  const rate = averageRate(probe.timing);
  if (!rate) throw new MediaError('no-picture');
  const all = pictureCount(probe.timing);
  const from = Math.max(0, Math.min(options.range?.from ?? 0, all - 1));
  const to = Math.max(from + 1, Math.min(options.range?.to ?? all, all));
  const region = options.region ? withinPicture(options.region, probe) : null;
  const { meter, fieldMeter, size, decoded } = await measure({ media, path, probe, from, to, region, signal }, progress);
  progress(decoded, decoded, 'judging');
  const changes = meter.finish();
  const judged = judge(changes, rateToNumber(rate), gapsOf(probe, from, changes.length));
  const said = probe.flagged === false ? null : probe.fields;
  const unmeasured = { ...NO_FIELDS, flag: said === 'progressive' ? ('right' as const) : ('absent' as const) };
  const verdict = fieldMeter ? withFields(judged, judgeFields(fieldMeter, said)) : { ...judged, fields: unmeasured };
  // Of pictures of two moments the verdict counts otherwise.
  const woven = verdict.fields.kind !== 'none';
  const counter = woven ? null : ofPicture(meter.counter(verdict.held), region, probe);
  const trace = Array.from(changes.columns.rms.subarray(0, changes.length), (rms) => Math.round(rms * 1000) / 1000);
  const parts = verdict.parts.map((part) => ({ ...part, ...ofPicture(part, region, probe) }));
  return {
    verdict: { ...shifted(verdict, from), parts },
    trace,
    size,
    decoded,
    range: { from, to: from + decoded },
    region,
    counter,
  };
}

/** Measures the change of every picture, and how its fields lie to each other where it may have two. */
async function measure(measured: Measured, progress: Progress) {
  const { media, path, probe, from, to, region } = measured;
  const size = checkSize(region?.width ?? probe.width, region?.height ?? probe.height);
  const meter = new ChangeMeter(size.width, size.height);
  const stored = (region?.height ?? probe.height) / 2;
  const fieldMeter = mayHaveFields(probe) ? new FieldMeter(size.width, size.height, stored) : null;
  // Both fields at once, each as high as the picture that is measured: what they show together is their mean.
  const height = fieldMeter ? size.height * 2 : size.height;
  const both = new Uint8Array(size.width * size.height);
  let decoded = 0;
  const whole = from === 0 && to === pictureCount(probe.timing);
  const request = {
    pixelFormat: 'gray',
    width: size.width,
    height,
    scaling: 'area' as const,
    fields: fieldMeter !== null,
    ...part(measured, whole),
  };
  for await (const picture of media.openPictures(path, probe, request)) {
    if (fieldMeter) {
      fieldMeter.push(picture);
      meanOfFields(picture, size.width, both);
      meter.push(both);
    } else meter.push(picture);
    decoded++;
    if (decoded % REPORT_EVERY === 0) progress(decoded, to - from, 'measuring pictures');
  }
  return { meter, fieldMeter, size, decoded };
}

/** Each pair of lines as one: four samples at a time where lines are whole words, (a | b) - ((a ^ b) >> 1) each. */
function meanOfFields(picture: Uint8Array, width: number, into: Uint8Array): void {
  if (width % 4 === 0 && picture.byteOffset % 4 === 0) {
    const [from, to] = [new Uint32Array(picture.buffer, picture.byteOffset, picture.length >> 2), new Uint32Array(into.buffer)];
    const words = width >> 2;
    for (let line = 0, at = 0; at < to.length; line += 2)
      for (let i = line * words, end = i + words; i < end; i++, at++) {
        const a = from[i] as number;
        const b = from[i + words] as number;
        to[at] = (a | b) - (((a ^ b) & 0xfefefefe) >>> 1);
      }
    return;
  }
  for (let line = 0, at = 0; at < into.length; line += 2)
    for (let i = line * width, end = i + width; i < end; i++, at++)
      into[at] = ((picture[i] as number) + (picture[i + width] as number) + 1) >> 1;
}

/** What the fields of a file are, and nothing else of it; null where it cannot have any. */
export async function measureFields(context: JobContext, { path, probe }: SourceFile): Promise<FieldFinding | null> {
  const { media, progress, signal } = context;
  if (!mayHaveFields(probe)) return null;
  const { width, height } = checkSize(probe.width, probe.height);
  const meter = new FieldMeter(width, height, probe.height / 2);
  const request = { pixelFormat: 'gray', width, height: height * 2, scaling: 'area' as const, fields: true, signal };
  for await (const picture of media.openPictures(path, probe, request)) {
    meter.push(picture);
    if (meter.length % REPORT_EVERY === 0) progress(meter.length, probe.pictures, 'measuring fields');
  }
  return judgeFields(meter, probe.flagged === false ? null : probe.fields);
}

/** Pictures that come faster are never interlaced, and one of odd height has no two fields. The file's own flag is not asked: it is wrong often enough. */
function mayHaveFields(probe: Probe): boolean {
  const rate = averageRate(probe.timing);
  return probe.kind === 'film' && rate !== null && rateToNumber(rate) <= 30.5 && probe.height % 2 === 0;
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
