import { type PixelLayout, planeShifts, planeSizes } from './format.js';
import type { LightOfPictures } from './light.js';
import { samplesOf } from './place.js';

const { max, min, round } = Math;

/**
 * How colour is stored beside alpha. straight: as it is, however opaque. multiplied: by alpha already. opaque: alpha is all there is everywhere, so
 * that both are the same. unknown: neither explains it better.
 */
export const ALPHA_KINDS = ['straight', 'multiplied', 'opaque', 'unknown'] as const;
export type AlphaKind = (typeof ALPHA_KINDS)[number];

/** What pictures are, beside their samples. */
export interface PictureKind {
  /** How colour is stored beside alpha, where the layout has it; unknown counts as straight. */
  readonly alpha?: AlphaKind;
  /** All around, equirectangular: the left edge goes on at the right one. */
  readonly sphere?: boolean;
  /** What their numbers are, for mixes in linear light. Left out: BT.709 of limited range, for a display. */
  readonly light?: LightOfPictures;
}

/** Whether colour has to be multiplied by alpha before it is mixed. */
export function isStraight(layout: PixelLayout, { alpha }: PictureKind): boolean {
  return layout.alpha && alpha !== 'multiplied';
}

/** Black, a sample for each plane but alpha's. */
export function blackSamples(layout: PixelLayout, full = false): number[] {
  return Array.from({ length: layout.chroma ? 3 : 1 }, (_, plane) => nothingIn(layout, plane, full));
}

/** Depth at which colour is multiplied: 8 bit comes back from it exactly, however faint. */
const MULTIPLIED_BITS = 16;

/** The layout of a picture whose colour was multiplied. */
export function multipliedLayout(layout: PixelLayout): PixelLayout {
  return { ...layout, bytes: 2, bits: MULTIPLIED_BITS };
}

/** What samples are multiplied by to have the bits of another layout: all of red, green and blue stays all there is, luma and chroma keep their headroom. */
export function risen(from: PixelLayout, to: Pick<PixelLayout, 'bits'>): number {
  return from.rgb ? (2 ** to.bits - 1) / (2 ** from.bits - 1) : 2 ** (to.bits - from.bits);
}

/** The sample that stands for no colour in a plane: black in luma (of limited range unless it is said) or in one of three colours, the middle in chroma. */
export function nothingIn(layout: PixelLayout, plane: number, full = false): number {
  if (layout.rgb) return 0;
  return plane > 0 ? 1 << (layout.bits - 1) : full ? 0 : 16 << (layout.bits - 8);
}

/** Alpha at each sample of a plane that is smaller than it: the mean of the pixels that it stands for. */
function alphaFor(
  alpha: Uint8Array | Uint16Array,
  { width, height }: { readonly width: number; readonly height: number },
  { shiftX, shiftY }: { readonly shiftX: number; readonly shiftY: number },
): Uint8Array | Uint16Array | Float32Array {
  if (shiftX === 0 && shiftY === 0) return alpha;
  const across = (width + (1 << shiftX) - 1) >> shiftX;
  const down = (height + (1 << shiftY) - 1) >> shiftY;
  const out = new Float32Array(across * down);
  for (let y = 0; y < down; y++) {
    for (let x = 0; x < across; x++) {
      let [sum, n] = [0, 0];
      for (let j = y << shiftY; j < min(height, (y + 1) << shiftY); j++) {
        for (let i = x << shiftX; i < min(width, (x + 1) << shiftX); i++) {
          sum += alpha[j * width + i];
          n++;
        }
      }
      out[y * across + x] = sum / n;
    }
  }
  return out;
}

interface Place {
  readonly width: number;
  readonly height: number;
}

/** A picture's size; and whether its luma goes from 0, not from black at 16 of 255. */
interface Ranged extends Place {
  readonly full?: boolean;
}

/**
 * Colour times alpha, at 16 bit: what may be moved, mixed and averaged. Where nothing is seen nothing is left of the colour. Colour of several pixels
 * counts as opaque as these are in the mean.
 * @param picture packed, of a layout with alpha, straight
 * @param out packed, of multipliedLayout(layout), written
 */
export function multiply(layout: PixelLayout, { width, height, full }: Ranged, picture: Uint8Array, out: Uint8Array): void {
  const [from, to] = [samplesOf(layout, picture), samplesOf(multipliedLayout(layout), out)];
  const shifts = planeShifts(layout);
  const sizes = planeSizes(layout, width, height);
  const most = 2 ** layout.bits - 1;
  const finest = 2 ** MULTIPLIED_BITS - 1;
  const up = risen(layout, { bits: MULTIPLIED_BITS });
  const alphaAt = from.length - width * height;
  const alpha = from.subarray(alphaAt);
  let at = 0;
  for (let plane = 0; plane < sizes.length - 1; plane++) {
    const { width: across, height: down } = sizes[plane] as Place;
    const shown = alphaFor(alpha, { width, height }, shifts[plane] as { shiftX: number; shiftY: number });
    const none = nothingIn(layout, plane, full);
    for (let i = 0; i < across * down; i++)
      to[at + i] = min(finest, round((none + ((from[at + i] - none) * shown[i]) / most) * up));
    at += across * down;
  }
  for (let i = 0; i < alpha.length; i++) to[at + i] = round((alpha[i] * finest) / most);
}

