import { type PixelFacts, pixelFacts, planarName } from './facts.js';

/** What codes pictures or holds them as they are; raw: Y4M. */
export type PictureCoder =
  | 'h264'
  | 'hevc'
  | 'vp9'
  | 'av1'
  | 'ffv1'
  | 'prores'
  | 'dnxhr'
  | 'mpeg2'
  | 'png'
  | 'tiff'
  | 'exr'
  | 'raw';

/** All planar formats of a kind at some depths. */
const deep = (forms: readonly string[], depths: readonly number[]): string[] =>
  forms.flatMap((form) => depths.map((depth) => (depth === 8 ? form : `${form}${depth}le`)));
const YUV = ['yuv420p', 'yuv422p', 'yuv444p'];

/** Planar formats whose samples a coder takes as they are, as Debian's FFmpeg 5.1 has them. */
const TAKES: Record<PictureCoder, readonly string[]> = {
  h264: deep([...YUV, 'gray'], [8, 10]),
  hevc: deep([...YUV, 'gbrp', 'gray'], [8, 10, 12]),
  vp9: [...deep([...YUV, 'gbrp'], [8, 10, 12]), 'yuva420p'],
  av1: deep(['yuv420p'], [8, 10]),
  ffv1: [
    ...deep([...YUV, 'gbrp'], [8, 9, 10, 12, 14, 16]),
    ...deep(['gray'], [8, 9, 10, 12, 16]),
    ...deep(['yuva420p', 'yuva422p', 'yuva444p'], [8, 9, 10, 16]),
    ...deep(['gbrap'], [8, 10, 12, 16]),
  ],
  prores: ['yuv422p10le', 'yuv444p10le', 'yuva444p10le'],
  dnxhr: ['yuv422p', 'yuv422p10le', 'yuv444p10le', 'gbrp10le'],
  mpeg2: ['yuv420p', 'yuv422p'],
  png: deep(['gray', 'gbrp', 'gbrap'], [8, 16]),
  tiff: deep(['gray', 'gbrp', 'gbrap'], [8, 16]),
  // Halves of 16 bit; what is coded in them is linear light.
  exr: deep(['gbrp', 'gbrap'], [16]),
  raw: [...deep(YUV, [8, 9, 10, 12, 14, 16]), ...deep(['gray'], [8, 9, 10, 12, 16])],
};

/** Whether a coder takes samples of a planar format as they are. */
export function takesAsIs(coder: PictureCoder, format: string): boolean {
  return TAKES[coder].includes(format);
}

/** What of a picture does not come through: alpha, the finest chroma, the last bits; or samples are of another model and are rounded. */
export type PictureLoss = 'alpha' | 'chroma' | 'depth' | 'model';

/** How pictures of a format are coded. */
export interface CodedAs {
  /** A planar format that the coder takes. */
  readonly format: string;
  /** What of the pictures that does not hold; none where samples stay as they are, or come to a finer kind that they come back from. */
  readonly losses: readonly PictureLoss[];
}

/** Samples of chroma that a pixel has, both kinds together. */
const CHROMA_SHARE: Record<NonNullable<PixelFacts['chroma']>, number> = {
  '4:4:4': 2,
  '4:4:0': 1,
  '4:2:2': 1,
  '4:2:0': 0.5,
  '4:1:1': 0.5,
  '4:1:0': 0.125,
};

/** Colour samples a pixel has beside the first. */
const colourShare = ({ model, chroma }: PixelFacts): number =>
  model === 'grey' ? 0 : model === 'rgb' ? 2 : CHROMA_SHARE[chroma ?? '4:4:4'];

/** Samples of chroma a pixel of luma, across and down. */
const CHROMA_EACH: Record<NonNullable<PixelFacts['chroma']>, readonly [across: number, down: number]> = {
  '4:4:4': [1, 1],
  '4:4:0': [1, 0.5],
  '4:2:2': [0.5, 1],
  '4:2:0': [0.5, 0.5],
  '4:1:1': [0.25, 1],
  '4:1:0': [0.25, 0.25],
};

/** Whether there is less colour detail either way. */
function losesChroma(from: PixelFacts, to: PixelFacts): boolean {
  const [a, b] = [from, to].map(({ model, chroma }) =>
    model === 'grey' ? [0, 0] : model === 'rgb' ? [1, 1] : CHROMA_EACH[chroma ?? '4:4:4'],
  );
  return (b?.[0] ?? 0) < (a?.[0] ?? 0) || (b?.[1] ?? 0) < (a?.[1] ?? 0);
}

