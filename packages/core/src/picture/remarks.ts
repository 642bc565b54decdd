import type { AlphaKind } from './alpha.js';
import { HLG, LINEAR, PQ } from './colour.js';
import { pixelFacts } from './facts.js';

/** What a file says of its pictures, as far as a person has to know it before working with them. */
export interface PictureSaid {
  readonly pixelFormat: string;
  readonly width: number;
  readonly height: number;
  /** Width over height of one sample; 1 where the width already counts it in. */
  readonly sampleAspect: number;
  readonly transfer: string | null;
  readonly alpha: AlphaKind | null;
  readonly projection: string | null;
}

/** A kind of picture that asks for care. */
export const REMARKS = [
  'pq',
  'pq-8-bit',
  'hlg',
  'linear',
  'alpha-straight',
  'alpha-multiplied',
  'alpha-unknown',
  'all-around',
  'anamorphic',
  'odd-size',
] as const;
export type Remark = (typeof REMARKS)[number];

/** What is to be said of a file's pictures, the weightiest first. */
export function remarksOf({ pixelFormat, width, height, sampleAspect, transfer, alpha, projection }: PictureSaid): Remark[] {
  const facts = pixelFacts(pixelFormat);
  const remarks: Remark[] = [];
  if (transfer === PQ) remarks.push(facts && facts.bits < 10 ? 'pq-8-bit' : 'pq');
  if (transfer === HLG) remarks.push('hlg');
  if (transfer === LINEAR) remarks.push('linear');
  if (facts?.alpha && alpha !== 'opaque') remarks.push(`alpha-${alpha ?? 'unknown'}`);
  if (projection !== null) remarks.push('all-around');
  if (sampleAspect !== 1) remarks.push('anamorphic');
  if (width % 2 !== 0 || height % 2 !== 0) remarks.push('odd-size');
  return remarks;
}

/** A remark as a sentence. */
export function remarkWords(remark: Remark): string {
  switch (remark) {
    case 'pq':
      return 'High dynamic range (PQ): its numbers are light up to 10,000 cd/m\u00b2.';
    case 'pq-8-bit':
      return 'High dynamic range (PQ) in 8 bit: smooth shades will show bands; it was meant for 10 bit.';
    case 'hlg':
      return 'High dynamic range (HLG): lights go up to twelve times white.';
    case 'linear':
      return 'Linear light: white is 1, and lights go above it; in timelines of standard range these are cut off.';
    case 'alpha-straight':
      return 'It has alpha, with its colour straight (not multiplied by alpha).';
    case 'alpha-multiplied':
      return 'It has alpha, with its colour multiplied by alpha already.';
    case 'alpha-unknown':
      return 'It has alpha; whether its colour is multiplied by alpha could not be measured, and it is taken as straight.';
    case 'all-around':
      return 'A picture of all around (360\u00b0): left and right edge are neighbours.';
    case 'anamorphic':
      return 'Its samples are not square: it is shown wider or narrower than it is stored.';
    case 'odd-size':
      return 'Its width or height is odd: forms with colour for every second pixel cannot hold it exactly.';
    default:
      return remark satisfies never;
  }
}
