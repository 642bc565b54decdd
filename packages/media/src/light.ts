import {
  differsInLight,
  type Encoding,
  HLG,
  isHighRange,
  type Light,
  lumaShares,
  PQ,
  pixelFacts,
  pqOf,
  settledColour,
  settledLight,
  USUAL_PEAK,
  WHITE,
} from '@thawline/core/picture';
import { type Known, MediaError } from './port.js';

/** Names that FFmpeg's zscale filter takes. */
const PRIMARIES = /^(bt709|bt470m|bt470bg|smpte170m|smpte240m|film|bt2020|smpte428|smpte431|smpte432)$/;
const TRANSFERS =
  /^(bt709|bt470m|bt470bg|smpte170m|smpte240m|linear|log100|log316|bt2020-1[02]|smpte2084|iec61966-2-1|iec61966-2-4|arib-std-b67)$/;
const MATRICES = /^(bt709|fcc|bt470bg|smpte170m|smpte240m|bt2020nc|bt2020c)$/;

/** The greatest luminance of a file's pictures, in cd/m2: what their light says, else the display that they were made on. */
function peakOf({ highRange, colour }: Pick<Known, 'highRange' | 'colour'>): number {
  if (colour?.transfer === HLG) return USUAL_PEAK;
  const { light, display } = highRange ?? {};
  return [light?.most, display?.most].find((most) => most !== undefined && most > 0) ?? USUAL_PEAK;
}

/** Bends lights of PQ signals (core/picture's `bent`, in FFmpeg's words), so that none is above white of standard range. */
function bendFilters(peak: number): string[] {
  if (peak <= WHITE) return [];
  const most = pqOf(peak);
  const limit = pqOf(WHITE) / most;
  const knee = 1.5 * limit - 0.5;
  const [own, t] = ['ld(0)', 'ld(1)'];
  const spline = [
    `(2*pow(${t},3)-3*pow(${t},2)+1)*${knee}`,
    `(pow(${t},3)-2*pow(${t},2)+${t})*${1 - knee}`,
    `(3*pow(${t},2)-2*pow(${t},3))*${limit}`,
  ].join('+');
  const kept = [`st(0,min(1,val/${65535 * most}))`, `st(1,(${own}-${knee})/${1 - knee})`];
  const expression = [...kept, `${65535 * most}*if(lt(${own},${knee}),${own},${spline})+0.5`].join(';');
  return [`lutrgb=r='${expression}':g='${expression}':b='${expression}'`];
}

/** A stage of FFmpeg's zscale, with everything said. `white`: luminance of the most that a curve of standard range says. */
function stage(from: Encoding & Light, to: Encoding & Light, white: number = WHITE): string {
  const said = [
    ['matrixin', from.matrix],
    ['rangein', from.range],
    ['primariesin', from.primaries],
    ['transferin', from.transfer],
    ['matrix', to.matrix],
    ['range', to.range],
    ['primaries', to.primaries],
    ['transfer', to.transfer],
    ['npl', String(white)],
    ['filter', 'bicubic'],
  ] as const;
  return `zscale=${said.flatMap(([name, value]) => (value === null ? [] : [`${name}=${value}`])).join(':')}`;
}

/** FFmpeg's look-up filter gives 65280 of 65535 at most, so that all within it is kept a little lower: roots say up to this luminance. */
const ROOTS_PEAK = 1.02 * USUAL_PEAK;
/** What 1000 cd/m2 are in roots, of 1. */
const ROOT = (USUAL_PEAK / ROOTS_PEAK) ** (1 / 2.4);

/**
 * zscale takes HLG's system gamma of 1.2 for each colour by itself, where ITU-R BT.2100 takes it for luminance. These put that right, in square roots
 * of scene light (S) or 2.4th roots of display light (D), at 16 bit: D = S^(1/1.2) Y^(1/12) with Y the luminance of S squared, and back
 * S = D^1.2 / Y^(1/12) with Y that of D^2.4.
 * @param way in: S to D; out: D to S
 */
function systemGamma(way: 'in' | 'out', primaries: string | null): string {
  const [kr, kb] = lumaShares(primaries === 'bt2020' ? 'bt2020nc' : 'bt709');
  const kg = 1 - kr - kb;
  const row = (to: string): string => `${to}r=${kr}:${to}g=${kg}:${to}b=${kb}`;
  // Samples are shares of `from`, and become shares of `to`; never nothing, as it is divided by.
  const power = (exponent: number, from: number, to: number): string => {
    const value = `max(1\\,${65535 * to}*pow(val/${65535 * from}\\,${exponent})+0.5)`;
    return `lutrgb=r=${value}:g=${value}:b=${value}`;
  };
  const mix = `colorchannelmixer=${['r', 'g', 'b'].map(row).join(':')}`;
  // Both ways may be in one graph: their labels differ.
  const [own, light] = [`[own-${way}]`, `[light-${way}]`];
  const halves = `split[a-${way}][b-${way}];[b-${way}]`;
  if (way === 'in') {
    const half = Math.sqrt(ROOT);
    const steps = [power(2, ROOT, ROOT), mix, power(1 / 12, ROOT, half)];
    return `${halves}${steps.join(',')}${light};[a-${way}]${power(1 / 1.2, ROOT, half)}${own};${own}${light}blend=all_mode=multiply`;
  }
  // Half of it is divided, and doubled: FFmpeg's numbers would run over.
  const steps = [power(2.4, ROOT, ROOT), mix, power(1 / 12, ROOT, ROOT)];
  const divided = `${halves}${steps.join(',')}${light};[a-${way}]${power(1.2, ROOT, ROOT ** 2 / 2)}${own};${own}${light}blend=all_mode=divide`;
  return `${divided},lutrgb=r=val*2:g=val*2:b=val*2`;
}

