import { formatDecimalRate } from '@thawline/core/time';
import { type FaultKind, PASSAGE_KINDS, type PassageKind, type Verdict } from '@thawline/core/truth';
import { fieldWords, partWords } from './partWords.js';
import { patternWords } from './remarks.js';

/** What a check found, as people read it: the same sentences on the screen, in a report and from the shell. */

/** 3 356, with thin spaces. */
export function count(n: number): string {
  return String(n).replace(/\B(?=(\d{3})+$)/g, '\u2009');
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${count(n)} ${n === 1 ? one : many}`;
}

/** "each picture held 3", "2 held", "all new": what a check found, in a few words. */
export function verdictShort(
  verdict: Pick<Verdict, 'kind' | 'stretches' | 'held' | 'jumps' | 'faults' | 'made' | 'parts'>,
): string {
  const skips = verdict.stretches.find((s) => s.skips)?.skips;
  const faults = [
    verdict.held.length > 0 ? `${verdict.held.length} held` : '',
    skips
      ? `cut from ${formatDecimalRate(skips.madeFrom)}`
      : verdict.jumps.length > 0
        ? plural(verdict.jumps.length, 'jump')
        : '',
    verdict.faults.length > 0 ? plural(verdict.faults.length, 'fault') : '',
    verdict.parts.length > 0 ? 'parts differ' : '',
    verdict.made.length > 0 ? 'some may be made' : '',
  ]
    .filter(Boolean)
    .join(', ');
  return verdict.kind === 'new' && faults ? faults : patternWords(verdict);
}

type Told = Pick<
  Verdict,
  | 'kind'
  | 'stretches'
  | 'held'
  | 'unchanged'
  | 'jumps'
  | 'cuts'
  | 'passages'
  | 'faults'
  | 'pictures'
  | 'storedRate'
  | 'trueRate'
  | 'made'
  | 'fields'
  | 'parts'
>;

/** The verdict as sentences with its numbers. */
export function verdictLong(verdict: Told): string {
  return (
    [sentence, skipWords, restWords, faultWords, cutWords, fieldWords].map((words) => words(verdict)).join('') +
    partWords(verdict.parts) +
    madeWords(verdict)
  );
}

/** " From picture 0 to 119 some may be made …"; empty where none may. */
function madeWords({ made, pictures, storedRate }: Told): string {
  const [first] = made;
  if (!first) return '';
  const all = made.length === 1 && first.from === 0 && first.to >= pictures;
  const where = all ? 'Some' : `From picture ${count(first.from)} to ${count(first.to - 1)} some`;
  const more = made.length > 1 ? ` So in ${plural(made.length - 1, 'other stretch', 'other stretches')}.` : '';
  const rates = `${formatDecimalRate(first.sourceRate)} in ${formatDecimalRate(storedRate)}`;
  return ` ${where} may be made, by motion or by mixing: their detail comes and goes at the beat of ${rates} (certain to ${Math.round(first.certainty * 100)}\u00a0%).${more}`;
}

/** " It was made from 30 by leaving out 1 picture of 5."; empty where nothing of the kind was found. */
function skipWords({ stretches }: Told): string {
  const cut = stretches.filter((s) => s.skips);
  const [first] = cut;
  if (!first?.skips) return '';
  const { leftOut, of, madeFrom } = first.skips;
  const where = cut.length === stretches.length ? 'It was' : `Picture ${count(first.from)} to ${count(first.to - 1)} was`;
  return ` ${where} made from ${formatDecimalRate(madeFrom)} by leaving out ${plural(leftOut, 'picture')} of ${of}: nothing repeats, but every so often a step is too long.`;
}

/** " 250 pictures are the one before, unchanged."; empty where those that hold are all. */
function restWords({ unchanged, held }: Told): string {
  return unchanged.length > held.length
    ? ` ${plural(unchanged.length, 'picture is', 'pictures are')} the same as the one before.`
    : '';
}

const FAULT_WORDS: Record<FaultKind, string> = {
  black: 'black',
  white: 'white',
  damaged: 'damaged',
  foreign: 'of something else',
  swapped: 'exchanged with the next',
  backward: 'from earlier, again',
};

/** What a faulty picture is, in a few words. */
export function faultKindWords(kind: FaultKind): string {
  return FAULT_WORDS[kind];
}

function faultWords({ faults }: Told): string {
  if (faults.length === 0) return '';
  const kinds = [...new Set(faults.map((f) => f.kind))];
  const counts = kinds.map((kind) => `${count(faults.filter((f) => f.kind === kind).length)} ${FAULT_WORDS[kind]}`);
  return ` ${plural(faults.length, 'picture does', 'pictures do')} not belong: ${counts.join(', ')}.`;
}

const PASSAGES: Record<PassageKind, readonly [one: string, many: string]> = {
  flash: ['flash', 'flashes'],
  fade: ['fade', 'fades'],
  dissolve: ['dissolve', 'dissolves'],
};

/** " There are 2 cuts, 1 fade."; empty where there is nothing of the kind. */
function cutWords({ cuts, passages }: Told): string {
  const counts = PASSAGE_KINDS.map((kind) => [passages.filter((p) => p.kind === kind).length, ...PASSAGES[kind]] as const);
  const told = [[cuts.length, 'cut', 'cuts'] as const, ...counts].filter(([many]) => many > 0);
  const [first] = told;
  return first ? ` There ${first[0] === 1 ? 'is' : 'are'} ${told.map((one) => plural(...one)).join(', ')}.` : '';
}

function sentence(verdict: Told): string {
  const { kind, pictures, held, jumps, stretches } = verdict;
  const rate = formatDecimalRate(verdict.trueRate);
  const pattern = stretches.find((s) => s.pattern !== 'still')?.pattern ?? 'still';
  const jumped =
    jumps.length > 0 && !stretches.some((s) => s.skips) ? ` Pictures are missing before ${plural(jumps.length, 'place')}.` : '';
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
      if (pattern.includes('fields'))
        return pattern === '2:3 fields'
          ? `Two fields of different moments stand in two pictures of five, 2:3: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)}.`
          : `Film is spread over its fields by ${pattern.replace(' fields', '')}: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)}.`;
      return `Pictures are shown 2 and 3 times in turn: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)}.`;
    case 'blended':
      return `Pictures were mixed into each other: ${rate} was stored as ${formatDecimalRate(verdict.storedRate)} by blending.`;
    case 'still':
      return verdict.unchanged.length > 0 && verdict.unchanged.length < pictures - 1
        ? 'Most pictures are as the one before, so no true rate can be told.'
        : 'Nothing moves, so new and held pictures cannot be told apart.';
    case 'mixed':
      return `Not all of it is of one kind: ${plural(stretches.length, 'stretch', 'stretches')}, each with its own rate. The mean is ${rate}.`;
    default:
      return kind satisfies never;
  }
}
