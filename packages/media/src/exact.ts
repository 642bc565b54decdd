import { type Encoding, opaqueFormat, pixelFacts, type Size, USUAL_SITING, workingFormat } from '@thawline/core/picture';

/** Pictures as they are or shall be: what holds their samples, how large they are, and what these mean. */
export interface Stage extends Size {
  readonly pixelFormat: string;
  readonly encoding: Encoding;
  /** Where samples of chroma lie among those of luma; as usual when left out. */
  readonly siting?: string | undefined;
}

const halved = (chroma: string | null | undefined): boolean => chroma === '4:2:0' || chroma === '4:2:2';

/** Places of chroma in FFmpeg's numbers for its scale filter, 256ths of a sample of luma. */
const PLACES: Readonly<Record<string, readonly [across: number, down: number]>> = {
  left: [0, 128],
  center: [128, 128],
  topleft: [0, 0],
  top: [128, 0],
  bottomleft: [0, 256],
  bottom: [128, 256],
};

/** A place of chroma that is known. */
export function settledSiting(said: string | undefined): string {
  return said !== undefined && PLACES[said] ? said : USUAL_SITING;
}

/** What the scale filter has to be told of halved chroma: it takes it to lie in the middle of its pixels, whatever pictures say. */
export function sitedScale(pixelFormat: string, siting: string | undefined): string {
  if (!halved(pixelFacts(pixelFormat)?.chroma)) return '';
  const [across, down] = PLACES[settledSiting(siting)] ?? [0, 128];
  return `:in_h_chr_pos=${across}:in_v_chr_pos=${down}:out_h_chr_pos=${across}:out_v_chr_pos=${down}`;
}

/** Whether zscale takes pictures of a format at a size: what is halved has to be even. */
function takes({ pixelFormat, width, height }: Stage): boolean {
  const chroma = pixelFacts(pixelFormat)?.chroma;
  return !halved(chroma) || (width % 2 === 0 && (chroma === '4:2:2' || height % 2 === 0));
}

/** The same samples with colour for each pixel. */
const whole = (format: string): string => format.replace(/4[12][0-2]p/, '444p');

/**
 * Whether FFmpeg's scale filter is off between two stages: at more than 8 bit it takes full range for 255 of 256, so that white is lost or passed by up
 * to 3 of 1023 (seen in 5.1); and it takes halved chroma to lie in the middle of its pixels.
 */
export function needsExact(from: Stage, to: Stage): boolean {
  const [a, b] = [pixelFacts(from.pixelFormat), pixelFacts(to.pixelFormat)];
  if (!a || !b || a.float) return false;
  const grey = a.model === 'grey' || b.model === 'grey';
  if (!grey && movesChroma(from, to)) return true;
  if (Math.max(a.bits, b.bits) <= 8) return false;
  if (a.model !== b.model && !grey) return true;
  if (a.model === 'rgb') return a.bits !== b.bits;
  if (from.encoding.range !== to.encoding.range) return true;
  return a.bits !== b.bits && from.encoding.range === 'full';
}

/** Whether samples of chroma come to lie elsewhere: there are more or fewer of them, or the same at other places. */
function movesChroma(from: Stage, to: Stage): boolean {
  const [a, b] = [from, to].map(({ pixelFormat }) => pixelFacts(pixelFormat)?.chroma);
  if (!halved(a) && !halved(b)) return false;
  return a !== b || settledSiting(from.siting) !== settledSiting(to.siting);
}

/**
 * Filters that bring pictures from one stage to another by zscale, which is within one code value of the sums at any depth; empty where nothing
 * changes.
 */
export function exactFilters(from: Stage, to: Stage): string[] {
  const [a, b] = [pixelFacts(from.pixelFormat), pixelFacts(to.pixelFormat)];
  const rgb = { from: a?.model === 'rgb', to: b?.model === 'rgb' };
  const sameSize = from.width === to.width && from.height === to.height;
  const sameMeaning =
    rgb.from === rgb.to &&
    (rgb.from || (from.encoding.matrix === to.encoding.matrix && from.encoding.range === to.encoding.range));
  const planar = workingFormat(from.pixelFormat);
  if (planar === to.pixelFormat && sameSize && sameMeaning && !movesChroma(from, to)) return [];
  const given = takes(from) ? planar : whole(planar);
  // zscale does not add alpha, and has it beside red, green and blue at 8 and 16 bit alone.
  const kept = b?.alpha && !a?.alpha ? opaqueFormat(to.pixelFormat) : to.pixelFormat;
  const target = kept.replace(/^gbrap1[0-4]le$/, 'gbrap16le').replace(/^rgba$/, 'gbrap');
  const made = takes(to) ? target : whole(target);
  const meaning = ({ matrix, range }: Encoding, isRgb: boolean, suffix: string): string =>
    `matrix${suffix}=${isRgb ? 'gbr' : matrix}:range${suffix}=${isRgb ? 'full' : range}`;
  const said = `${meaning(from.encoding, rgb.from, 'in')}:${meaning(to.encoding, rgb.to, '')}`;
  return [
    ...(given === from.pixelFormat ? [] : [`format=${given}`]),
    `zscale=w=${to.width}:h=${to.height}:filter=bicubic:${said}:chromalin=${settledSiting(from.siting)}:chromal=${settledSiting(to.siting)}`,
    `format=${made}`,
    ...(made === to.pixelFormat ? [] : [`format=${to.pixelFormat}`]),
  ];
}
