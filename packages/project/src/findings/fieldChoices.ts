import { FIELD_ORDERS, FIELD_WAYS, type FieldOrder, type FieldRun, type FieldWay } from '@thawline/core/fields';
import type { FieldFinding, FieldStretch } from '@thawline/core/truth';
import { planOf } from '../timing/fieldReading.js';

/** How fields are to be read: each stretch as it was measured, or all in one way. */
export const FIELD_CHOICES = ['measured', ...FIELD_WAYS] as const;
export type FieldChoice = (typeof FIELD_CHOICES)[number];

/** Which field counts as first: the one that was measured, the one that the file names, or this one. */
export const ORDER_CHOICES = ['measured', 'flagged', ...FIELD_ORDERS] as const;
export type OrderChoice = (typeof ORDER_CHOICES)[number];

export interface FieldsAsked {
  readonly way: FieldChoice;
  readonly order: OrderChoice;
}

interface StoredFields {
  /** Stored frames. */
  readonly frames: number;
  /** What the file says. */
  readonly flag: 'progressive' | FieldOrder;
  /** What a check of the stored frames found; null where there is none. */
  readonly finding: Pick<FieldFinding, 'first' | 'stretches' | 'film'> | null;
}

const flagged = ({ flag }: StoredFields): FieldOrder => (flag === 'bottom' ? 'bottom' : 'top');

/** Which field counts as first. @param stretch whose own order was measured, where that is asked of one */
export function fieldOrderOf(stored: StoredFields, order: OrderChoice, stretch: Pick<FieldStretch, 'first'> | null): FieldOrder {
  if (order === 'flagged') return flagged(stored);
  if (order !== 'measured') return order;
  const { finding } = stored;
  const any = finding?.stretches.find((s) => s.first !== null)?.first ?? null;
  return stretch?.first ?? finding?.first ?? any ?? flagged(stored);
}

/**
 * The runs of a reading. Film is where a check found its beats; what lies between is read as it was measured, or where that is not known as whole
 * pictures.
 */
export function runsFor(stored: StoredFields, { way, order }: FieldsAsked): FieldRun[] {
  const { frames, finding } = stored;
  const all = { from: 0, to: frames };
  if (way === 'progressive') return [{ ...all, way }];
  const stretches = finding?.stretches ?? [];
  // Without a stretch that says otherwise all of it is of one order.
  if (way !== 'measured' && way !== 'film') {
    const each = stretches.length > 0 ? stretches : [{ ...all, first: null }];
    return joined(each.map(({ from, to, first }) => ({ from, to, way, first: fieldOrderOf(stored, order, { first }) })));
  }
  if (stretches.length === 0) return [{ ...all, way: 'progressive' }];
  return joined(
    stretches.flatMap((s): FieldRun[] => {
      const { from, to } = s;
      const film = finding?.film.filter((f) => f.from >= from && f.to <= to) ?? [];
      if (s.kind === 'pulldown' && film.length > 0) return [...film];
      if (s.kind === 'none') return [{ from, to, way: 'progressive' }];
      return [{ from, to, way: 'one-a-field', first: fieldOrderOf(stored, order, s) }];
    }),
  );
}

/** Runs of one way that touch as one; beats of film are kept apart, for each has its own. */
function joined(runs: readonly FieldRun[]): FieldRun[] {
  return runs.reduce<FieldRun[]>((found, run) => {
    const last = found.at(-1);
    const same = last && last.way === run.way && run.way !== 'film';
    const alike = same && (last.way === 'progressive' || run.way === 'progressive' || last.first === run.first);
    if (last && alike) found[found.length - 1] = { ...last, to: run.to };
    else found.push(run);
    return found;
  }, []);
}

/** What comes of reading fields in runs. */
export interface FieldsOutcome {
  /** Pictures as read. */
  readonly pictures: number;
  /** Share of all lines that stay as they are stored, 0 to 1. */
  readonly linesKept: number;
  /** Pictures half of whose lines are rebuilt. */
  readonly rebuilt: number;
  /** Breaks in a beat of film that are bridged. */
  readonly breaks: number;
  /** Pictures of film at breaks with one field alone: kept and rebuilt, and left out so that the length stays. */
  readonly alone: { readonly kept: number; readonly leftOut: number };
}

export function outcomeOf(runs: readonly FieldRun[]): FieldsOutcome {
  const plan = planOf(runs);
  const breaks = runs.filter((run, i) => run.way === 'film' && runs[i - 1]?.way === 'film').length;
  return {
    pictures: plan.pictures,
    rebuilt: plan.rebuilt,
    breaks,
    alone: plan.alone,
    linesKept: plan.pictures > 0 ? 1 - plan.rebuilt / 2 / plan.pictures : 1,
  };
}

/** Whether a check found film in a file's fields. */
export function hasFilm(finding: Pick<FieldFinding, 'film'> | null): boolean {
  return (finding?.film.length ?? 0) > 0;
}

/** Each way of reading fields, in words. */
export const FIELD_WAY_WORDS: Record<FieldWay, string> = {
  progressive: 'progressive',
  'one-a-field': 'one picture a field',
  'one-a-frame': 'one picture a frame',
  film: 'film, pulldown undone',
};

/** "film, pulldown undone", or "each stretch its own way" where runs differ: how fields are read. */
export function fieldWayWords(runs: readonly FieldRun[]): string {
  const ways = [...new Set(runs.map((run) => run.way))];
  return ways.length === 1 ? FIELD_WAY_WORDS[ways[0] as FieldWay] : 'each stretch its own way';
}
