import {
  formatExact,
  formatRate,
  over,
  type Rate,
  rate,
  rateToNumber,
  type SoundGap,
  sameRate,
  snapRate,
  soundGap,
  times,
} from '@thawline/core/time';
import { type ClaimVerdict, judgeClaim, type Verdict } from '@thawline/core/truth';
import type { Project, Source } from '../document/document.js';
import { isMoving } from '../resolve/sources.js';
import { storedFacts } from '../timing/fieldReading.js';
import { ownRate, picturesRead, readingSpeed, readRate, readSeconds, readsUnevenly, semitones } from '../timing/reading.js';
import { speedWords } from '../timing/speedWords.js';
import { fieldWayWords } from './fieldChoices.js';
import { placeWords, stretchWords } from './partWords.js';
import { toldRate } from './toldRate.js';

/** What of a finished check the ledger needs. */
export type CheckFacts = Pick<Verdict, 'kind' | 'trueRate' | 'storedRate' | 'certainty' | 'held' | 'jumps' | 'stretches'> &
  Partial<Pick<Verdict, 'faults' | 'parts'> & { fields: Pick<Verdict['fields'], 'kind' | 'first'> }>;

export interface LedgerLine {
  readonly what: 'claimed' | 'stored' | 'measured' | 'fields' | 'true' | 'part' | 'sound' | 'read';
  /** Pictures a second; null where it is not known. */
  readonly rate: number | null;
  /** The exact fraction where there is one. */
  readonly exact: string | null;
  /** Where it came from, in words. */
  readonly from: string;
  /** Remaining difference to the stated rate, in parts per million; null where it means nothing. */
  readonly ppm: number | null;
  readonly odd: boolean;
}

export interface SourceUse {
  readonly timelineId: string;
  readonly timeline: string;
  readonly rate: Rate;
  /** Picture clips, or sound clips where there are no others. */
  readonly clips: number;
}

/** All of a source's rates, each with where it came from. */
export interface Ledger {
  readonly lines: readonly LedgerLine[];
  readonly gap: SoundGap | null;
  readonly claim: ClaimVerdict | null;
  readonly uses: readonly SourceUse[];
  /** Running time as read, in seconds; null for a still. */
  readonly seconds: number | null;
  readonly speed: number;
  /** What sound that goes along moves by. */
  readonly semitones: number;
}

/** The sound's length against the pictures' own; null without sound or without a gap worth a word. */
export function gapOf(source: Source): SoundGap | null {
  if (!source.sound || !source.measured || source.seconds === undefined) return null;
  return soundGap(source.pictures, source.measured.rate, source.seconds, source.sound.seconds);
}

export function usesOf(project: Project, sourceId: string): SourceUse[] {
  return project.timelines.flatMap((timeline) => {
    const own = timeline.clips.filter((c) => c.sourceId === sourceId);
    if (own.length === 0) return [];
    const pictures = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
    const seen = own.filter((c) => pictures.has(c.laneId)).length;
    return [{ timelineId: timeline.id, timeline: timeline.name, rate: timeline.rate, clips: seen || own.length }];
  });
}

/** Uses of every source at once: counting them one by one would cost a walk over all clips each. */
export function countUses(project: Project): Map<string, number> {
  const counts = new Map<string, number>();
  for (const timeline of project.timelines) {
    const links = new Set<string>();
    for (const clip of timeline.clips) {
      if (clip.link !== null && links.has(clip.link)) continue;
      if (clip.link !== null) links.add(clip.link);
      counts.set(clip.sourceId, (counts.get(clip.sourceId) ?? 0) + 1);
    }
  }
  return counts;
}

const READ_FROM = {
  typed: 'chosen by hand',
  stored: 'as the file says',
  sound: 'so that the pictures last as long as the sound',
  true: 'the true rate',
  timeline: "a timeline's rate",
} as const;

