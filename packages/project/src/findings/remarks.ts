import { formatRate, rateToNumber, STANDARD_RATES, sameRate } from '@thawline/core/time';
import { judgeClaim } from '@thawline/core/truth';
import type { Source } from '../document/document.js';
import { type CheckFacts, gapOf, isPadded } from './ledger.js';
import { toldRate } from './toldRate.js';

/** What may stand out about a source, the weightiest first. */
export const REMARKS = [
  'lost',
  'early',
  'variable',
  'claim',
  'repeats',
  'gap',
  'stored',
  'faults',
  'missing',
  'tracks',
  'interlaced',
  'odd',
  'drift',
] as const;
export type RemarkCode = (typeof REMARKS)[number];

export interface Remark {
  readonly code: RemarkCode;
  readonly text: string;
}

/** Half this much off a standard rate is still worth a word. */
const DRIFT_PPM = 20;

/** All that stands out about a source, weightiest first; empty when nothing does. */
export function remarksOf(source: Source, check: CheckFacts | null): Remark[] {
  const found: Remark[] = [];
  const add = (code: RemarkCode, text: string): void => void found.push({ code, text });
  const { measured, stored } = source;
  if (source.lost) add('lost', 'not found yet');
  if (source.endsEarly) add('early', 'ends early');
  if (source.variable) add('variable', source.readAt ? 'variable timing, made even' : 'variable timing');
  if (source.claimed && check && measured && toldRate(check) !== null) {
    const claim = judgeClaim(source.claimed, measured.rate, check.trueRate);
    if (!claim.kept) add('claim', `fits ${Number(claim.fits.toFixed(2))}, not ${formatRate(source.claimed)}`);
  }
  if (check && isPadded(check)) add('repeats', patternWords(check));
  const gap = gapOf(source);
  if (gap) add('gap', `sound ${Math.abs(gap.seconds).toFixed(1)} s ${gap.seconds > 0 ? 'longer' : 'shorter'}`);
  if (stored && measured && !source.variable && !sameRate(stored, measured.rate)) add('stored', `says ${formatRate(stored)}`);
  if (check && !isPadded(check) && check.held.length + check.jumps.length + (check.faults?.length ?? 0) > 0) {
    const held = check.held.length > 0 ? `${check.held.length} held` : '';
    const jumps = check.jumps.length > 0 ? `${check.jumps.length} ${check.jumps.length === 1 ? 'jump' : 'jumps'}` : '';
    const faults = check.faults?.length ?? 0;
    const wrong = faults > 0 ? `${faults} ${faults === 1 ? 'fault' : 'faults'}` : '';
    add('faults', [held, jumps, wrong].filter(Boolean).join(', '));
  }
  if (source.numbers && source.numbers.missing > 0) {
    const { missing } = source.numbers;
    add('missing', `${missing} ${missing === 1 ? 'number is' : 'numbers are'} missing`);
  }
  const others = source.sound?.others ?? 0;
  if (others > 0) add('tracks', `${others + 1} sound tracks, the first is heard`);
  const fields = fieldRemark(source, check);
  if (fields) add('interlaced', fields);
  if (measured && !source.variable && !isUsual(source)) add('odd', `odd rate: ${formatRate(measured.rate)}`);
  if (measured && Math.abs(measured.ppm) > DRIFT_PPM)
    add('drift', `${measured.ppm.toFixed(0)} ppm off ${formatRate(measured.rate)}`);
  return found;
}

/** What the file says of its fields, and what a check saw of them where that says more. */
function fieldRemark(source: Source, check: CheckFacts | null): string | null {
  if (source.fieldsRead) return null;
  const said = (source.fields ?? 'progressive') !== 'progressive';
  // Where nothing moves no comb can be seen.
  const seen = check && check.kind !== 'still' ? (check.fields ?? null) : null;
  if (seen?.kind === 'interlaced' || seen?.kind === 'mixed') {
    const kind = seen.kind === 'mixed' ? 'interlaced in part' : 'interlaced';
    const order = seen.first ?? (said ? source.fields : null);
    const flag = said ? (order === source.fields ? '' : `; the file says ${source.fields} first`) : '; the file says progressive';
    return `${kind}${order ? `, ${order} first` : ''}: two moments a picture${flag}`;
  }
  if (!said) return null;
  return seen?.kind === 'none' ? `says interlaced, ${source.fields} first; no combs found` : `interlaced, ${source.fields} first`;
}

/** A rate that practice has a name for, or a whole high one of a camera. */
function isUsual(source: Source): boolean {
  const rate = source.measured?.rate;
  if (!rate) return true;
  return STANDARD_RATES.some((r) => sameRate(r, rate)) || (rate.den === 1 && rateToNumber(rate) > 100 && rate.num % 10 === 0);
}

/** What kind of clip a check found, in a few words: "each picture held 3", "2:3 repeats", "all new". */
export function patternWords(check: Pick<CheckFacts, 'kind' | 'stretches'>): string {
  const pattern = check.stretches.find((s) => s.pattern !== 'still')?.pattern ?? 'still';
  switch (check.kind) {
    case 'new':
      return 'all new';
    case 'padded':
      return `each picture held ${pattern.replace('every-', '')}`;
    case 'one-in-n':
      return `1 repeat in ${pattern.replace('one-in-', '')}`;
    case 'pulldown':
      return pattern.includes('fields') ? `${pattern.replace(' fields', '')} by fields` : `${pattern} repeats`;
    case 'blended':
      return 'blended from another rate';
    case 'still':
      return 'nothing moves';
    case 'mixed':
      return `${check.stretches.length} stretches differ`;
    default:
      return check.kind satisfies never;
  }
}
