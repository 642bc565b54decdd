import type { CheckSummary } from '@thawline/contract';
import { type FieldRun, type FilmBeat, filmShare } from '@thawline/core/fields';
import { formatRate, type Rate, rateToNumber, times } from '@thawline/core/time';
import type { FieldFinding } from '@thawline/core/truth';
import { type Film, fieldKindWords, hasFilm, planOf, runsFor, type Source, storedFacts } from '@thawline/project';

/** Sources whose frames may hold two fields: films with an even number of lines, of 30 frames a second at most. */
export function hasFields(source: Source): source is Film {
  return (
    source.kind === 'film' && source.height % 2 === 0 && !source.lost && rateToNumber(storedFacts(source).measured.rate) <= 30.5
  );
}

export interface StoredFields {
  readonly mediaId: string;
  readonly frames: number;
  readonly rate: Rate;
  /** Whether they come evenly. */
  readonly even: boolean;
  readonly flag: Film['fields'];
  /** What a check of the stored frames found; null before there is one. */
  readonly finding: FieldFinding | null;
}

/** What a file stores and what was measured of it, however its fields are read. */
export function storedFields(source: Film, checks: ReadonlyMap<string, CheckSummary>): StoredFields {
  const { mediaId, pictures, measured, variable } = storedFacts(source);
  const finding = checks.get(mediaId)?.verdict.fields ?? null;
  return {
    mediaId,
    frames: pictures,
    rate: measured.rate,
    even: !variable,
    flag: source.fields,
    finding: finding && finding.stretches.length > 0 ? finding : null,
  };
}

/** "two kinds of material", "interlaced, top field first". */
export function kindWords(finding: FieldFinding | null): string {
  if (!finding) return 'not measured yet';
  if (finding.kind === 'mixed') return 'two kinds of material';
  return fieldKindWords({ ...finding, first: null });
}

/** Pictures a second of the film in a file's fields. */
export function filmRate({ finding, rate }: Pick<StoredFields, 'finding' | 'rate'>): Rate {
  const beat: FilmBeat = finding?.film[0]?.beat ?? '2:3';
  return times(rate, filmShare(beat));
}

/** "same", or "61 \u2192 61.25 frames" where a beat of film that is cut short at an end has its last picture whole. */
export function lengthWords({ frames, even }: Pick<StoredFields, 'frames' | 'even'>, runs: readonly FieldRun[]): string {
  const { share, pictures } = planOf(runs);
  if (!even || !share || pictures * share.den === frames * share.num) return 'same';
  return `${frames} \u2192 ${((pictures * share.den) / share.num).toFixed(2)} frames`;
}

/** Moments a second that fields show; a rate of stretches that differ has none. */
export function momentsWords(stored: StoredFields): string {
  const { finding, rate } = stored;
  if (!finding) return '\u2013';
  if (finding.kind === 'mixed') return 'differs';
  if (finding.kind === 'pulldown') return formatRate(filmRate(stored));
  return formatRate(finding.kind === 'interlaced' ? times(rate, { num: 2, den: 1 }) : rate);
}

/** Whether two readings take fields in the same way all along. */
export function sameRuns(a: readonly FieldRun[], b: readonly FieldRun[]): boolean {
  const words = (run: FieldRun): string => {
    const first = run.way === 'progressive' ? '' : run.first;
    return [run.from, run.to, run.way, first, ...(run.way === 'film' ? [run.beat, run.passed] : [])].join(' ');
  };
  return a.length === b.length && a.every((run, i) => words(run) === words(b[i] as FieldRun));
}

/** One picture of the weave of fields and the halves of stored frames that it is made from. */
export interface WovenPicture {
  readonly k: number;
  readonly label: string;
  readonly isFilm: boolean;
  /** Frame and whether it is its first field. */
  readonly halves: readonly { readonly frame: number; readonly first: boolean }[];
}

/** Pictures as read whose fields lie in some stored frames. */
export function weaveOf(runs: readonly FieldRun[], from: number, to: number): WovenPicture[] {
  const plan = planOf(runs);
  const runAt = (frame: number): FieldRun | undefined => runs.find((run) => run.from <= frame && run.to > frame);
  const found: WovenPicture[] = [];
  for (let k = plan.pictureFrom(2 * from); k < plan.pictures && plan.firstField(k) < 2 * to; k++) {
    const begin = plan.firstField(k);
    const run = runAt(begin >> 1);
    if (!run) break;
    const next = k + 1 < plan.pictures ? plan.firstField(k + 1) : 2 * run.to;
    const end = Math.min(next, 2 * run.to);
    const halves: { frame: number; first: boolean }[] = [];
    const last = run.way === 'one-a-frame' ? begin + 1 : end;
    for (let field = begin; field < last; field++)
      if (field >= 2 * from && field < 2 * to) halves.push({ frame: field >> 1, first: field % 2 === 0 });
    found.push({ k, label: `${run.way === 'film' ? 'F' : 'P'}${k}`, isFilm: run.way === 'film', halves });
  }
  return found;
}

/** Readings of several sources by one choice; those without fields, or of which nothing is known that it needs, are left out with the reason. */
export function readingsOf(
  sources: readonly Source[],
  checks: ReadonlyMap<string, CheckSummary>,
  asked: Parameters<typeof runsFor>[1],
): { readonly readings: { source: Film; runs: FieldRun[] }[]; readonly left: { source: Source; why: string }[] } {
  const readings: { source: Film; runs: FieldRun[] }[] = [];
  const left: { source: Source; why: string }[] = [];
  for (const source of sources) {
    if (!hasFields(source)) {
      left.push({ source, why: 'has no fields' });
      continue;
    }
    const stored = storedFields(source, checks);
    if (!stored.finding && (asked.way === 'measured' || asked.way === 'film')) left.push({ source, why: 'is not checked yet' });
    else if (asked.way === 'film' && !hasFilm(stored.finding)) left.push({ source, why: 'shows no film in its fields' });
    else readings.push({ source, runs: runsFor(stored, asked) });
  }
  return { readings, left };
}
