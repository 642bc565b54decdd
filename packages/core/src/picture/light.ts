import { type PixelLayout, planeSizes } from './format.js';

/** How two pictures are mixed: sample by sample as they are stored, or as light adds up. */
export const MIXES = ['stored', 'light'] as const;
export type Mix = (typeof MIXES)[number];

const [KR, KB] = [0.2126, 0.0722];
const KG = 1 - KR - KB;
const BLUE = 2 * (1 - KB);
const RED = 2 * (1 - KR);
/** Of a display: ITU-R BT.1886. */
const GAMMA = 2.4;
/** Signal values a table covers, 0 to 1 being black to white: all that luma and chroma together can say. */
const [LEAST, MOST] = [-1.25, 2.25];
/** Steps from black to white on the way to light; on the way back even in the square root, where dark steps are as fine as bright ones. */
const [TO_STEPS, FROM_STEPS] = [8192, 8192];

/** Light of a signal: below black it goes on mirrored, so that nothing is lost there. */
const lightOf = (signal: number): number => Math.sign(signal) * Math.abs(signal) ** GAMMA;

const toLight = Float32Array.from({ length: (MOST - LEAST) * TO_STEPS + 1 }, (_, i) => lightOf(LEAST + i / TO_STEPS));
const ROOTS = Math.ceil(Math.sqrt(lightOf(MOST)) * FROM_STEPS) + 2;
const toSignal = Float32Array.from({ length: ROOTS }, (_, i) => (i / FROM_STEPS) ** (2 / GAMMA));

/** @param at a signal in steps of its table, from LEAST on, and a half */
function mixed(at: number, other: number, weight: number): number {
  const from = toLight[at | 0];
  const value = from + (toLight[other | 0] - from) * weight;
  return value < 0 ? -toSignal[(Math.sqrt(-value) * FROM_STEPS + 0.5) | 0] : toSignal[(Math.sqrt(value) * FROM_STEPS + 0.5) | 0];
}

/**
 * Mixes two packed pictures in linear light: each pixel to BT.709 red, green and blue, through the display's curve, mixed, and back. Chroma
 * stands for all pixels of its block, and comes back as their mean. Limited range. Where both pictures are the same, so is the mix.
 * @param share of b, 0 to 256 in 256ths
 */
export function mixLight(
  layout: PixelLayout,
  {
    width,
    height,
    a,
    b,
    share,
    out,
  }: {
    readonly width: number;
    readonly height: number;
    readonly a: Uint8Array;
    readonly b: Uint8Array;
    readonly share: number;
    readonly out: Uint8Array;
  },
): void {
  const samples = (bytes: Uint8Array): Uint8Array | Uint16Array =>
    layout.bytes === 2 ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1) : bytes;
  const [first, second, target] = [samples(a), samples(b), samples(out)];
  const unit = 2 ** (layout.bits - 8);
  const most = 2 ** layout.bits - 1;
  const [lumaScale, chromaScale, black, middle] = [219 * unit, 224 * unit, 16 * unit, 128 * unit];
  const weight = share / 256;
  const step = TO_STEPS / lumaScale;
  const { shiftX, shiftY } = layout.chroma ?? { shiftX: 0, shiftY: 0 };
  const [luma, chroma] = planeSizes(layout, width, height);
  const u = width * height;
  const v = u + (chroma ? chroma.width * chroma.height : 0);
  const across = chroma?.width ?? luma?.width ?? width;
  const down = chroma?.height ?? luma?.height ?? height;
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
      const redOfA = zero + RED * redA * TO_STEPS;
      const redOfB = zero + RED * redB * TO_STEPS;
      const blueOfA = zero + BLUE * blueA * TO_STEPS;
      const blueOfB = zero + BLUE * blueB * TO_STEPS;
      const greenOfA = zero - ((KB * BLUE * blueA + KR * RED * redA) / KG) * TO_STEPS;
      const greenOfB = zero - ((KB * BLUE * blueB + KR * RED * redB) / KG) * TO_STEPS;
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
          const lumaA = (p - black) * step + 0.5;
          const lumaB = (q - black) * step + 0.5;
          const r = mixed(lumaA + redOfA, lumaB + redOfB, weight);
          const g = mixed(lumaA + greenOfA, lumaB + greenOfB, weight);
          const bl = mixed(lumaA + blueOfA, lumaB + blueOfB, weight);
          const grey = KR * r + KG * g + KB * bl;
          target[at] = Math.max(0, Math.min(most, Math.round(grey * lumaScale + black)));
          blue += (bl - grey) / BLUE;
          red += (r - grey) / RED;
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
    else out[i] = p === q ? p : 255 * mixed(zero + p * step, zero + q * step, share);
  }
}
