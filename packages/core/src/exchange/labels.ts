import {
  allowsDropFrame,
  formatTimecode,
  nominalRate,
  over,
  parseTimecode,
  type Rate,
  rate,
  rateToNumber,
  times,
} from '../time/index.js';

/**
 * Timecode of a source as an edit list names it. It is a label: 01:00:02:00 on a file at 23.976 that begins at 01:00:00:00 is its picture
 * 48, whatever the list counts in (SMPTE ST 12-1: labels count pictures, not time). Only where a list and a source count another number
 * of frames a second does the last part of a label admit two readings: frames of the source, or of the list.
 */
export interface SourceLabels {
  /** As they are written: in point, and the label after the last picture. */
  readonly from: string;
  readonly to: string;
  /** What the M2 line says, in pictures a second, negative backward; null without one. */
  readonly speed: number | null;
  /** Whether the list counts drop-frame there; it says so of labels that have no ";", where the source's own timecode is not known. */
  readonly dropFrame?: boolean;
}

/** What has to be known of a source to find a label in it. */
export interface LabelledSource {
  /** Pictures a second. */
  readonly rate: Rate;
  /** What its first picture is called, ";" for drop-frame; null: 00:00:00:00. */
  readonly start: string | null;
}

/** How certain it is which picture a label means. */
export const SURENESS = ['certain', 'likely', 'unsure'] as const;
export type Sureness = (typeof SURENESS)[number];

/** What a list's source labels mean in a source. */
export interface LabelledRun {
  /** The picture of the in point, from 0; may lie before the source's first, or past its last. */
  readonly picture: number;
  /** Source pictures per frame of the list; null: the in picture is held. */
  readonly perFrame: Rate | null;
  /** From the end of the stretch to its beginning. */
  readonly backward: boolean;
  readonly sure: Sureness;
  /** Pictures between source in and out, when that disagrees with record length and speed; else null. */
  readonly apart: number | null;
}

/** What the last part of a label counts: the source's pictures, or the list's frames. */
export type LabelCounting = 'source' | 'list';

/** M2 lines are cut to a tenth of a picture a second. */
const M2_GRAIN = 0.1;

/**
 * @param list the list's rate
 * @param length of the event, in frames of the list
 * @param hint what other events of the same source in the same list were found to count, see countingOf
 * @returns null where a label names no picture of such a source
 */
export function labelledRun(
  labels: SourceLabels,
  {
    list,
    length,
    source,
    hint = null,
  }: { readonly list: Rate; readonly length: number; readonly source: LabelledSource; readonly hint?: LabelCounting | null },
): LabelledRun | null {
  const own = readAs('source', { labels, list, length, source });
  if (nominalRate(list) === nominalRate(source.rate)) return own && { ...own.run, sure: own.exact ? 'certain' : 'unsure' };
  const other = readAs('list', { labels, list, length, source });
  const [only] = [own, other].filter((r) => r !== null);
  if (!own || !other) return only ? { ...only.run, sure: only.fits ? 'likely' : 'unsure' } : null;
  const better = hint ?? decided(own, other);
  const chosen = better === 'list' ? other : own;
  // Where the last part is 0 both mean the same picture.
  if (own.run.picture === other.run.picture) return { ...chosen.run, sure: 'certain' };
  return { ...chosen.run, sure: better === null ? 'unsure' : 'likely' };
}

/** What the last field of a source's labels counts (the list's frames or the source's), judged by all of its events; null when undecided. */
export function countingOf(
  events: readonly { readonly labels: SourceLabels; readonly length: number }[],
  list: Rate,
  source: LabelledSource,
): LabelCounting | null {
  if (nominalRate(list) === nominalRate(source.rate)) return null;
  let votes = 0;
  for (const { labels, length } of events) {
    const own = readAs('source', { labels, list, length, source });
    const other = readAs('list', { labels, list, length, source });
    const better = own && other ? decided(own, other) : own ? 'source' : other ? 'list' : null;
    if (better) votes += better === 'source' ? 1 : -1;
  }
  return votes > 0 ? 'source' : votes < 0 ? 'list' : null;
}

/** The reading whose length agrees with the record length, or is nearer to it. */
function decided(own: Reading, other: Reading): LabelCounting | null {
  if (own.fits !== other.fits) return own.fits ? 'source' : 'list';
  if (!own.fits || Math.abs(own.off - other.off) < 0.5) return null;
  return own.off < other.off ? 'source' : 'list';
}

interface Reading {
  readonly run: Omit<LabelledRun, 'sure'>;
  /** Whether source in and out are as far apart as the record length and the speed say. */
  readonly fits: boolean;
  /** By how many pictures they are not. */
  readonly off: number;
  /** Whether labels and the source's own timecode count alike, dropping frames or not. */
  readonly exact: boolean;
}

