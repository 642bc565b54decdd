import { type Encoding, HLG, hlgSignal, isHighRange, type Light, PQ, pqOf, USUAL_PEAK, WHITE } from './colour.js';
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

/** A colour as #rrggbb. */
export function paintHex(paint: Paint): string {
  return `#${paint.map((value) => value.toString(16).padStart(2, '0')).join('')}`;
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

/** Of a screen: ITU-R BT.1886. */
const GAMMA = 2.4;
/** Red, green and blue of BT.709 in those of BT.2020, as light (ITU-R BT.2087, 2). */
export const TO_WIDE = [
  [0.6274, 0.3293, 0.0433],
  [0.0691, 0.9195, 0.0114],
  [0.0164, 0.088, 0.8956],
] as const;
/** System gamma of HLG where the screen goes up to 1000 cd/m2 (ITU-R BT.2100). */
const SYSTEM_GAMMA = 1.2;

/** A colour as signals (0 to 1) of pictures whose red, green and blue mean something else than a screen's: white of high range is 203 cd/m2 (BT.2408). */
function signalsIn([red, green, blue]: Paint, { primaries, transfer }: Partial<Light>): readonly [number, number, number] {
  const own = [red / 255, green / 255, blue / 255] as const;
  const high = isHighRange(transfer ?? null);
  if (primaries !== 'bt2020' && !high) return own;
  const light = own.map((value) => value ** GAMMA);
  const mixed = (row: readonly number[]): number => row.reduce((sum, share, i) => sum + share * (light[i] as number), 0);
  const [r = 0, g = 0, b = 0] = primaries === 'bt2020' ? TO_WIDE.map(mixed) : light;
  if (transfer === PQ) return [pqOf(r * WHITE), pqOf(g * WHITE), pqOf(b * WHITE)];
  if (transfer !== HLG) return [r ** (1 / GAMMA), g ** (1 / GAMMA), b ** (1 / GAMMA)];
  const [kr, kb] = lumaShares(primaries === 'bt2020' ? 'bt2020nc' : 'bt709');
  const peak = WHITE / USUAL_PEAK;
  const luminance = peak * (kr * r + (1 - kr - kb) * g + kb * b);
  const scene = (value: number): number =>
    luminance === 0 ? 0 : hlgSignal(value * peak * luminance ** ((1 - SYSTEM_GAMMA) / SYSTEM_GAMMA));
  return [scene(r), scene(g), scene(b)];
}

/** Samples that a colour has in pictures of a layout, one for each plane but alpha's. */
export function paintSamples(layout: PixelLayout, paint: Paint, colour: Encoding & Partial<Light>): number[] {
  const { matrix, range } = colour;
  const [red, green, blue] = signalsIn(paint, colour);
  const most = 2 ** layout.bits - 1;
  if (layout.rgb) return [green, blue, red].map((value) => Math.round(value * most));
  const [kr, kb] = lumaShares(matrix);
  const luma = kr * red + (1 - kr - kb) * green + kb * blue;
  const [u, v] = [(blue - luma) / (2 * (1 - kb)), (red - luma) / (2 * (1 - kr))];
  const unit = 2 ** (layout.bits - 8);
  const [scale, black, chroma] = range === 'full' ? [most, 0, most] : [219 * unit, 16 * unit, 224 * unit];
  const samples = [black + luma * scale, 128 * unit + u * chroma, 128 * unit + v * chroma];
  return (layout.chroma ? samples : samples.slice(0, 1)).map((value) => Math.max(0, Math.min(most, Math.round(value))));
}
