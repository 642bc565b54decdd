import type { Colour, Encoding } from '@thawline/core/picture';

/** FFmpeg's scale filter has names of its own for some of H.273's matrix coefficients. */
const SCALE_NAMES: Readonly<Record<string, string>> = {
  bt709: 'bt709',
  smpte170m: 'smpte170m',
  bt470bg: 'bt470',
  fcc: 'fcc',
  smpte240m: 'smpte240m',
  bt2020nc: 'bt2020',
};

/** Formats whose samples are red, green and blue, or name such: they have no matrix. */
const RGB = /^(rgb|bgr|gbr|argb|abgr|rgba|bgra|0rgb|pal8|monob|monow)/;

/** What a file says of its colours (names of ITU-T H.273 as FFmpeg spells them); null where it says nothing. */
export function colourOf(said: {
  readonly pix_fmt?: string;
  readonly color_range?: string;
  readonly color_space?: string;
  readonly color_primaries?: string;
  readonly color_transfer?: string;
}): Colour {
  const known = (name: string | undefined): string | null =>
    name && /^[a-z0-9-]{1,24}$/.test(name) && !/^(unknown|reserved|unspecified|gbr)$/.test(name) ? name : null;
  const full = said.color_range === 'pc' || said.color_range === 'jpeg' || /^yuvj/.test(said.pix_fmt ?? '');
  const limited = said.color_range === 'tv' || said.color_range === 'mpeg';
  const matrix = known(said.color_space);
  return {
    matrix: matrix && SCALE_NAMES[matrix] ? matrix : null,
    primaries: known(said.color_primaries),
    transfer: known(said.color_transfer),
    range: full ? 'full' : limited ? 'limited' : null,
  };
}

/**
 * What the scale filter needs to bring pictures from one encoding to another; empty where nothing changes, so that samples stay
 * untouched.
 */
export function conversion(pixelFormat: string, from: Encoding, to: Encoding): string[] {
  const rgb = RGB.test(pixelFormat);
  // Grey has no matrix, and its range is that of what it was made from.
  const sameMatrix = !rgb && (from.matrix === to.matrix || /^(gray|ya)/.test(pixelFormat));
  if (sameMatrix && from.range === to.range) return [];
  const input = rgb ? ['in_range=full'] : [`in_color_matrix=${nameOf(from.matrix)}`, `in_range=${from.range}`];
  return [...input, `out_color_matrix=${nameOf(to.matrix)}`, `out_range=${to.range}`];
}

export function nameOf(matrix: string): string {
  return SCALE_NAMES[matrix] ?? 'bt709';
}
