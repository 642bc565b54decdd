import { bent, type Encoding, HLG, type Light, lumaShares, luminanceOf, PQ, pqOf, WHITE } from '@thawline/core/picture';

/** What patches of colour come to from one meaning of red, green and blue to another: sums written out from the recommendations, apart from what converts pictures. */

export type Three = readonly [number, number, number];

/** Red, green and blue signals that are tried, 0 to 1. */
export const PATCHES: readonly Three[] = [
  [0, 0, 0],
  [0.1, 0.1, 0.1],
  [0.25, 0.25, 0.25],
  [0.5, 0.5, 0.5],
  [0.75, 0.75, 0.75],
  [1, 1, 1],
  [0.5, 0.4, 0.3],
  [0.2, 0.45, 0.6],
  [0.6, 0.2, 0.25],
  [0.3, 0.55, 0.2],
];

/** x and y of red, green, blue; white is D65 (ITU-R BT.709, BT.2020, SMPTE 170M). */
const PRIMARIES: Readonly<Record<string, readonly (readonly [number, number])[]>> = {
  bt709: [
    [0.64, 0.33],
    [0.3, 0.6],
    [0.15, 0.06],
  ],
  bt2020: [
    [0.708, 0.292],
    [0.17, 0.797],
    [0.131, 0.046],
  ],
  smpte170m: [
    [0.63, 0.34],
    [0.31, 0.595],
    [0.155, 0.07],
  ],
};

const xyz = ([x, y]: readonly [number, number]): Three => [x / y, 1, (1 - x - y) / y];
const times = (m: readonly Three[], [a, b, c]: Three): Three =>
  m.map((row) => row[0] * a + row[1] * b + row[2] * c) as unknown as Three;

function inverse([a, b, c]: readonly [Three, Three, Three]): readonly [Three, Three, Three] {
  const cross = (p: Three, q: Three): Three => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  const [r, s, t] = [cross(b, c), cross(c, a), cross(a, b)];
  const d = a[0] * r[0] + a[1] * r[1] + a[2] * r[2];
  return [0, 1, 2].map(
    (i) => [r, s, t].map((v) => (v[i as 0 | 1 | 2] as number) / d) as unknown as Three,
  ) as unknown as readonly [Three, Three, Three];
}

/** Red, green and blue light to XYZ: columns scaled so that all together are white (SMPTE RP 177). */
function toXyz(name: string): readonly [Three, Three, Three] {
  const [r, g, b] = (PRIMARIES[name] ?? []).map(xyz) as [Three, Three, Three];
  const rows = [0, 1, 2].map((i) => [r[i as 0], g[i as 0], b[i as 0]]) as unknown as readonly [Three, Three, Three];
  const scale = times(inverse(rows), xyz([0.3127, 0.329]));
  return rows.map((row) => row.map((v, i) => v * (scale[i] as number))) as unknown as readonly [Three, Three, Three];
}

/** Luminance in cd/m2 of signals: BT.1886 with white at 203 (BT.2408), ST 2084, or BT.2100's HLG on a display of 1000. */
function lightOf(transfer: string, rgb: Three, primaries: string): Three {
  if (transfer === PQ) return rgb.map(luminanceOf) as unknown as Three;
  if (transfer !== HLG) return rgb.map((v) => WHITE * v ** 2.4) as unknown as Three;
  const scene = rgb.map((v) => (v <= 0.5 ? v ** 2 / 3 : (Math.exp((v - 0.55991073) / 0.17883277) + 0.28466892) / 12));
  const [, y] = times(toXyz(primaries), scene as unknown as Three);
  return scene.map((v) => (y === 0 ? 0 : 1000 * y ** 0.2 * v)) as unknown as Three;
}

function signalOf(transfer: string, light: Three, primaries: string): Three {
  if (transfer === PQ) return light.map(pqOf) as unknown as Three;
  if (transfer !== HLG) return light.map((v) => Math.min(1, Math.max(0, v / WHITE) ** (1 / 2.4))) as unknown as Three;
  const [, y] = times(toXyz(primaries), light.map((v) => v / 1000) as unknown as Three);
  const scene = light.map((v) => (y <= 0 ? 0 : Math.max(0, v / 1000) * y ** (1 / 1.2 - 1)));
  return scene.map((v) =>
    v <= 1 / 12 ? Math.sqrt(3 * v) : 0.17883277 * Math.log(12 * v - 0.28466892) + 0.55991073,
  ) as unknown as Three;
}

export interface Space extends Light {
  readonly primaries: string;
  readonly transfer: string;
}

/** What signals of one space come to in another. */
export function signalsAfter(rgb: Three, from: Space, to: Space): Three {
  const high = (t: string): boolean => t === PQ || t === HLG;
  let light = lightOf(from.transfer, rgb, from.primaries);
  light = times(inverse(toXyz(to.primaries)), times(toXyz(from.primaries), light));
  if (high(from.transfer) && !high(to.transfer))
    light = light.map((v) => luminanceOf(bent(pqOf(v), 1000, WHITE))) as unknown as Three;
  return signalOf(to.transfer, light, to.primaries);
}

/** Luma and chroma of a number of bits, unrounded. */
export function codesOf([r, g, b]: Three, { matrix, range }: Encoding, bits = 10): Three {
  const [kr, kb] = lumaShares(matrix);
  const y = kr * r + (1 - kr - kb) * g + kb * b;
  const [unit, most] = [2 ** (bits - 8), 2 ** bits - 1];
  const [black, luma, chroma] = range === 'full' ? [0, most, most] : [16 * unit, 219 * unit, 224 * unit];
  const middle = 128 * unit;
  return [black + luma * y, middle + (chroma * (b - y)) / (2 * (1 - kb)), middle + (chroma * (r - y)) / (2 * (1 - kr))];
}

/** Meanings that pictures come in, by the name of their recommendation. */
export const MEANINGS: Readonly<Record<string, Encoding & Space>> = {
  'BT.709': { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' },
  'BT.601': { primaries: 'smpte170m', transfer: 'smpte170m', matrix: 'smpte170m', range: 'limited' },
  'BT.2020': { primaries: 'bt2020', transfer: 'bt2020-10', matrix: 'bt2020nc', range: 'limited' },
  PQ: { primaries: 'bt2020', transfer: PQ, matrix: 'bt2020nc', range: 'limited' },
  HLG: { primaries: 'bt2020', transfer: HLG, matrix: 'bt2020nc', range: 'limited' },
};
