import type { AlphaKind } from './alpha.js';
import { pixelLayout } from './format.js';

/** What the name of a pixel format says of its samples. */
export interface PixelFacts {
  /** yuv: luma and chroma. rgb: red, green and blue, also by way of a palette. grey: luma alone. */
  readonly model: 'yuv' | 'rgb' | 'grey';
  /** Bits of a sample; of float samples 16 or 32. */
  readonly bits: number;
  readonly float: boolean;
  /** Of luma and chroma: for each pixel, or for every second one across, or across and down; as ITU-T names them. */
  readonly chroma: '4:4:4' | '4:2:2' | '4:2:0' | '4:1:1' | '4:1:0' | '4:4:0' | null;
  /** Says how opaque each pixel is. A palette may. */
  readonly alpha: boolean;
}

/** Names that do not say it themselves: packed forms of luma and chroma. */
const PACKED: readonly (readonly [name: RegExp, format: string])[] = [
  [/^nv(12|21)$/, 'yuv420p'],
  [/^nv16$/, 'yuv422p'],
  [/^nv(24|42)$/, 'yuv444p'],
  [/^nv20[lb]e$/, 'yuv422p10le'],
  [/^p0(10|12|16)[lb]e$/, 'yuv420p$1le'],
  [/^p2(10|12|16)[lb]e$/, 'yuv422p$1le'],
  [/^p4(10|12|16)[lb]e$/, 'yuv444p$1le'],
  [/^y2(10|12)[lb]e$/, 'yuv422p$1le'],
  [/^(yuyv|yvyu|uyvy)422$/, 'yuv422p'],
  [/^uyyvyy411$/, 'yuv411p'],
  [/^ayuv64[lb]e$/, 'yuva444p16le'],
];

/** Red, green and blue in one plane: bits of a sample by what stands in the name. */
const PACKED_RGB =
  /^(rgb|bgr|0rgb|0bgr|rgb0|bgr0|argb|abgr|rgba|bgra|x2rgb|x2bgr)(24|48|64|32|10|8|4|4_byte|444|555|565)?(le|be)?$/;

function packedRgb(name: string): PixelFacts | null {
  const match = PACKED_RGB.exec(name);
  if (!match) return null;
  const [, order = '', size = ''] = match;
  const bits = /^(48|64)$/.test(size) ? 16 : size === '10' ? 10 : /^(8|4|4_byte|444|555|565)$/.test(size) ? 5 : 8;
  return { model: 'rgb', bits, float: false, chroma: null, alpha: /a/.test(order) };
}

/** What a pixel format's name says (as FFmpeg spells them); null where it is not known. */
export function pixelFacts(name: string): PixelFacts | null {
  const packed = PACKED.find(([pattern]) => pattern.test(name));
  if (packed) return pixelFacts(name.replace(packed[0], packed[1]));
  const plain = name.replace(/(f?\d*)be$/, '$1le');
  const float = /f(16|32)(le)?$/.exec(plain);
  if (float) {
    const bits = Number(float[1]);
    if (/^gray/.test(plain)) return { model: 'grey', bits, float: true, chroma: null, alpha: false };
    return /^(gbrp|gbrap|rgb|rgba)f/.test(plain)
      ? { model: 'rgb', bits, float: true, chroma: null, alpha: /^(gbrap|rgba)f/.test(plain) }
      : null;
  }
  const grey = /^(gray|ya)(8|9|10|12|14|16)?(le)?$/.exec(plain);
  if (grey) return { model: 'grey', bits: Number(grey[2] ?? 8), float: false, chroma: null, alpha: grey[1] === 'ya' };
  if (/^mono[wb]$/.test(plain)) return { model: 'grey', bits: 1, float: false, chroma: null, alpha: false };
  if (plain === 'pal8') return { model: 'rgb', bits: 8, float: false, chroma: null, alpha: true };
  const yuv = /^yuv(a)?j?(4[1240]{2})p(9|10|12|14|16)?(le)?$/.exec(plain);
  if (yuv) {
    const [first, second, third] = yuv[2] as string;
    const chroma = `${first}:${second}:${third}` as NonNullable<PixelFacts['chroma']>;
    return { model: 'yuv', bits: Number(yuv[3] ?? 8), float: false, chroma, alpha: yuv[1] !== undefined };
  }
  const planar = /^gbr(a)?p(9|10|12|14|16)?(le)?$/.exec(plain);
  if (planar) return { model: 'rgb', bits: Number(planar[2] ?? 8), float: false, chroma: null, alpha: planar[1] !== undefined };
  return packedRgb(plain);
}

