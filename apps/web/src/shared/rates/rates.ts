import { FIELD_ORDERS } from '@thawline/core/fields';
import { formatRate, rateToNumber, sameRate } from '@thawline/core/time';
import { type Project, readRate, readSeconds, readsUnevenly, type Source, type Timeline } from '@thawline/project';

/** The rate a source is read at in a few characters: "25", "27.646 variable", "still", "sound". */
export function rateLabel(source: Source): string {
  const rate = readRate(source);
  if (!rate) return source.kind === 'sound' ? 'sound' : 'still';
  return readsUnevenly(source) ? `${formatRate(rate)} variable` : formatRate(rate);
}

/** A timeline's rate in a few characters: "25", "25 in fields". */
export function frameRateLabel({ rate, fields }: Pick<Timeline, 'rate' | 'fields'>): string {
  return `${formatRate(rate)}${fields ? ' in fields' : ''}`;
}

/** Frames of two fields, by which of them comes first: what a person chooses from. */
export const TWO_FIELDS = FIELD_ORDERS.map((order) => ({ value: order as string, label: `two fields, ${order} first` }));

/** Sources that are read at one rate. */
export interface RateGroup {
  /** What is equal in all of them; an address may hold it. */
  readonly key: string;
  /** "25", "25 ← 29.97" where their own rate is another, "27.646 variable", "stills". */
  readonly label: string;
  readonly rate: number;
  readonly variable: boolean;
  readonly seconds: number;
  readonly sources: readonly Source[];
}

export function groupKey(source: Source): string {
  const rate = readRate(source);
  if (!rate) return source.kind === 'sound' ? 'sound' : 'still';
  const own = source.measured?.rate;
  const from = own && !sameRate(own, rate) ? `-${own.num}-${own.den}` : '';
  return `${readsUnevenly(source) ? 'v' : 'r'}${rate.num}-${rate.den}${from}`;
}

/** Groups by the rate that counts, the longest running time first. */
export function rateGroups(sources: readonly Source[]): RateGroup[] {
  const groups = new Map<string, Source[]>();
  for (const source of sources) {
    const key = groupKey(source);
    const group = groups.get(key);
    if (group) group.push(source);
    else groups.set(key, [source]);
  }
  return [...groups]
    .map(([key, members]) => {
      const first = members[0] as Source;
      const rate = readRate(first);
      const own = first.measured?.rate;
      const arrow = rate && own && !sameRate(own, rate) ? ` \u2190 ${formatRate(own)}` : '';
      return {
        key,
        label: rate ? `${rateLabel(first)}${arrow}` : first.kind === 'sound' ? 'sound alone' : 'stills',
        rate: rate ? rateToNumber(rate) : 0,
        variable: readsUnevenly(first),
        seconds: members.reduce((sum, s) => sum + (readSeconds(s) ?? 0), 0),
        sources: members,
      };
    })
    .sort((a, b) => b.seconds - a.seconds);
}

/** Rates that the project's timelines run at, each once. */
export function timelineRates(project: Project): { name: string; rate: Project['timelines'][number]['rate'] }[] {
  const seen = new Set<string>();
  return project.timelines.flatMap(({ name, rate }) => {
    const key = `${rate.num}/${rate.den}`;
    if (seen.has(key)) return [];
    seen.add(key);
    return [{ name, rate }];
  });
}
