import type { FilmBeat } from '@thawline/core/fields';
import { formatDecimalRate } from '@thawline/core/time';
import { beatIn, type FieldFinding, type FieldKind, type FieldStretch, type Part, type Verdict } from '@thawline/core/truth';

/** One stretch's pattern: "each 3 times". */
export function stretchWords(pattern: string): string {
  if (pattern === 'new') return 'all new';
  if (pattern === 'still') return 'still';
  if (pattern === 'blend') return 'mixed';
  if (pattern.startsWith('every-')) return `each ${pattern.slice(6)} times`;
  if (pattern.startsWith('one-in-')) return `1 repeat in ${pattern.slice(7)}`;
  return pattern;
}

/** Where in the picture a box is: "lower right", "left", "middle". */
export function placeWords({ x, y, width, height }: Pick<Part, 'x' | 'y' | 'width' | 'height'>): string {
  if (width > 0.75 && height > 0.75) return 'most of it';
  const of = (middle: number, extent: number, low: string, high: string): string =>
    extent > 0.75 ? '' : middle < 0.4 ? low : middle > 0.6 ? high : '';
  const words = [of(y + height / 2, height, 'upper', 'lower'), of(x + width / 2, width, 'left', 'right')].filter(Boolean);
  return words.join(' ') || 'middle';
}

/** " Parts of the picture differ: 25 in most of it, 8.333 lower right."; empty where all has one rate. */
export function partWords(parts: readonly Part[]): string {
  if (parts.length === 0) return '';
  const told = parts.map((p) => `${formatDecimalRate(p.trueRate)} (${placeWords(p)})`);
  return ` Parts of the picture have rates of their own: ${told.join(', ')}. The whole is as fast as its fastest part.`;
}

/** "film by 2:12": what kind of fields these are. Findings of old do not say by which beat; they knew 2:3 alone. */
function kindWords(kind: FieldKind, beat: FilmBeat | null): string {
  if (kind === 'pulldown') return `film by ${beat ?? '2:3'}`;
  return kind === 'none' ? 'progressive' : kind;
}

const withOrder = (name: string, first: FieldFinding['first']): string =>
  first === null ? name : `${name}, ${first} field first`;

/**
 * "interlaced, top field first", "progressive", "film by 2:3, bottom field first": what was measured. Pictures that a file holds as two fields of one
 * moment each lie in segmented frames.
 */
export function fieldKindWords({ kind, first, film, flag }: Pick<FieldFinding, 'kind' | 'first' | 'film' | 'flag'>): string {
  if (kind === 'none' && flag === 'wrong') return 'progressive in segmented frames';
  return withOrder(kind === 'mixed' ? kind : kindWords(kind, film[0]?.beat ?? null), first);
}

/** The same of one stretch. @param film of all of the finding */
export function fieldStretchWords(stretch: Omit<FieldStretch, 'flag'>, film: FieldFinding['film']): string {
  return withOrder(kindWords(stretch.kind, beatIn(film, stretch)), stretch.first);
}

/** More stretches than this are not told one by one. */
const TOLD = 3;

/** What the fields are, each stretch where they differ, breaks of a beat, and a flag that is wrong; empty where there is nothing to say. */
export function fieldWords({ fields, storedRate }: Pick<Verdict, 'fields' | 'storedRate'>): string {
  const { kind, first, stretches, breaks, flag } = fields;
  const order = first === null ? '' : `, ${first} field first`;
  const told: string[] = [];
  if (kind === 'interlaced')
    told.push(`Its pictures are interlaced${order}: ${formatDecimalRate(2 * storedRate)} moments a second.`);
  if (kind === 'pulldown' && first !== null) told.push(`The ${first} field comes first.`);
  if (kind === 'mixed') {
    const each = stretches.slice(0, TOLD).map((s) => {
      const name = s.kind === 'none' ? 'of one moment' : kindWords(s.kind, beatIn(fields.film, s));
      return `${s.from} to ${s.to - 1} ${name}${s.first === null ? '' : `, ${s.first} first`}`;
    });
    told.push(
      `Its fields differ: pictures ${each.join('; ')}${stretches.length > TOLD ? ` and ${stretches.length - TOLD} more` : ''}.`,
    );
  }
  if (breaks.length > 0)
    told.push(
      `The beat of ${fields.film[0]?.beat ?? '2:3'} breaks at ${breaks.length === 1 ? 'picture' : 'pictures'} ${breaks.slice(0, 6).join(', ')}${breaks.length > 6 ? ' and more' : ''}.`,
    );
  if (flag === 'wrong')
    told.push(
      kind === 'none'
        ? 'The file says interlaced, but each of its frames is one picture (segmented frames): no line has to be rebuilt.'
        : 'What the file says of its fields is wrong.',
    );
  return told.map((sentence) => ` ${sentence}`).join('');
}
