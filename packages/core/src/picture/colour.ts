export const PIXEL_RANGES = ['limited', 'full'] as const;
export type PixelRange = (typeof PIXEL_RANGES)[number];

/** What a file says of its colours: names of ITU-T H.273 as FFmpeg spells them ("bt709", "smpte170m"); null where it says nothing. */
export interface Colour {
  readonly matrix: string | null;
  readonly primaries: string | null;
  readonly transfer: string | null;
  readonly range: PixelRange | null;
}

/** How numbers of a picture become red, green and blue: matrix and range, both settled. */
export interface Encoding {
  readonly matrix: string;
  readonly range: PixelRange;
}

/** What red, green and blue mean: which light, and how much of it. Null where nothing says. */
export type Light = Pick<Colour, 'primaries' | 'transfer'>;

/** The display that a picture was made on, and the light in it (SMPTE ST 2086, CTA-861.3). */
export interface HighRange {
  /** Least and greatest luminance of the display, in cd/m2; and its primaries and white, as x and y of CIE 1931. */
  readonly display?: {
    readonly least: number;
    readonly most: number;
    readonly red: Chromaticity;
    readonly green: Chromaticity;
    readonly blue: Chromaticity;
    readonly white: Chromaticity;
  };
  /** Lightest pixel, and lightest mean of a picture, in cd/m2. */
  readonly light?: { readonly most: number; readonly average: number };
}

export type Chromaticity = readonly [x: number, y: number];

/** Where halved chroma lies where nobody says: H.264, HEVC and MPEG-2 have it so (ITU-T H.264, annex E, chroma_sample_loc_type 0). */
export const USUAL_SITING = 'left';

/** From this height on pictures that do not say so are taken for BT.709, below it for BT.601: what players do. */
const HIGH_DEFINITION = 720;

/** Matrix and range with what is not said settled as players do. */
export function settledColour(colour: Colour | undefined, height: number): Encoding {
  return {
    matrix: colour?.matrix ?? (height >= HIGH_DEFINITION ? 'bt709' : 'smpte170m'),
    range: colour?.range ?? 'limited',
  };
}

/** The matrix that goes with primaries. */
const MATRIX_OF: Readonly<Record<string, string>> = {
  bt709: 'bt709',
  smpte170m: 'smpte170m',
  bt470bg: 'bt470bg',
  bt2020: 'bt2020nc',
};

/** The luma and chroma that red, green and blue of a file are brought to where nothing else is asked for. */
export function lumaFor(colour: Colour | undefined, height: number): Encoding {
  const matrix = colour?.matrix ?? MATRIX_OF[colour?.primaries ?? ''] ?? settledColour(undefined, height).matrix;
  return { matrix, range: colour?.matrix ? (colour.range ?? 'limited') : 'limited' };
}

/** Transfer characteristics of high dynamic range, as ITU-T H.273 is spelt by FFmpeg: SMPTE ST 2084, and ARIB STD-B67. */
export const [PQ, HLG] = ['smpte2084', 'arib-std-b67'];

/** Whether a transfer characteristic is one of high dynamic range. */
export function isHighRange(transfer: string | null): boolean {
  return transfer === PQ || transfer === HLG;
}

/** Numbers that are light itself, with white at 1: what floating-point pictures hold. */
export const LINEAR = 'linear';

/** Names of one curve: BT.709's, which others took over. */
const AS_BT709 = /^(bt709|smpte170m|bt2020-1[02])$/;

/** The curve that a transfer characteristic names: several names are of one. */
export function curveOf(transfer: string): string {
  return AS_BT709.test(transfer) ? 'bt709' : transfer;
}

/**
 * What a source's red, green and blue mean where they go to others. What it does not say is what they are (as players take it), but never high
 * range, nor wider than BT.709.
 */
export function settledLight(source: Light | undefined, to: Light): Light {
  const plain = (said: string | null, wanted: string | null, isPlain: (name: string) => boolean): string | null =>
    said ?? (wanted === null || isPlain(wanted) ? wanted : 'bt709');
  return {
    primaries: plain(source?.primaries ?? null, to.primaries, (name) => /^(bt709|smpte170m|bt470bg)$/.test(name)),
    transfer: plain(source?.transfer ?? null, to.transfer, (name) => !isHighRange(name)),
  };
}

/** Whether pictures have to go through linear light to come from one meaning of red, green and blue to another. */
export function differsInLight(from: Light, to: Light): boolean {
  const primaries = from.primaries !== null && to.primaries !== null && from.primaries !== to.primaries;
  const transfer = from.transfer !== null && to.transfer !== null && curveOf(from.transfer) !== curveOf(to.transfer);
  return primaries || transfer;
}

/** Luminance of white in pictures of standard range where they stand among those of high range, in cd/m2 (ITU-R BT.2408). */
export const WHITE = 203;
/** The greatest luminance that pictures of high range are taken to have where they do not say. */
export const USUAL_PEAK = 1000;

const [M1, M2, C1, C2, C3] = [2610 / 16384, (2523 / 4096) * 128, 3424 / 4096, (2413 / 4096) * 32, (2392 / 4096) * 32];

/** The PQ signal (0 to 1) of a luminance in cd/m2 (SMPTE ST 2084). */
export function pqOf(luminance: number): number {
  const y = (Math.max(0, luminance) / 10_000) ** M1;
  return ((C1 + C2 * y) / (1 + C3 * y)) ** M2;
}

/** The luminance in cd/m2 of a PQ signal. */
export function luminanceOf(signal: number): number {
  const e = Math.max(0, signal) ** (1 / M2);
  return 10_000 * (Math.max(0, e - C1) / (C2 - C3 * e)) ** (1 / M1);
}

const [HLG_A, HLG_B, HLG_C] = [0.17883277, 0.28466892, 0.55991073];
/** Signals of HLG go a little above what a screen shows. */
const HLG_MOST = 1.2;

/** Scene light (0 to 1) of an HLG signal: what reached the camera (ITU-R BT.2100). */
export function hlgLight(signal: number): number {
  return signal <= 0.5 ? signal ** 2 / 3 : (Math.exp((Math.min(signal, HLG_MOST) - HLG_C) / HLG_A) + HLG_B) / 12;
}

/** The HLG signal of scene light. */
export function hlgSignal(light: number): number {
  return light <= 1 / 12 ? Math.sqrt(3 * light) : HLG_A * Math.log(12 * light - HLG_B) + HLG_C;
}

/**
 * PQ signals of pictures that go up to one luminance, for a display that goes up to a lower one: what is dark stays, what is light is bent under that
 * (ITU-R BT.2390, 5.4.1, with black left where it is).
 * @param signal 0 to 1
 * @param from, to greatest luminances in cd/m2; with `to` not below `from` nothing is bent
 */
export function bent(signal: number, from: number, to: number): number {
  const most = pqOf(from);
  const limit = pqOf(to) / most;
  if (limit >= 1) return Math.min(signal, most);
  const knee = 1.5 * limit - 0.5;
  const own = Math.min(1, signal / most);
  if (own < knee) return own * most;
  const t = (own - knee) / (1 - knee);
  const spline =
    (2 * t ** 3 - 3 * t ** 2 + 1) * knee + (t ** 3 - 2 * t ** 2 + t) * (1 - knee) + (-2 * t ** 3 + 3 * t ** 2) * limit;
  return spline * most;
}
