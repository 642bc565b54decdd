import { type Encoding, HLG, hlgLight, hlgSignal, type Light, luminanceOf, PQ, pqOf } from './colour.js';
import { type PixelLayout, planeSizes } from './format.js';
import { lumaShares } from './paint.js';
import { samplesOf } from './place.js';

/** How two pictures are mixed: sample by sample as they are stored, or as light adds up. */
export const MIXES = ['stored', 'light'] as const;
export type Mix = (typeof MIXES)[number];

/** Of a display: ITU-R BT.1886. */
const GAMMA = 2.4;
/** Signal values a table covers, 0 to 1 being black to white: all that luma and chroma together can say. */
const [LEAST, MOST] = [-1.25, 2.25];
/** Steps from black to white on the way to light; on the way back even in a root, where dark steps are as fine as bright ones. */
const [TO_STEPS, FROM_STEPS] = [8192, 8192];

/** A transfer characteristic by tables. Below black it goes on mirrored, so that nothing is lost there. */
interface LightCurve {
  readonly toLight: Float32Array;
  readonly toSignal: Float32Array;
  /** The root in which the way back is even. */
  readonly root: (light: number) => number;
}

function curveBy(
  lightOf: (signal: number) => number,
  signalOf: (light: number) => number,
  [root, power]: readonly [LightCurve['root'], number],
): LightCurve {
  const toLight = Float32Array.from({ length: (MOST - LEAST) * TO_STEPS + 1 }, (_, i) => {
    const signal = LEAST + i / TO_STEPS;
    return Math.sign(signal) * lightOf(Math.abs(signal));
  });
  const steps = Math.ceil(root(lightOf(MOST)) * FROM_STEPS) + 2;
  return { toLight, toSignal: Float32Array.from({ length: steps }, (_, i) => signalOf((i / FROM_STEPS) ** power)), root };
}

const square = [Math.sqrt, 2] as const;
/** PQ spans a hundred million to one: its dark steps need more than a square root. */
const sixth = [(light: number): number => Math.cbrt(Math.sqrt(light)), 6] as const;

const made = new Map<string, LightCurve>();

/** The curve of a transfer characteristic; whatever is not of high range is taken for a display's. */
function curveFor(transfer: string | null): LightCurve {
  const name = transfer === PQ || transfer === HLG ? transfer : 'display';
  const known = made.get(name);
  if (known) return known;
  const curve =
    name === PQ
      ? curveBy(
          (signal) => luminanceOf(Math.min(1, signal)) / 10_000,
          (light) => pqOf(light * 10_000),
          sixth,
        )
      : name === HLG
        ? curveBy(hlgLight, hlgSignal, square)
        : curveBy(
            (signal) => signal ** GAMMA,
            (light) => light ** (1 / GAMMA),
            square,
          );
  made.set(name, curve);
  return curve;
}

const display = curveFor(null);

/** @param at, other signals in steps of the curve's table, from LEAST on, and a half */
function mixed({ toLight, toSignal, root }: LightCurve, at: number, other: number, weight: number): number {
  const from = toLight[at | 0];
  const value = from + (toLight[other | 0] - from) * weight;
  const signal = toSignal[(root(value < 0 ? -value : value) * FROM_STEPS + 0.5) | 0];
  return value < 0 ? -signal : signal;
}

/** What numbers of pictures are, on the way to light. */
export type LightOfPictures = Encoding & Pick<Light, 'transfer'>;
/** What pictures are where nobody says. */
const USUAL: LightOfPictures = { matrix: 'bt709', range: 'limited', transfer: null };

interface Mixing {
  readonly width: number;
  readonly height: number;
  readonly a: Uint8Array;
  readonly b: Uint8Array;
  /** Of b, 0 to 256 in 256ths. */
  readonly share: number;
  readonly out: Uint8Array;
  readonly light?: LightOfPictures;
}

/**
 * Mixes two packed pictures in linear light: each pixel to red, green and blue, through its curve, mixed, and back. Chroma stands for all pixels of
 * its block, and comes back as their mean. Where both pictures are the same, so is the mix. With alpha, colour (straight) counts as far as it is seen.
 */
