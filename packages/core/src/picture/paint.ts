import type { PixelLayout } from './format.js';

/** A colour as screens take it: red, green and blue from 0 to 255. */
export type Paint = readonly [red: number, green: number, blue: number];

/** Colours that have a name. */
export const PAINTS: Readonly<Record<string, Paint>> = { black: [0, 0, 0], grey: [128, 128, 128], white: [255, 255, 255] };

/** A colour by its name, or as #rrggbb; null for anything else. */
export function paintOf(said: string): Paint | null {
  const named = PAINTS[said.toLowerCase()];
  if (named) return named;
  const match = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(said);
  return match ? ([1, 2, 3].map((i) => Number.parseInt(match[i] as string, 16)) as unknown as Paint) : null;
}

/** Shares of red and blue in luma, by the matrix coefficients' name (ITU-T H.273, table 4); of others those of BT.709. */
const SHARES: Readonly<Record<string, readonly [red: number, blue: number]>> = {
  bt709: [0.2126, 0.0722],
  smpte170m: [0.299, 0.114],
  bt470bg: [0.299, 0.114],
  fcc: [0.3, 0.11],
  smpte240m: [0.212, 0.087],
  bt2020nc: [0.2627, 0.0593],
};

/** Shares of red and blue in luma. */
export function lumaShares(matrix: string): readonly [red: number, blue: number] {
  return SHARES[matrix] ?? (SHARES.bt709 as readonly [number, number]);
}

/** Samples that a colour has in pictures of a layout, one for each plane but alpha's. */
export function paintSamples(
  layout: PixelLayout,
  [red, green, blue]: Paint,
  { matrix, range }: { readonly matrix: string; readonly range: 'limited' | 'full' },
): number[] {
  const most = 2 ** layout.bits - 1;
  if (layout.rgb) return [green, blue, red].map((value) => Math.round((value / 255) * most));
  const [kr, kb] = lumaShares(matrix);
  const luma = (kr * red + (1 - kr - kb) * green + kb * blue) / 255;
  const [u, v] = [(blue / 255 - luma) / (2 * (1 - kb)), (red / 255 - luma) / (2 * (1 - kr))];
  const unit = 2 ** (layout.bits - 8);
  const [scale, black, chroma] = range === 'full' ? [most, 0, most] : [219 * unit, 16 * unit, 224 * unit];
  const samples = [black + luma * scale, 128 * unit + u * chroma, 128 * unit + v * chroma];
  return (layout.chroma ? samples : samples.slice(0, 1)).map((value) => Math.max(0, Math.min(most, Math.round(value))));
}
