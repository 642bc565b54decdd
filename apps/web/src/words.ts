import { formatDecimalRate, type Rate, rateToNumber } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import { patternWords } from '@thawline/project';

/** Sentences and short forms that several views share. */

/** 0:41.2, 6:12.0, 1:02:03.0 */
export function clock(seconds: number): string {
  const tenths = Math.round(seconds * 10);
  const hours = Math.floor(tenths / 36_000);
  const minutes = Math.floor(tenths / 600) % 60;
  const rest = ((tenths % 600) / 10).toFixed(1);
  return hours > 0
    ? `${hours}:${String(minutes).padStart(2, '0')}:${rest.padStart(4, '0')}`
    : `${minutes}:${rest.padStart(4, '0')}`;
}

/** 3 356, with thin spaces. */
export function count(n: number): string {
  return String(n).replace(/\B(?=(\d{3})+$)/g, '\u2009');
}

export function bytes(n: number): string {
  if (n < 1e6) return `${Math.round(n / 1e3)} kB`;
  return n < 1e9 ? `${(n / 1e6).toFixed(1)} MB` : `${(n / 1e9).toFixed(2)} GB`;
}

/** A speed as people say it: "83.42 %". */
export function percent(speed: Rate): string {
  return `${(rateToNumber(speed) * 100).toFixed(2)} %`;
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${count(n)} ${n === 1 ? one : many}`;
}

/** "each picture held 3", "2 held", "all new": what a check found, in a few words. */
export function verdictShort(verdict: Pick<Verdict, 'kind' | 'stretches' | 'held' | 'jumps'>): string {
  const faults = [
    verdict.held.length > 0 ? `${verdict.held.length} held` : '',
    verdict.jumps.length > 0 ? plural(verdict.jumps.length, 'jump') : '',
  ]
    .filter(Boolean)
    .join(', ');
  return verdict.kind === 'new' && faults ? faults : patternWords(verdict);
}

/** The verdict as sentences with its numbers. */
export function verdictLong(
  verdict: Pick<Verdict, 'kind' | 'stretches' | 'held' | 'jumps' | 'pictures' | 'storedRate' | 'trueRate'>,
): string {
  const { kind, pictures, held, jumps, stretches } = verdict;
  const rate = formatDecimalRate(verdict.trueRate);
  const pattern = stretches.find((s) => s.pattern !== 'still')?.pattern ?? 'still';
  const jumped = jumps.length > 0 ? ` Pictures are missing before ${plural(jumps.length, 'place')}.` : '';
  switch (kind) {
    case 'new':
      return held.length === 0
        ? `All ${count(pictures)} pictures are new.${jumped}`
        : `${plural(held.length, 'picture shows', 'pictures show')} nothing new: single freezes, which do not change the rate of ${rate}.${jumped}`;
    case 'padded':
      return `${count(pictures - held.length)} of ${count(pictures)} pictures are new. Every picture is stored ${pattern.replace('every-', '')} times: this is padding, not a fault in a copy.`;
    case 'one-in-n':
      return `One picture in ${pattern.replace('one-in-', '')} is a repeat: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)}.${jumped}`;
    case 'pulldown':
      return `Pictures are shown 2 and 3 times in turn: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)}.`;
    case 'blended':
      return 'Many pictures are mixes of their neighbours: this was made from another rate by blending.';
    case 'still':
      return 'Nothing moves, so new and held pictures cannot be told apart.';
    case 'mixed':
      return `Not all of it is of one kind: ${plural(stretches.length, 'stretch', 'stretches')}, each with its own rate. The mean is ${rate}.`;
    default:
      return kind satisfies never;
  }
}
