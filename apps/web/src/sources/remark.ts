import type { CheckSummary } from '@thawline/contract';
import { formatRate, rateToNumber, sameRate, soundGap } from '@thawline/core/time';
import type { Source } from '@thawline/project';
import { verdictShort } from '../words.js';

export interface Remark {
  readonly text: string;
  readonly tone: 'rust' | 'quiet';
}

/** The one thing that stands out most about a source. */
export function remark(source: Source, check: CheckSummary | null): Remark {
  if (source.variable) return { text: 'variable timing', tone: 'rust' };
  if (check && check.verdict.kind !== 'new' && check.verdict.kind !== 'still')
    return { text: verdictShort(check.verdict), tone: 'rust' };
  const gap = source.sound && soundGap(source.pictures, source.measured.rate, source.seconds, source.sound.seconds);
  if (gap) return { text: `sound ${Math.abs(gap.seconds).toFixed(1)} s ${gap.seconds > 0 ? 'longer' : 'shorter'}`, tone: 'rust' };
  if (!sameRate(source.stored, source.measured.rate)) return { text: `says ${formatRate(source.stored)}`, tone: 'rust' };
  if (check && check.verdict.held.length + check.verdict.jumps.length > 0)
    return { text: verdictShort(check.verdict), tone: 'rust' };
  if (source.fields !== 'progressive') return { text: `interlaced, ${source.fields} first`, tone: 'rust' };
  if (Math.abs(source.measured.ppm) > 20)
    return { text: `${source.measured.ppm.toFixed(0)} ppm off ${formatRate(source.measured.rate)}`, tone: 'quiet' };
  if (check) return { text: verdictShort(check.verdict), tone: 'quiet' };
  return { text: source.sound ? 'sync sound' : rateToNumber(source.measured.rate) >= 90 ? 'high rate' : '', tone: 'quiet' };
}
