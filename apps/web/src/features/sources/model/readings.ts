import type { CheckSummary } from '@thawline/contract';
import { type Rate, rate, rateToNumber, snapRate, times } from '@thawline/core/time';
import {
  corrected,
  gapOf,
  isMoving,
  ownRate,
  type Reading,
  type SoundWay,
  type Source,
  type WholeReading,
} from '@thawline/project';

/** Where the rates of a Read at come from: one for all, or each source's own. */
export type Origin = 'typed' | 'own' | 'stored' | 'sound' | 'true' | 'new' | 'timeline';

export interface ReadChoice {
  readonly origin: Origin;
  /** For typed and timeline. */
  readonly rate: Rate | null;
  /** For variable sources. */
  readonly pictures: WholeReading['pictures'];
  readonly sound: SoundWay;
}

export interface Readings {
  readonly readings: readonly { sourceId: string; reading: Reading | null }[];
  /** Sources that the origin has no rate for, with the reason. */
  readonly left: readonly { readonly source: Source; readonly why: string }[];
}

/** Each source's reading under a choice, as the readAt command wants them. */
export function readingsFor(choice: ReadChoice, sources: readonly Source[], checks: ReadonlyMap<string, CheckSummary>): Readings {
  const readings: { sourceId: string; reading: Reading | null }[] = [];
  const left: { source: Source; why: string }[] = [];
  for (const source of sources) {
    const found = !isMoving(source)
      ? source.kind === 'still'
        ? 'a still has no rate'
        : 'sound alone has no rate'
      : rateFor(choice, source, checks.get(source.mediaId) ?? null);
    if (typeof found === 'string') left.push({ source, why: found });
    else {
      const { pictures, sound } = choice;
      const from = choice.origin === 'own' ? 'typed' : choice.origin === 'new' ? 'true' : choice.origin;
      const held = choice.origin === 'new' ? heldOf(source, checks.get(source.mediaId)) : null;
      const read = found && { rate: found, from, sound };
      const reading: Reading | null = read && (held ? { ...read, pictures: 'new', held } : { ...read, pictures });
      readings.push({ sourceId: source.id, reading });
    }
  }
  return { readings, left };
}

/** The rate, null for the file's own timing, or why there is none. */
function rateFor(choice: ReadChoice, source: Source, check: CheckSummary | null): Rate | null | string {
  switch (choice.origin) {
    case 'typed':
    case 'timeline':
      return choice.rate ?? 'no rate is chosen';
    case 'own':
      return source.measured ? null : 'numbered pictures have no rate of their own';
    case 'stored':
      return source.stored ?? 'numbered pictures store no rate';
    case 'sound':
      return gapOf(source)?.impliedRate ?? (source.sound ? 'its sound is as long as its pictures' : 'it has no sound');
    case 'true':
      return check ? exactTrue(check, source) : 'it is not checked yet';
    case 'new':
      return check ? exactNew(check, source) : 'it is not checked yet';
    default:
      return choice.origin satisfies never;
  }
}

/** Pictures that hold, a person's word counted in. */
function heldOf(source: Source, check: CheckSummary | undefined): number[] {
  return check ? [...corrected(check.verdict, source.judged).held] : [];
}

/** The rate at which a source's new pictures alone last as long as all of them do; why not, where none repeat. */
function exactNew(check: CheckSummary, source: Source): Rate | string {
  const held = heldOf(source, check);
  const own = ownRate(source);
  if (held.length === 0) return 'all its pictures are new';
  if (!own) return 'it has no rate';
  return times(own, rate(source.pictures - held.length, source.pictures));
}

/** A true rate as an exact fraction: a standard one, a simple share of the measured one (25/3), or thousandths. */
export function exactTrue(check: CheckSummary, source: Source): Rate {
  const { trueRate, storedRate } = check.verdict;
  const base = source.measured?.rate ?? rate(Math.round(storedRate * 1000), 1000);
  for (let den = 1; den <= 60; den++) {
    const num = Math.round((trueRate / rateToNumber(base)) * den);
    if (num > 0 && Math.abs((num / den) * rateToNumber(base) - trueRate) < 1e-6 * trueRate) return times(base, rate(num, den));
  }
  return snapRate(trueRate)?.rate ?? rate(Math.max(1, Math.round(trueRate * 1000)), 1000);
}
