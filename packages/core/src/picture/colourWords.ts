/** Names that people use for primaries, transfer and matrix of ITU-T H.273, as FFmpeg spells them. */
const NAMES: Readonly<Record<string, string>> = {
  bt709: 'BT.709',
  smpte170m: 'BT.601 (525 lines)',
  bt470bg: 'BT.601 (625 lines)',
  bt470m: 'BT.470 M',
  smpte240m: 'SMPTE 240M',
  film: 'film',
  bt2020: 'BT.2020',
  bt2020nc: 'BT.2020',
  bt2020c: 'BT.2020, constant luminance',
  'bt2020-10': 'BT.2020 (10 bit)',
  'bt2020-12': 'BT.2020 (12 bit)',
  smpte428: 'XYZ',
  smpte431: 'DCI P3',
  smpte432: 'P3 D65',
  gamma22: 'gamma 2.2',
  gamma28: 'gamma 2.8',
  linear: 'linear light',
  'iec61966-2-1': 'sRGB',
  smpte2084: 'PQ',
  'arib-std-b67': 'HLG',
  fcc: 'FCC',
};

/** A name of H.273 as people say it; its own where there is none. */
export function colourName(said: string): string {
  return NAMES[said] ?? said;
}

/** What a file says of its colours, in words: "BT.2020, PQ, limited range"; null where it says nothing. */
export function colourWords({
  primaries,
  transfer,
  matrix,
  range,
}: {
  readonly primaries: string | null;
  readonly transfer: string | null;
  readonly matrix: string | null;
  readonly range: 'limited' | 'full' | null;
}): string | null {
  const said = [primaries, transfer, matrix].filter((name) => name !== null).map(colourName);
  const words = [...new Set(said), ...(range ? [`${range} range`] : [])];
  return words.length === 0 ? null : words.join(', ');
}
