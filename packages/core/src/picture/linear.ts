import { type AlphaKind } from './alpha.js';
import {
  type Colour,
  HLG,
  hlgLight,
  isHighRange,
  LINEAR,
  type Light,
  luminanceOf,
  PQ,
  pqOf,
  USUAL_PEAK,
  WHITE,
} from './colour.js';
import { pixelFacts } from './facts.js';
import { lumaShares, TO_WIDE } from './paint.js';

/** Pictures whose numbers are light itself, in floating point: white of standard range is 1, and lights go above it. */

/** Whether a file's pictures are such. */
export function isLight({
  pixelFormat,
  colour,
}: {
  readonly pixelFormat: string;
  readonly colour?: Colour | undefined;
}): boolean {
  return colour?.transfer === LINEAR && pixelFacts(pixelFormat)?.float === true;
}

/** What a file's pictures are where nothing is asked for: what it says, but light itself comes by the curve of BT.709. */
export function givenColour(file: Parameters<typeof isLight>[0]): Colour | undefined {
  return file.colour && isLight(file) ? { ...file.colour, transfer: 'bt709' } : file.colour;
}

/** Of a screen: ITU-R BT.1886. */
const GAMMA = 2.4;
const MOST = 65535;
/** Of a float, sign, exponent and so many bits of its fraction are looked at. */
const [FRACTION, REST] = [10, 13];

type Matrix = readonly (readonly number[])[];

/** Red, green and blue of BT.2020 in those of BT.709. */
const FROM_WIDE = inverseOf(TO_WIDE);

function inverseOf([[a, b, c], [d, e, f], [g, h, i]]: typeof TO_WIDE): Matrix {
  const [x, y, z] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const whole = a * x + b * y + c * z;
  return [
    [x, c * h - b * i, b * f - c * e],
    [y, a * i - c * g, c * d - a * f],
    [z, b * g - a * h, a * e - b * d],
  ].map((row) => row.map((value) => value / whole));
}

/** Signals of 16 bit by the first bits of a light that is not below 0; what has no room is white, or all that there is. */
function signalTable(transfer: string): Uint16Array {
  const bits = new Uint32Array(1);
  const value = new Float32Array(bits.buffer);
  return Uint16Array.from({ length: 1 << (8 + FRACTION) }, (_, i) => {
    // In the middle of all floats that begin so.
    bits[0] = i * 2 ** REST + 2 ** (REST - 1);
    const light = i === 0 ? 0 : value[0];
    if (Number.isNaN(light)) return 0;
    const signal = transfer === PQ ? pqOf(Math.min(10_000, light * WHITE)) : light ** (1 / GAMMA);
    return Math.round(MOST * Math.min(1, signal));
  });
}

const tables = new Map<string, Uint16Array>();

function tableFor(transfer: string): Uint16Array {
  const known = tables.get(transfer) ?? signalTable(transfer);
  tables.set(transfer, known);
  return known;
}

/**
 * Light as signals of 16 bit. What is darker than nothing is black; what is lighter than white is cut off, but in PQ.
 * @param lights planes of green, blue and red, and of alpha where `alpha` is given, each of n floats
 * @param alpha how colour is stored beside it; divided by it where it was multiplied
 * @param from primaries of the lights, to: those wanted (BT.2020's, or else left as they are), and PQ or the curve of a screen
 * @param out as many samples, written
 */
export function signalsOfLight(
  lights: Float32Array,
  { n, alpha, from, to }: { readonly n: number; readonly alpha: AlphaKind | null; readonly from: Light; readonly to: Light },
  out: Uint16Array,
): void {
  const table = tableFor(to.transfer === PQ ? PQ : 'bt709');
  const isWide = to.primaries === 'bt2020' && from.primaries !== 'bt2020';
  const [[rr, rg, rb], [gr, gg, gb], [br, bg, bb]] = TO_WIDE;
  const pixel = new Float32Array(3);
  const bits = new Uint32Array(pixel.buffer);
  const signal = (plane: number): number => {
    const own = bits[plane];
    // Below 0 the first bit is set.
    return own >= 0x8000_0000 ? 0 : table[own >>> REST];
  };
  for (let i = 0; i < n; i++) {
    const share = alpha === null ? 1 : Math.max(0, Math.min(1, lights[3 * n + i] as number));
    const up = alpha === 'multiplied' && share > 0 ? 1 / share : 1;
    const [green, blue, red] = [lights[i] * up, lights[n + i] * up, lights[2 * n + i] * up];
    pixel[0] = isWide ? gr * red + gg * green + gb * blue : green;
    pixel[1] = isWide ? br * red + bg * green + bb * blue : blue;
    pixel[2] = isWide ? rr * red + rg * green + rb * blue : red;
    for (let plane = 0; plane < 3; plane++) out[plane * n + i] = signal(plane);
    if (alpha !== null) out[3 * n + i] = Math.round(MOST * share);
  }
}

/** Light of each signal of 16 bit; of HLG that of the scene, up to 1. */
function lightTable(transfer: string): Float32Array {
  return Float32Array.from({ length: MOST + 1 }, (_, i) => {
    const signal = i / MOST;
    if (transfer === PQ) return luminanceOf(signal) / WHITE;
    return transfer === HLG ? hlgLight(signal) : signal ** GAMMA;
  });
}

const lightTables = new Map<string, Float32Array>();

/**
 * Signals of 16 bit as light, with the primaries of BT.709, multiplied by alpha.
 * @param signals planes of green, blue and red, and of alpha where there is some (straight)
 * @param from what they mean; what is not said is BT.709
 * @param out as many floats, written
 */
export function lightOfSignals(
  signals: Uint16Array,
  { n, from }: { readonly n: number; readonly from: Light },
  out: Float32Array,
): void {
  const transfer = from.transfer !== null && isHighRange(from.transfer) ? from.transfer : 'bt709';
  const table = lightTables.get(transfer) ?? lightTable(transfer);
  lightTables.set(transfer, table);
  const hasAlpha = signals.length === 4 * n;
  const isWide = from.primaries === 'bt2020';
  const [kr, kb] = lumaShares(isWide ? 'bt2020nc' : 'bt709');
  const [toRed, toGreen, toBlue] = FROM_WIDE as [number[], number[], number[]];
  const mixed = ([a = 0, b = 0, c = 0]: readonly number[], red: number, green: number, blue: number): number =>
    a * red + b * green + c * blue;
  for (let i = 0; i < n; i++) {
    const share = hasAlpha ? signals[3 * n + i] / MOST : 1;
    const [green, blue, red] = [table[signals[i]], table[signals[n + i]], table[signals[2 * n + i]]];
    // System gamma of 1.2, by luminance (ITU-R BT.2100).
    const shown = transfer === HLG ? (USUAL_PEAK / WHITE) * (kr * red + (1 - kr - kb) * green + kb * blue) ** 0.2 : 1;
    const up = share * shown;
    out[i] = up * (isWide ? mixed(toGreen, red, green, blue) : green);
    out[n + i] = up * (isWide ? mixed(toBlue, red, green, blue) : blue);
    out[2 * n + i] = up * (isWide ? mixed(toRed, red, green, blue) : red);
    if (hasAlpha) out[3 * n + i] = share;
  }
}