/** Signals of PQ at 16 bit, in some primaries: where all high range meets. */
const pqIn = (primaries: string | null): Encoding & Light => ({ matrix: 'gbr', range: 'full', primaries, transfer: PQ });
/** The same display light as powers of 2.4, of so much as HLG goes up to. */
const rootsIn = (primaries: string | null): Encoding & Light => ({ matrix: 'gbr', range: 'full', primaries, transfer: 'bt709' });

/** From what a source is to signals of PQ in the target's primaries. */
function toPq(source: Encoding & Light, primaries: string | null, format: string): string[] {
  if (source.transfer !== HLG) return [stage(source, pqIn(primaries)), format];
  const own = rootsIn(source.primaries);
  return [
    stage(source, own, ROOTS_PEAK),
    format,
    systemGamma('in', source.primaries),
    stage(own, pqIn(primaries), ROOTS_PEAK),
    format,
  ];
}

/** From signals of PQ to red, green and blue as wanted. */
function fromPq(wanted: Encoding & Light, format: string): string[] {
  if (wanted.transfer === PQ) return [];
  if (wanted.transfer !== HLG) return [stage(pqIn(wanted.primaries), wanted), format];
  const own = rootsIn(wanted.primaries);
  return [
    stage(pqIn(wanted.primaries), own, ROOTS_PEAK),
    format,
    systemGamma('out', wanted.primaries),
    stage(own, wanted, ROOTS_PEAK),
    format,
  ];
}

/**
 * Filters that bring a file's pictures to another meaning of red, green and blue, through linear light, and to a matrix and range; empty where they
 * mean the same. What comes out is in the wanted pixel format.
 * @throws MediaError where FFmpeg has no numbers for what the file says
 */
export function lightFilters(
  known: Omit<Known, 'timing' | 'firstSeconds' | 'container'>,
  to: Encoding & Partial<Light>,
  {
    pixelFormat,
    alpha: keepsAlpha,
    size = known,
  }: {
    readonly pixelFormat: string;
    readonly alpha: boolean;
    /** Of the pictures by then, where they were scaled before; what the file does not say goes by its own. */
    readonly size?: { readonly width: number; readonly height: number };
  },
): string[] {
  const wanted: Light = { primaries: to.primaries ?? null, transfer: to.transfer ?? null };
  const own = settledLight(known.colour, wanted);
  if (!differsInLight(own, wanted)) return [];
  for (const [name, names] of [
    [own.primaries, PRIMARIES],
    [wanted.primaries, PRIMARIES],
    [own.transfer, TRANSFERS],
    [wanted.transfer, TRANSFERS],
  ] as const)
    if (name !== null && !names.test(name)) throw new MediaError('decode-failed', `its colours (${name}) cannot be converted`);
  const facts = pixelFacts(known.pixelFormat);
  const stored = settledColour(known.colour, known.height);
  if (!MATRICES.test(stored.matrix)) throw new MediaError('decode-failed', `its colours (${stored.matrix}) cannot be converted`);
  // Where one of both says nothing it means what the other does.
  const from = { ...own, primaries: own.primaries ?? wanted.primaries, transfer: own.transfer ?? wanted.transfer };
  const into = { primaries: wanted.primaries ?? from.primaries, transfer: wanted.transfer ?? from.transfer };
  const rgb = pixelFacts(pixelFormat)?.model === 'rgb';
  const source = facts?.model === 'rgb' ? { matrix: 'gbr', range: 'full' as const, ...from } : { ...stored, ...from };
  const target = rgb ? { matrix: 'gbr', range: 'full' as const, ...into } : { matrix: to.matrix, range: to.range, ...into };
  const alpha = keepsAlpha && (facts?.alpha ?? false);
  // All pixels get colour of their own, at 16 bit: what is converted is rounded once, at the end.
  const between = alpha ? 'gbrap16le' : 'gbrp16le';
  const middle = { matrix: 'gbr', range: 'full' as const, ...into };
  const even = size.width % 2 === 0 && size.height % 2 === 0;
  const apart = alpha && known.alpha === 'multiplied';
  const [highFrom, highInto] = [isHighRange(from.transfer), isHighRange(into.transfer)];
  const format = `format=${between}`;
  const lights =
    highFrom || highInto
      ? [
          ...toPq(source, into.primaries, format),
          ...(highFrom && !highInto ? bendFilters(peakOf(known)) : []),
          ...fromPq(middle, format),
        ]
      : [stage(source, middle), format];
  return [
    ...(even ? [] : [`format=${alpha ? 'yuva444p16le' : facts?.model === 'rgb' ? between : 'yuv444p16le'}`]),
    ...(apart ? ['unpremultiply=inplace=1'] : []),
    ...lights,
    ...(apart ? ['premultiply=inplace=1'] : []),
    ...(rgb ? [] : [stage(middle, target)]),
    `format=${pixelFormat}`,
  ];
}
