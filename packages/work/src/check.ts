import { averageRate, rateToNumber } from '@thawline/core/time';
import { type Change, ChangeMeter, checkSize, judge, type Verdict } from '@thawline/core/truth';
import { type Media, MediaError, type Probe } from '@thawline/media';

/** Told now and then while a job runs; total is null while it is not known. */
export type Progress = (done: number, total: number | null, phase: string) => void;

export interface CheckResult {
  readonly verdict: Verdict;
  /** Root mean square change of each picture against the one before, in 8-bit steps at the checked size; index 0 is picture 1. */
  readonly trace: readonly number[];
  readonly size: { readonly width: number; readonly height: number };
  /** Pictures that were decoded; differs from the probe's count when the file holds pictures that cannot be decoded. */
  readonly decoded: number;
}

const REPORT_EVERY = 25;

/** Decodes every picture small and grey, measures its change and judges the clip. Memory does not grow with the length but for the trace. */
export async function check(
  media: Media,
  path: string,
  probe: Probe,
  progress: Progress,
  signal?: AbortSignal,
): Promise<CheckResult> {
  const rate = averageRate(probe.timing);
  if (!rate) throw new MediaError('no-picture');
  const size = checkSize(probe.width, probe.height);
  const meter = new ChangeMeter(size.width, size.height);
  let decoded = 0;
  const request = { pixelFormat: 'gray', ...size, scaling: 'area' as const, ...(signal ? { signal } : {}) };
  for await (const picture of media.openPictures(path, probe, request)) {
    meter.push(picture);
    decoded++;
    if (decoded % REPORT_EVERY === 0) progress(decoded, probe.pictures, 'measuring pictures');
  }
  progress(decoded, decoded, 'judging');
  const changes = meter.finish();
  const verdict = judge(changes, rateToNumber(rate), gapsOf(probe, changes));
  return { verdict, trace: changes.map((c) => Math.round(c.rms * 1000) / 1000), size, decoded };
}

/** Time before each change relative to the usual: a picture that comes late has moved further without any missing. */
function gapsOf(probe: Probe, changes: readonly Change[]): Float64Array | null {
  const { timing } = probe;
  if (timing.kind !== 'variable') return null;
  const gaps = Float64Array.from(changes, (_, i) => (timing.ticks[i + 1] ?? timing.end) - (timing.ticks[i] ?? 0));
  const usual = Float64Array.from(gaps).sort()[gaps.length >> 1] ?? 1;
  return gaps.map((gap) => Math.max(0.05, gap / usual));
}