export function mixLight(layout: PixelLayout, { width, height, a, b, share, out, light = USUAL }: Mixing): void {
  const [first, second, target] = [samplesOf(layout, a), samplesOf(layout, b), samplesOf(layout, out)];
  const curve = curveFor(light.transfer);
  const n = width * height;
  const weight = share / 256;
  const alphaAt = layout.alpha ? first.length - n : -1;
  // Of what is hardly seen in one of both, the other has more of the colour.
  const weightAt = (i: number): number => {
    if (alphaAt < 0) return weight;
    const [p, q] = [first[alphaAt + i] * (1 - weight), second[alphaAt + i] * weight];
    return p + q === 0 ? weight : q / (p + q);
  };
  if (alphaAt >= 0) for (let i = alphaAt; i < first.length; i++) target[i] = first[i] + (second[i] - first[i]) * weight + 0.5;
  if (layout.rgb) {
    const most = 2 ** layout.bits - 1;
    const step = TO_STEPS / most;
    const zero = -LEAST * TO_STEPS + 0.5;
    for (let plane = 0; plane < 3; plane++) {
      for (let i = 0; i < n; i++) {
        const [p, q] = [first[plane * n + i], second[plane * n + i]];
        target[plane * n + i] =
          p === q
            ? p
            : Math.max(0, Math.min(most, Math.round(mixed(curve, zero + p * step, zero + q * step, weightAt(i)) * most)));
      }
    }
    return;
  }
  const [kr, kb] = lumaShares(light.matrix);
  const kg = 1 - kr - kb;
  const [toBlue, toRed] = [2 * (1 - kb), 2 * (1 - kr)];
  const unit = 2 ** (layout.bits - 8);
  const most = 2 ** layout.bits - 1;
  const [lumaScale, chromaScale, black] = light.range === 'full' ? [most, most, 0] : [219 * unit, 224 * unit, 16 * unit];
  const middle = 128 * unit;
  const step = TO_STEPS / lumaScale;
  const { shiftX, shiftY } = layout.chroma ?? { shiftX: 0, shiftY: 0 };
  const [luma, chroma] = planeSizes({ ...layout, alpha: false }, width, height);
  const u = n;
  const v = u + (chroma ? chroma.width * chroma.height : 0);
  const across = chroma?.width ?? luma.width;
  const down = chroma?.height ?? luma.height;
  for (let cy = 0; cy < down; cy++) {
    for (let cx = 0; cx < across; cx++) {
      const c = cy * across + cx;
      const blueA = chroma ? (first[u + c] - middle) / chromaScale : 0;
      const redA = chroma ? (first[v + c] - middle) / chromaScale : 0;
      const blueB = chroma ? (second[u + c] - middle) / chromaScale : 0;
      const redB = chroma ? (second[v + c] - middle) / chromaScale : 0;
      const sameColour = blueA === blueB && redA === redB;
      // What chroma adds to each of red, green and blue, in steps of the table; black stands at its own place there.
      const zero = -LEAST * TO_STEPS;
      const redOfA = zero + toRed * redA * TO_STEPS;
      const redOfB = zero + toRed * redB * TO_STEPS;
      const blueOfA = zero + toBlue * blueA * TO_STEPS;
      const blueOfB = zero + toBlue * blueB * TO_STEPS;
      const greenOfA = zero - ((kb * toBlue * blueA + kr * toRed * redA) / kg) * TO_STEPS;
      const greenOfB = zero - ((kb * toBlue * blueB + kr * toRed * redB) / kg) * TO_STEPS;
      let blue = 0;
      let red = 0;
      let count = 0;
      const right = Math.min(width, (cx + 1) << shiftX);
      const bottom = Math.min(height, (cy + 1) << shiftY);
      for (let y = cy << shiftY; y < bottom; y++) {
        for (let x = cx << shiftX; x < right; x++) {
          const at = y * width + x;
          const p = first[at];
          const q = second[at];
          count++;
          if (sameColour && p === q) {
            target[at] = p;
            blue += blueA;
            red += redA;
            continue;
          }
          const own = weightAt(at);
          const lumaA = (p - black) * step + 0.5;
          const lumaB = (q - black) * step + 0.5;
          const r = mixed(curve, lumaA + redOfA, lumaB + redOfB, own);
          const g = mixed(curve, lumaA + greenOfA, lumaB + greenOfB, own);
          const bl = mixed(curve, lumaA + blueOfA, lumaB + blueOfB, own);
          const grey = kr * r + kg * g + kb * bl;
          target[at] = Math.max(0, Math.min(most, Math.round(grey * lumaScale + black)));
          blue += (bl - grey) / toBlue;
          red += (r - grey) / toRed;
        }
      }
      if (!chroma) continue;
      target[u + c] = Math.max(0, Math.min(most, Math.round((blue / count) * chromaScale + middle)));
      target[v + c] = Math.max(0, Math.min(most, Math.round((red / count) * chromaScale + middle)));
    }
  }
}

/**
 * The same for a screen's RGBA, for looking at: each channel by itself, made opaque.
 * @param share of b, 0 to 1
 */
export function mixLightRgba(a: Uint8ClampedArray, b: Uint8ClampedArray, share: number, out: Uint8ClampedArray): void {
  const zero = -LEAST * TO_STEPS + 0.5;
  const step = TO_STEPS / 255;
  for (let i = 0; i < out.length; i++) {
    const [p, q] = [a[i], b[i]];
    if (i % 4 === 3) out[i] = 255;
    else out[i] = p === q ? p : 255 * mixed(display, zero + p * step, zero + q * step, share);
  }
}