/**
 * The straight picture of a multiplied one: colour over alpha; none where nothing is seen.
 * @param layout of the picture that is written
 * @param picture packed, of multipliedLayout(layout)
 */
export function unmultiply(layout: PixelLayout, { width, height, full }: Ranged, picture: Uint8Array, out: Uint8Array): void {
  const [from, to] = [samplesOf(multipliedLayout(layout), picture), samplesOf(layout, out)];
  const shifts = planeShifts(layout);
  const sizes = planeSizes(layout, width, height);
  const most = 2 ** layout.bits - 1;
  const finest = 2 ** MULTIPLIED_BITS - 1;
  const up = risen(layout, { bits: MULTIPLIED_BITS });
  const alpha = from.subarray(from.length - width * height);
  let at = 0;
  for (let plane = 0; plane < sizes.length - 1; plane++) {
    const { width: across, height: down } = sizes[plane] as Place;
    const shown = alphaFor(alpha, { width, height }, shifts[plane] as { shiftX: number; shiftY: number });
    const none = nothingIn(layout, plane, full);
    for (let i = 0; i < across * down; i++) {
      const share = shown[i] / finest;
      const value = share === 0 ? none : none + (from[at + i] / up - none) / share;
      to[at + i] = value < 0 ? 0 : min(most, round(value));
    }
    at += across * down;
  }
  for (let i = 0; i < alpha.length; i++) to[at + i] = round((alpha[i] * most) / finest);
}

/**
 * A picture at 16 bit, with alpha: the same samples, and where it had no alpha all of it is there.
 * @param layout of the picture
 * @param out packed, of multipliedLayout(layout) with alpha, written
 */
export function deepen(layout: PixelLayout, { width, height }: Place, picture: Uint8Array, out: Uint8Array): void {
  const from = samplesOf(layout, picture);
  const to = samplesOf({ ...multipliedLayout(layout), alpha: true }, out);
  const up = risen(layout, { bits: MULTIPLIED_BITS });
  const finest = 2 ** MULTIPLIED_BITS - 1;
  const alphaAt = to.length - width * height;
  for (let i = 0; i < alphaAt; i++) to[i] = round(from[i] * up);
  if (!layout.alpha) to.fill(finest, alphaAt);
  // All there is stays so.
  else for (let i = alphaAt; i < to.length; i++) to[i] = round((from[i] * finest) / (2 ** layout.bits - 1));
}

/** The layout of a picture without its alpha. */
export function flatLayout(layout: PixelLayout): PixelLayout {
  return { ...layout, alpha: false };
}

/**
 * A picture with alpha over one colour.
 * @param layout of the picture, with alpha
 * @param over samples of the colour, one for each plane but alpha's
 * @param out packed, of flatLayout(layout), written
 */
export function flatten(
  layout: PixelLayout,
  {
    width,
    height,
    picture,
    kind,
    over,
    out,
  }: Place & {
    readonly picture: Uint8Array;
    readonly kind: PictureKind;
    readonly over: readonly number[];
    readonly out: Uint8Array;
  },
): void {
  const [from, to] = [samplesOf(layout, picture), samplesOf(layout, out)];
  const shifts = planeShifts(layout);
  const most = 2 ** layout.bits - 1;
  const straight = isStraight(layout, kind);
  const alpha = from.subarray(from.length - width * height);
  let at = 0;
  planeSizes(flatLayout(layout), width, height).forEach((size, plane) => {
    const shown = alphaFor(alpha, { width, height }, shifts[plane] as { shiftX: number; shiftY: number });
    const none = nothingIn(layout, plane);
    const below = over[plane] as number;
    const n = size.width * size.height;
    for (let i = 0; i < n; i++) {
      const share = shown[i] / most;
      const own = straight ? none + (from[at + i] - none) * share : from[at + i];
      const value = own + (below - none) * (1 - share);
      to[at + i] = value < 0 ? 0 : min(most, round(value));
    }
    at += n;
  });
}

/** Seven eighths of what motion is found by are what is seen of luma, and one eighth alpha: so a black thing differs from nothing, too. */
const ALPHA_PART = 8;

/**
 * Eight bits to find motion by: luma (or green) as far as it is seen, and a little of alpha itself.
 * @param layout, picture multiplied
 * @param out a sample for each pixel, written
 */