function lossesOf(from: PixelFacts, to: PixelFacts): PictureLoss[] {
  const losses: PictureLoss[] = [];
  if (from.alpha && !to.alpha) losses.push('alpha');
  if (losesChroma(from, to)) losses.push('chroma');
  if (to.bits < from.bits) losses.push('depth');
  // Grey is luma, and colour beside it that says nothing.
  if (from.model !== to.model && !(from.model === 'grey' && to.model === 'yuv')) losses.push('model');
  return losses;
}

/** What each loss weighs when there is nothing that holds all: what is lost for good before what is rounded. */
const WEIGHS: Record<PictureLoss, number> = { alpha: 1000, chroma: 100, depth: 30, model: 10 };

/** What is lost of one kind of samples in another, and of equal losses how large these are. */
function costOf(from: PixelFacts, to: PixelFacts): number {
  const chromaLost = 10 * Math.max(0, colourShare(from) - colourShare(to));
  const lost = lossesOf(from, to).reduce((sum, loss) => sum + WEIGHS[loss], chromaLost) + Math.max(0, from.bits - to.bits);
  return lost * 1000 + to.bits * (1 + colourShare(to) + (to.alpha ? 1 : 0));
}

/** Of some formats the one in which pictures of others lose least, and of these the smallest; null where there is none. */
export function leastLossy(formats: readonly string[], sources: readonly string[]): string | null {
  const from = sources.flatMap((name) => pixelFacts(name) ?? []);
  let best: { readonly format: string; readonly cost: number } | null = null;
  for (const format of formats) {
    const to = pixelFacts(format);
    if (!to) continue;
    const cost = from.reduce((sum, one) => sum + costOf(one, to), 0);
    if (!best || cost < best.cost) best = { format, cost };
  }
  return best?.format ?? null;
}

/**
 * The format in which a coder takes pictures of another one with the least loss, and of those the smallest.
 * @param name of a planar format, or any other that pixelFacts knows
 */
export function codedAs(coder: PictureCoder, name: string): CodedAs {
  const from = pixelFacts(name);
  const plain = name.replace('yuvj', 'yuv');
  const taken = TAKES[coder];
  if (taken.includes(plain)) return { format: plain, losses: [] };
  if (!from) return { format: taken[0] as string, losses: ['model'] };
  const planar = planarName(from);
  let best: (CodedAs & { readonly cost: number }) | null = null;
  for (const format of taken) {
    const to = pixelFacts(format);
    if (!to) continue;
    const losses = lossesOf(from, to);
    const cost = format === planar ? -1 : costOf(from, to);
    if (!best || cost < best.cost) best = { format, losses: format === planar ? [] : losses, cost };
  }
  return best ? { format: best.format, losses: best.losses } : { format: taken[0] as string, losses: ['model'] };
}

/** What of pictures of one format does not hold once they are another, in words; empty where all of them does. */
export function pictureLosses(from: string, to: string): string[] {
  const [a, b] = [pixelFacts(from), pixelFacts(to)];
  return a && b ? lossWords(from, { format: to, losses: lossesOf(a, b) }) : [];
}

const modelWords = ({ model, chroma }: PixelFacts): string =>
  model === 'yuv' ? (chroma as string) : model === 'rgb' ? 'RGB' : 'grey';

/** What is said where alpha is lost. */
export const ALPHA_LOST = 'alpha is not kept';

/** What is not kept of pictures of one format when they are coded as another, in words; empty where all of them is. */
export function lossWords(from: string, { format, losses }: CodedAs): string[] {
  const [a, b] = [pixelFacts(from), pixelFacts(format)];
  if (!a || !b) return losses.length > 0 ? [`${from} becomes ${format}`] : [];
  // Another model with less colour is said once.
  const said = losses.includes('model') ? losses.filter((loss) => loss !== 'chroma') : losses;
  return said.map((loss) => {
    switch (loss) {
      case 'alpha':
        return ALPHA_LOST;
      case 'depth':
        return `${a.bits} bit becomes ${b.bits}`;
      case 'chroma':
        return `colour of ${modelWords(a)} becomes that of ${modelWords(b)}`;
      case 'model':
        return `${modelWords(a)} is converted to ${modelWords(b)}`;
      default:
        return loss satisfies never;
    }
  });
}