/** Builds a source's ledger. @param check the newest finished check, null when there is none */
export function ledgerOf(project: Project, source: Source, check: CheckFacts | null): Ledger {
  const gap = gapOf(source);
  const claim =
    source.claimed && check && source.measured && toldRate(check) !== null
      ? judgeClaim(source.claimed, source.measured.rate, check.trueRate)
      : null;
  const lines: LedgerLine[] = [];
  const add = (
    what: LedgerLine['what'],
    rate: Rate | number | null,
    from: string,
    ppm: number | null = null,
    odd = false,
  ): void => {
    const exact = rate !== null && typeof rate !== 'number' ? formatExact(rate) : null;
    lines.push({ what, rate: rate === null || typeof rate === 'number' ? rate : rateToNumber(rate), exact, from, ppm, odd });
  };
  if (source.claimed)
    add('claimed', source.claimed, 'typed by hand: what the camera is said to take', null, claim !== null && !claim.kept);
  if (source.stored) {
    const lies = !source.fieldsRead && !source.variable && !sameRate(source.stored, source.measured.rate);
    add('stored', source.stored, 'what the file says of itself', null, lies);
  }
  if (source.measured) {
    const from = source.fieldsRead
      ? `its fields read ${fieldWayWords(source.fieldsRead.runs)}: ${source.pictures} pictures`
      : source.variable
        ? `the average of ${source.pictures} timestamps, which do not come evenly`
        : `${source.pictures} timestamps`;
    add('measured', source.measured.rate, from, source.measured.ppm, source.variable && !source.fieldsRead);
  }
  const seen = source.fieldsRead ? null : (check?.fields ?? null);
  if (source.kind === 'film' && (seen?.kind === 'interlaced' || source.fieldsRead || source.fields !== 'progressive')) {
    const order = seen?.first ? `${seen.first} field first` : 'now one field first, now the other';
    const said =
      source.fields === 'progressive' ? 'two fields a frame' : `two fields a frame, ${source.fields} first, as the file says`;
    const inPart = seen?.first && seen.kind !== 'none' ? `two fields a frame, ${order}, as measured` : said;
    const from = seen?.kind === 'interlaced' ? `two moments a frame, ${order}, as measured` : inPart;
    add('fields', times(storedFacts(source).measured.rate, rate(2)), from);
  }
  if (isMoving(source)) {
    // Numbered pictures were checked at the rate asked for then; the share of new ones is what counts.
    const own = source.measured ? null : readRate(source);
    const trueRate = check && (own ? (check.trueRate / check.storedRate) * rateToNumber(own) : check.trueRate);
    if (check && toldRate(check) === null) add('true', null, trueFrom(check));
    else if (check && trueRate !== null) add('true', trueRate, trueFrom(check), snapRate(trueRate)?.ppm ?? null, isPadded(check));
    else add('true', null, 'not checked yet');
    for (const part of check?.parts ?? [])
      add('part', part.trueRate, `${placeWords(part)}: ${stretchWords(part.pattern)}`, null, part.pattern !== 'new');
  }
  if (gap?.impliedRate && gap.standard && source.sound) {
    const bare = source.pictures / source.sound.seconds;
    add(
      'sound',
      gap.impliedRate,
      'pictures over the length of the sound',
      (bare / rateToNumber(gap.impliedRate) - 1) * 1e6,
      true,
    );
  }
  const read = readRate(source);
  if (read && !readsUnevenly(source)) add('read', read, readFrom(source));
  else if (read) add('read', null, "each picture at its own time, as the file's timestamps say");
  const speed = readingSpeed(source);
  return {
    lines,
    gap,
    claim,
    uses: usesOf(project, source.id),
    seconds: readSeconds(source),
    speed: rateToNumber(speed),
    semitones: semitones(speed),
  };
}

function trueFrom(check: CheckFacts): string {
  return `new pictures a second, ${(check.certainty * 100).toFixed(1)} % certain`;
}

/** The true rate is another than the stored pictures come at. */
export function isPadded(check: Pick<CheckFacts, 'kind' | 'trueRate' | 'storedRate'>): boolean {
  return check.kind !== 'still' && Math.abs(check.trueRate / check.storedRate - 1) > 0.001;
}

function readFrom(source: Source): string {
  if (!source.readAt) return 'as measured';
  if (!source.measured) return 'asked for: numbered pictures have no rate of their own';
  if (source.readAt.pictures === 'new')
    return `new pictures only: ${picturesRead(source)} of ${source.pictures}, those that repeat are left out`;
  if (source.readAt.pictures === 'rebuilt')
    return `${source.readAt.held?.length ?? 0} held pictures left out, the others at their own moments`;
  if (source.readAt.pictures === 'even') return 'made even: each picture at its nearest frame';
  const speed = over(source.readAt.rate, ownRate(source) ?? source.readAt.rate);
  return `${READ_FROM[source.readAt.from]}, ${speedWords(rateToNumber(speed))} of ${formatRate(source.measured.rate)}`;
}
