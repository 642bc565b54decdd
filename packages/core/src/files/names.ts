/** What can be known from a file's name alone, for listing folders before any file is opened. */

const FILM = 'mp4 mov m4v mkv webm avi mts m2ts ts mpg mpeg m2v mxf nut ogv flv wmv asf dv h264 264 hevc 265 ivf obu y4m 3gp gif';
const SOUND = 'wav flac mp3 m4a aac ogg opus aif aiff';
const PICTURE = 'png jpg jpeg tif tiff exr bmp webp';

const ENDINGS: ReadonlyMap<string, 'film' | 'picture' | 'sound'> = new Map([
  ...FILM.split(' ').map((e) => [e, 'film'] as const),
  ...SOUND.split(' ').map((e) => [e, 'sound'] as const),
  ...PICTURE.split(' ').map((e) => [e, 'picture'] as const),
]);

/** The letters after a name's last dot, in lower case; '' when there are none. A leading dot begins a hidden name, not an ending. */
export function endingOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** What a name's ending promises; null for anything that a folder may hold beside material. */
export function kindOfName(name: string): 'film' | 'picture' | 'sound' | null {
  return ENDINGS.get(endingOf(name)) ?? null;
}

/** Why a file in a folder was not even opened: hidden, or its ending. */
export function passedOver(name: string): string | null {
  if (name.startsWith('.')) return 'hidden';
  if (kindOfName(name)) return null;
  const ending = endingOf(name);
  return ending ? `.${ending.slice(0, 12)}` : 'no ending';
}

/** Pictures of one folder that are numbered alike: shot-0001.png, shot-0002.png … */
export interface Series<T> {
  /** The name with its number left out: "shot-". */
  readonly name: string;
  readonly ending: string;
  /** In the order of their numbers. */
  readonly files: readonly T[];
  readonly first: number;
  readonly last: number;
  /** Numbers between first and last that no file has. */
  readonly missing: number;
}

/** Fewer numbered pictures than this are single ones. */
const SERIES_FROM = 3;
const NUMBERED = /^(.*?)(\d{1,9})\.(png|tiff?|exr|jpe?g)$/i;

interface Numbered<T> {
  readonly stem: string;
  readonly digits: string;
  readonly ending: string;
  readonly file: T;
}

/**
 * Finds numbered series of PNG, TIFF, EXR or JPEG among files of one folder. Where numbers have leading zeros, only those of the
 * same length belong together; without, 9 and 10 do.
 * @returns the series, and what is left, in the order given
 */
export function findSeries<T>(files: readonly T[], nameOf: (file: T) => string): { series: Series<T>[]; rest: T[] } {
  const numbered: Numbered<T>[] = [];
  for (const file of files) {
    const [, stem = '', digits = '', ending = ''] = NUMBERED.exec(nameOf(file)) ?? [];
    if (digits) numbered.push({ stem, digits, ending: ending.toLowerCase(), file });
  }
  const series: Series<T>[] = [];
  const taken = new Set<T>();
  for (const alike of grouped(numbered, (n) => `${n.stem}|${n.ending}`)) {
    const padded = alike.some((n) => n.digits.startsWith('0') && n.digits.length > 1);
    for (const group of padded ? grouped(alike, (n) => String(n.digits.length)) : [alike]) {
      if (group.length < SERIES_FROM) continue;
      const inOrder = [...group].sort((a, b) => Number(a.digits) - Number(b.digits));
      const [lowest, highest] = [inOrder[0], inOrder[inOrder.length - 1]];
      const first = Number(lowest?.digits);
      const last = Number(highest?.digits);
      for (const { file } of inOrder) taken.add(file);
      series.push({
        name: lowest?.stem.replace(/[-_. ]+$/, '') || 'pictures',
        ending: lowest?.ending ?? '',
        files: inOrder.map((n) => n.file),
        first,
        last,
        missing: last - first + 1 - inOrder.length,
      });
    }
  }
  return { series, rest: files.filter((f) => !taken.has(f)) };
}

function grouped<T>(items: readonly T[], key: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const group = groups.get(key(item));
    if (group) group.push(item);
    else groups.set(key(item), [item]);
  }
  return [...groups.values()];
}
