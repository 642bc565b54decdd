import { colourWords, pixelFacts, pixelWords, type Remark, remarksOf, remarkWords } from '@thawline/core/picture';
import { isSphere, type Source } from '@thawline/project';

/** What a source's file says of its pictures, a line each. */
export interface PictureFact {
  readonly name: string;
  readonly words: string;
}

/** Chroma siting, as FFmpeg names it. */
const SITES: Readonly<Record<string, string>> = { center: 'centre', topleft: 'top left', bottomleft: 'bottom left' };

/** Samples, colours, light and shape of a source's pictures; none of sound alone. */
export function pictureFacts(source: Source): PictureFact[] {
  if (source.kind === 'sound') return [];
  const { pixelFormat, looks, sampleAspect } = source;
  const facts: PictureFact[] = [{ name: 'Samples', words: pixelWords(pixelFormat) }];
  const colours = looks?.colour && colourWords(looks.colour);
  facts.push({ name: 'Colours', words: colours ?? 'the file does not say' });
  const chroma = pixelFacts(pixelFormat)?.chroma;
  if (looks?.siting && chroma && chroma !== '4:4:4')
    facts.push({ name: 'Chroma siting', words: SITES[looks.siting] ?? looks.siting });
  const { display, light } = looks?.highRange ?? {};
  if (display) facts.push({ name: 'Mastered on', words: `a display of ${display.least} to ${display.most} cd/m\u00b2` });
  if (light)
    facts.push({
      name: 'Light level',
      words: `${light.most} cd/m\u00b2 at most; the lightest picture has ${light.average} on average`,
    });
  if (sampleAspect) facts.push({ name: 'Sample shape', words: `${Number(sampleAspect.toFixed(4))} : 1` });
  if (looks?.rotation) facts.push({ name: 'Turned', words: `${looks.rotation}\u00b0, as the file asks` });
  if (looks?.projection) facts.push({ name: 'Projection', words: looks.projection });
  return facts;
}

/** What needs care, as sentences, and whether something may be wrong with it. */
export function pictureRemarks(source: Source): { readonly remark: Remark; readonly words: string; readonly odd: boolean }[] {
  if (source.kind === 'sound') return [];
  const { pixelFormat, looks, height, sampleAspect = 1 } = source;
  const remarks = remarksOf({
    pixelFormat,
    width: Math.round(source.width / sampleAspect),
    height,
    sampleAspect,
    transfer: looks?.colour?.transfer ?? null,
    alpha: looks?.alpha ?? null,
    projection: isSphere(source) ? 'equirectangular' : null,
  });
  return remarks.map((remark) => ({
    remark,
    words: remarkWords(remark),
    odd: remark === 'pq-8-bit' || remark === 'alpha-unknown',
  }));
}