export function steering(layout: PixelLayout, { width, height }: Place, picture: Uint8Array, out: Uint8Array): void {
  const samples = samplesOf(layout, picture);
  const n = width * height;
  const alphaAt = samples.length - n;
  const down = layout.bits - 8;
  for (let i = 0; i < n; i++) out[i] = ((ALPHA_PART - 1) * (samples[i] >> down) + (samples[alphaAt + i] >> down)) / ALPHA_PART;
}

/** Shares of full scale: colour that is lighter than alpha by more is no rounding and no coding. */
const LIGHTER = 0.04;
/** Alpha from here on counts as all there is: 255 of 8 bit is a little less than 65535 of 16. */
const ALL = 0.99;
/** Alpha up to here counts as none, and colour from here on as some. */
const [NONE, SOME] = [0.02, 0.12];
/** Alpha between these says something: below, rounding does; above, hardly anything is multiplied. */
const [FAINT, NEARLY_ALL] = [0.08, 0.96];
/** Pairs of pixels so far apart, whose alpha differs by so much, are compared. */
const APART = [1, 2, 4];
const DIFFERS = 0.05;
/** Pixels that have to speak before they are believed. */
const LEAST = 12;
/** A thing as light as its opaque part would be lighter than alpha wherever that is under this share of its lightness. */
const SURELY = 0.7;
/** Of the pixels that would be so, these shares are: hardly any where colour is multiplied, most where it is not. */
const [HARDLY, MOSTLY] = [0.15, 0.5];
/** A coder makes some pixels lighter at soft edges; fewer than this share of those that are partly seen say nothing. */
const CODED = 0.05;
/** Where nothing is seen colour lies under more than this share of the pixels: nobody multiplied it. */
const UNDER = 0.3;
/** One way has to leave this share of what the other leaves. */
const BETTER = 0.85;

/**
 * Finds out whether colour was multiplied by alpha. Multiplied colour is nowhere lighter than alpha, and none where that is none: light things show
 * it. Of dark ones, colour is more even across a soft edge as it is stored (straight), or once it is divided by alpha (multiplied).
 */
export class AlphaMeter {
  private readonly seen = { clear: 0, partial: 0, none: 0, under: 0, would: 0, lighter: 0, pairs: 0, straight: 0, multiplied: 0 };

  /** @param picture planes of green, blue, red and alpha, 16 bit */
  add(picture: Uint16Array, width: number, height: number): void {
    const n = width * height;
    const full = 65535;
    const lightest = (i: number): number => max(picture[i], picture[n + i], picture[2 * n + i]) / full;
    const alphaAt = (i: number): number => picture[3 * n + i] / full;
    let [opaque, light] = [0, 0];
    for (let i = 0; i < n; i++) {
      if (alphaAt(i) < ALL) continue;
      opaque++;
      light += lightest(i);
    }
    const { seen } = this;
    seen.clear += n - opaque;
    if (opaque === n) return;
    const usual = opaque === 0 ? 0 : light / opaque;
    for (let i = 0; i < n; i++) {
      const alpha = alphaAt(i);
      if (alpha > NEARLY_ALL) continue;
      if (alpha < NONE) {
        seen.none++;
        if (lightest(i) > SOME) seen.under++;
      }
      if (alpha < FAINT) continue;
      seen.partial++;
      // Lighter than alpha it is straight, whatever its opaque part is like.
      const isLighter = lightest(i) > alpha + LIGHTER;
      if (isLighter || alpha + LIGHTER < SURELY * usual) seen.would++;
      if (isLighter) seen.lighter++;
      for (const apart of APART) {
        const j = i + apart;
        // Not in the next row.
        if ((i % width) + apart >= width) break;
        const other = alphaAt(j);
        if (other < FAINT || Math.abs(other - alpha) < DIFFERS) continue;
        seen.pairs++;
        const mean = (alpha + other) / 2;
        for (let at = 0; at < 3 * n; at += n) {
          const [one, two] = [picture[at + i] / full, picture[at + j] / full];
          seen.straight += Math.abs(one - two);
          // At the size that it is stored at: texture then differs as much either way.
          seen.multiplied += mean * Math.abs(one / alpha - two / other);
        }
      }
    }
  }

  verdict(): AlphaKind {
    const { clear, partial, none, under, would, lighter, pairs, straight, multiplied } = this.seen;
    if (clear === 0) return 'opaque';
    if (lighter >= LEAST && lighter > CODED * partial && lighter > MOSTLY * would) return 'straight';
    if (none >= LEAST && under > UNDER * none) return 'straight';
    if (would >= LEAST && lighter < HARDLY * would) return 'multiplied';
    if (pairs < LEAST) return 'unknown';
    if (multiplied < BETTER * straight) return 'multiplied';
    return straight < BETTER * multiplied ? 'straight' : 'unknown';
  }
}