const EVERY_DEPTH = [8, 9, 10, 12, 14, 16];
/** Depths that planar formats with alpha come in. */
const ALPHA_DEPTHS: Readonly<Record<string, readonly number[]>> = {
  gbrap: [8, 10, 12, 16],
  yuva420p: [8, 9, 10, 16],
  yuva422p: [8, 9, 10, 12, 16],
  yuva444p: [8, 9, 10, 12, 16],
};

/**
 * The planar format that holds samples of a kind: at the next depth that there is. Colour for every fourth pixel gets that for every second; grey
 * with alpha, of which there is none in planes, red, green and blue.
 */
export function planarName({ model, bits, chroma, alpha }: Pick<PixelFacts, 'model' | 'bits' | 'chroma' | 'alpha'>): string {
  const kept = chroma === '4:2:0' || chroma === '4:1:0' ? '420' : chroma === '4:2:2' || chroma === '4:1:1' ? '422' : '444';
  const a = alpha ? 'a' : '';
  const form = model === 'yuv' ? `yuv${a}${kept}p` : model === 'grey' && !alpha ? 'gray' : `gbr${a}p`;
  const depth = (ALPHA_DEPTHS[form] ?? EVERY_DEPTH).find((d) => d >= bits) ?? 16;
  return depth === 8 ? form : `${form}${depth}le`;
}

/**
 * The planar format in which pictures of another one are worked on: its own where that is planar, else one that holds the same samples. What has
 * no such (floats, colour for every fourth pixel) gets the next finer one.
 */
export function workingFormat(name: string): string {
  if (pixelLayout(name)) return name;
  const facts = pixelFacts(name);
  if (!facts) return 'yuv444p';
  return planarName(facts.float ? { ...facts, bits: 16 } : facts);
}

/** The planar format of the same model and chroma at 16 bit, with alpha: what pictures are that were multiplied. */
export function deepFormat(name: string): string {
  const facts = pixelFacts(workingFormat(name));
  return planarName(facts ? { ...facts, bits: 16, alpha: true } : { model: 'yuv', bits: 16, chroma: '4:4:4', alpha: true });
}

/** The same without alpha. */
export function opaqueFormat(name: string): string {
  const working = workingFormat(name);
  const facts = pixelFacts(working);
  return facts?.alpha ? planarName({ ...facts, alpha: false }) : working;
}

/** Whether what lies beneath pictures is seen through them: they have alpha, and it was not found to be all there is. */
export function isSeenThrough({
  pixelFormat,
  alpha,
}: {
  readonly pixelFormat: string;
  readonly alpha?: AlphaKind | undefined;
}): boolean {
  return pixelFacts(pixelFormat)?.alpha === true && alpha !== 'opaque';
}

/** A pixel format in words: "4:2:2, 10 bit, with alpha". */
export function pixelWords(name: string): string {
  const facts = pixelFacts(name);
  if (!facts) return name;
  const kind = facts.model === 'yuv' ? (facts.chroma as string) : facts.model === 'rgb' ? 'RGB' : 'grey';
  const depth = facts.float ? `${facts.bits} bit float` : `${facts.bits} bit`;
  return `${kind}, ${name === 'pal8' ? 'palette' : depth}${facts.alpha ? ', with alpha' : ''}`;
}