function readAs(
  counting: LabelCounting,
  {
    labels,
    list,
    length,
    source,
  }: { readonly labels: SourceLabels; readonly list: Rate; readonly length: number; readonly source: LabelledSource },
): Reading | null {
  const find = (label: string) => pictureOfLabel(label, { list, source, counting, listDrops: labels.dropFrame ?? false });
  const [from, to] = [find(labels.from), find(labels.to)];
  if (!from || !to) return null;
  const low = Math.min(from.picture, to.picture);
  const used = Math.abs(to.picture - from.picture);
  const backward = (labels.speed ?? 1) < 0 || to.picture < from.picture;
  const usual = over(rate(nominalRate(source.rate)), rate(nominalRate(list)));
  const exact = from.exact && to.exact;
  if (labels.speed === 0)
    return { run: { picture: from.picture, perFrame: null, backward: false, apart: null }, fits: true, off: 0, exact };
  const per = labels.speed === null ? usual : speedOf({ m2: Math.abs(labels.speed), counting, list, usual, used, length });
  const off = Math.abs(used - length * rateToNumber(per));
  const fits = off <= 1 + 1e-9;
  return { run: { picture: low, perFrame: per, backward, apart: fits ? null : used }, fits, off, exact };
}

/** Pictures a frame of the list by an M2 line; where source and record length tell a finer speed within its tenth, that. */
function speedOf({
  m2,
  counting,
  list,
  usual,
  used,
  length,
}: {
  readonly m2: number;
  readonly counting: LabelCounting;
  readonly list: Rate;
  readonly usual: Rate;
  readonly used: number;
  readonly length: number;
}): Rate {
  const tenths = rate(Math.max(1, Math.round(m2 * 10)), 10 * nominalRate(list));
  const told = counting === 'source' ? tenths : times(tenths, usual);
  if (used <= 0) return told;
  const by = rate(used, length);
  const apart = Math.abs(rateToNumber(by) - rateToNumber(told));
  const grain = 1 / length;
  const open = (M2_GRAIN / nominalRate(list)) * (counting === 'source' ? 1 : rateToNumber(usual));
  return apart > grain && apart <= open + grain ? by : told;
}

/** The picture that a label means; exact is false where its way of counting is not the source's own. Null where it is no label there. */
function pictureOfLabel(
  label: string,
  {
    list,
    source,
    counting,
    listDrops,
  }: { readonly list: Rate; readonly source: LabelledSource; readonly counting: LabelCounting; readonly listDrops: boolean },
): { readonly picture: number; readonly exact: boolean } | null {
  const match = /^(.*)([:;.])(\d{1,3})$/.exec(label.trim());
  if (!match) return null;
  const [, clock = '', mark = ':', digits = '0'] = match;
  const dropMarked = mark !== ':';
  const drop = allowsDropFrame(source.rate) && (source.start ? /[;.]\d+$/.test(source.start) : dropMarked || listDrops);
  const start = source.start ? (parsed(source.start, source.rate, drop) ?? 0) : 0;
  const frames = Number(digits);
  const step = nominalRate(counting === 'source' ? source.rate : list);
  if (frames >= step) return null;
  const own = counting === 'source' ? frames : Math.floor((frames * nominalRate(source.rate)) / step);
  const text = `${clock}:${String(own).padStart(2, '0')}`;
  const counted = parsed(text, source.rate, drop);
  // A number that drop-frame leaves out, on a list that counts them all.
  const at = counted ?? (drop ? parsed(text, source.rate, false) : null);
  if (at === null) return null;
  return { picture: at - start, exact: counted !== null && (drop === dropMarked || !dropMarked) };
}

function parsed(text: string, r: Rate, dropFrame: boolean): number | null {
  return parseTimecode(text.replace(/[;.]/g, ':'), r, { dropFrame });
}

/** What a picture of a source is called. @param picture from 0, past the source's end too */
export function labelOfPicture(picture: number, source: LabelledSource): string {
  const drop = allowsDropFrame(source.rate) && /[;.]\d+$/.test(source.start ?? '');
  const start = source.start ? (parsed(source.start, source.rate, drop) ?? 0) : 0;
  return formatTimecode(Math.max(0, start + picture), source.rate, { dropFrame: drop, wrap: true });
}

/**
 * The labels of a stretch, and the M2 speed where it is not one that the lengths tell by themselves.
 * @param length in frames of the list
 */
export function labelsOf(
  run: Pick<LabelledRun, 'picture' | 'perFrame' | 'backward'>,
  list: Rate,
  length: number,
  source: LabelledSource,
): SourceLabels {
  const { picture, perFrame, backward } = run;
  const usual = nominalRate(source.rate) / nominalRate(list);
  const per = perFrame ? rateToNumber(perFrame) : 0;
  const used = Math.max(1, perFrame ? Math.round((length * perFrame.num) / perFrame.den) : 1);
  const plain = perFrame !== null && !backward && Math.abs(used - length * usual) <= 1 && Math.abs(per - usual) * length <= 1;
  const speed = plain ? null : per * nominalRate(list) * (backward ? -1 : 1);
  return { from: labelOfPicture(picture, source), to: labelOfPicture(picture + used, source), speed };
}
