import { type Rate, rate, type Timing, times } from '../time/index.js';

/** Which field of a stored frame comes first in time: that of its lines 0, 2, 4 … (top) or 1, 3, 5 … (bottom). */
export const FIELD_ORDERS = ['top', 'bottom'] as const;
export type FieldOrder = (typeof FIELD_ORDERS)[number];

/**
 * How stored frames are read. progressive: as stored. one-a-field: each field is a picture, its other lines rebuilt. one-a-frame: the first field
 * of each frame is, likewise. film: pictures that were spread over fields are put together again from their own two.
 */
export const FIELD_WAYS = ['progressive', 'one-a-field', 'one-a-frame', 'film'] as const;
export type FieldWay = (typeof FIELD_WAYS)[number];

/**
 * How many fields each picture of film takes in turn: 24 pictures in 60 fields (2:3), in 50 (2:12, the twelfth takes three), or 25 in 50 (2:2), whose
 * pictures may lie across stored frames.
 */
export const FILM_BEATS = ['2:3', '2:12', '2:2'] as const;
export type FilmBeat = (typeof FILM_BEATS)[number];
const BEATS: Record<FilmBeat, readonly number[]> = { '2:3': [2, 3], '2:12': [2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 3], '2:2': [2] };

/** Fields that the pictures of a beat take together. */
export function beatFields(beat: FilmBeat): number {
  return BEATS[beat].reduce((sum, n) => sum + n, 0);
}

/** Pictures of film a second for each stored frame a second. */
export function filmShare(beat: FilmBeat): Rate {
  return rate(2 * BEATS[beat].length, beatFields(beat));
}

/** How many fields each picture of a beat takes, in turn. */
export function groupLengths(beat: FilmBeat): readonly number[] {
  return BEATS[beat];
}

interface Frames {
  /** Stored frames, `to` not included. */
  readonly from: number;
  readonly to: number;
}

/** Stored frames that are read in one way. */
export type FieldRun =
  | (Frames & { readonly way: 'progressive' })
  | (Frames & { readonly way: 'one-a-field' | 'one-a-frame'; readonly first: FieldOrder })
  | (Frames & {
      readonly way: 'film';
      readonly first: FieldOrder;
      readonly beat: FilmBeat;
      /** Fields of the beat that lie before the run's first one: 0 to beatFields - 1. */
      readonly passed: number;
    });

/** Where the lines of a picture as read come from: stored frames; null where they are to be rebuilt. */
export interface FieldPicture {
  readonly top: number | null;
  readonly bottom: number | null;
}

/** A reading's pictures, all known beforehand: 24 bytes a stored frame. */
export interface FieldPlan {
  readonly pictures: number;
  /** @param k 0 to pictures - 1 */
  readonly at: (k: number) => FieldPicture;
  /** First field of picture k; field 2n is the first of stored frame n. Rising. */
  readonly firstField: (k: number) => number;
  /** The last picture that begins with this field or before it. */
  readonly pictureFrom: (field: number) => number;
  /** Pictures with lines to rebuild. */
  readonly rebuilt: number;
  /** Pictures of film with one field of their own, at breaks of the beat: those that are kept (they are rebuilt), and those that are not. */
  readonly alone: { readonly kept: number; readonly leftOut: number };
  /** Pictures a second for each stored frame a second, where that is the same all over; else null. */
  readonly share: Rate | null;
}

const NONE = -1;

/** Throws a RangeError where runs do not follow each other from 0, or are empty. */
export function checkRuns(runs: readonly FieldRun[]): void {
  let at = 0;
  for (const run of runs) {
    if (run.from !== at || run.to <= run.from)
      throw new RangeError('runs of fields follow each other, each of one frame or more');
    if (run.way === 'film' && !(run.passed >= 0 && run.passed < beatFields(run.beat)))
      throw new RangeError(`a beat of ${run.beat} has ${beatFields(run.beat)} fields`);
    at = run.to;
  }
  if (at === 0) throw new RangeError('a reading has at least one run');
}

/** Lists the pictures of a reading. Runs have to be in order, see checkRuns. */
export function planFields(runs: readonly FieldRun[]): FieldPlan {
  checkRuns(runs);
  const most = 2 * (runs.at(-1)?.to ?? 0);
  const [tops, bottoms, firsts] = [new Int32Array(most), new Int32Array(most), new Int32Array(most)];
  let pictures = 0;
  let rebuilt = 0;
  const add = (top: number, bottom: number, field: number): void => {
    tops[pictures] = top;
    bottoms[pictures] = bottom;
    firsts[pictures++] = field;
    if (top === NONE || bottom === NONE) rebuilt++;
  };
  const addField = (field: number, first: FieldOrder): void => {
    const isTop = (field % 2 === 0) === (first === 'top');
    add(isTop ? field >> 1 : NONE, isTop ? NONE : field >> 1, field);
  };
  const alone = { kept: 0, leftOut: 0 };
  let film = { fields: 0, pictures: 0 };
  for (const run of runs) {
    if (run.way !== 'film') {
      film = { fields: 0, pictures: 0 };
      for (let n = run.from; n < run.to; n++) {
        if (run.way === 'progressive') add(n, n, 2 * n);
        else addField(2 * n, run.first);
        if (run.way === 'one-a-field') addField(2 * n + 1, run.first);
      }
      continue;
    }
    const before = pictures;
    for (const { from, to } of groups(run)) {
      const due = ((film.fields + to - 2 * run.from) * BEATS[run.beat].length) / beatFields(run.beat);
      const has = film.pictures + pictures - before;
      if (to - from > 1) {
        // Both fields of one stored frame where there is one: coded together, and bit for bit where the coder left them.
        const field = from % 2 === 0 || to - from < 3 ? from : from + 1;
        const [a, b] = [field >> 1, (field + 1) >> 1];
        const isTop = (field % 2 === 0) === (run.first === 'top');
        add(isTop ? a : b, isTop ? b : a, from);
      } else if (due - has >= 0.5) {
        alone.kept++;
        addField(from, run.first);
      } else alone.leftOut++;
    }
    film = { fields: film.fields + 2 * (run.to - run.from), pictures: film.pictures + pictures - before };
  }
  const from = (frame: number): number | null => (frame === NONE ? null : frame);
  return {
    pictures,
    at: (k) => ({ top: from(tops[k]), bottom: from(bottoms[k]) }),
    firstField: (k) => firsts[k],
    pictureFrom: (field) => lastFrom(firsts, pictures, field),
    rebuilt,
    alone,
    share: shareOf(runs),
  };
}

/** Fields of each picture of film in a run, in turn; those at its ends may be cut short. */
function* groups({ from, to, beat, passed }: Extract<FieldRun, { way: 'film' }>): Generator<{ from: number; to: number }> {
  const lengths = BEATS[beat];
  let at = 2 * from - passed;
  for (let i = 0; at < 2 * to; i = (i + 1) % lengths.length) {
    const next = at + lengths[i];
    if (next > 2 * from) yield { from: Math.max(at, 2 * from), to: Math.min(next, 2 * to) };
    at = next;
  }
}

function shareOf(runs: readonly FieldRun[]): Rate | null {
  const one = (run: FieldRun): Rate => {
    if (run.way === 'one-a-field') return rate(2);
    return run.way === 'film' ? filmShare(run.beat) : rate(1);
  };
  const [first, ...others] = runs.map(one);
  return first && others.every((s) => s.num === first.num && s.den === first.den) ? first : null;
}

/** Ticks to a field in timing made for runs of different rates. Where pictures of film begin is rounded down to them. */
const FIELD_TICKS = 12;

/**
 * When the pictures of a reading begin. Even where all runs have one rate and the stored frames come evenly; else each picture begins with its first field,
 * and film runs evenly from the run's start to its end.
 * @param stored of the stored frames
 */
export function fieldTiming(runs: readonly FieldRun[], plan: FieldPlan, stored: Timing): Timing {
  if (stored.kind === 'still') return stored;
  if (plan.share && stored.kind === 'constant')
    return { kind: 'constant', rate: times(stored.rate, plan.share), pictures: plan.pictures };
  const even = stored.kind === 'constant';
  // Stored frames with times of their own are shared out between their fields, in FIELD_TICKS parts of a tick at most.
  const parts = even ? FIELD_TICKS : fineness(stored.end);
  const startOf = (field: number): number => {
    if (even) return field * parts;
    const frame = Math.floor(field / 2);
    const at = (n: number): number => (n < stored.ticks.length ? stored.ticks[n] : stored.end);
    return Math.floor((at(frame) + (at(frame + 1) - at(frame)) * (field / 2 - frame)) * parts);
  };
  const ticks = new Int32Array(plan.pictures);
  let k = 0;
  for (const run of runs) {
    const begin = k;
    while (k < plan.pictures && plan.firstField(k) < 2 * run.to) k++;
    const fields = 2 * (run.to - run.from);
    for (let i = begin; i < k; i++)
      ticks[i] = startOf(run.way === 'film' ? 2 * run.from + ((i - begin) * fields) / (k - begin) : plan.firstField(i));
  }
  const frames = runs.at(-1)?.to ?? 0;
  // The first picture begins at 0, whichever field of the first frame it is made from.
  if (ticks.length > 0) ticks[0] = 0;
  const timeBase = even ? times(stored.rate, rate(2 * parts)) : times(stored.timeBase, rate(parts));
  return { kind: 'variable', ticks, end: startOf(2 * frames), timeBase };
}

/** Parts of a tick that still fit 32 bits. */
function fineness(end: number): number {
  return Math.max(1, Math.min(FIELD_TICKS, Math.floor((2 ** 31 - 1) / Math.max(1, end))));
}

/** The picture as read that shows a stored frame's first moment: for marks and in points that were set on stored frames. */
export function pictureOfFrame(plan: FieldPlan, frame: number): number {
  return plan.pictureFrom(2 * frame);
}

/** The stored frame in which a picture as read begins. */
export function frameOfPicture(plan: FieldPlan, picture: number): number {
  const k = Math.max(0, Math.min(plan.pictures - 1, picture));
  return plan.firstField(k) >> 1;
}

/** Index of the last of the first `length` entries that is not above a value; 0 where all are. */
function lastFrom(values: Int32Array, length: number, value: number): number {
  let [low, high] = [0, length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (values[middle] <= value) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** All stored frames in one way. */
export function oneWay(way: Exclude<FieldWay, 'film'>, frames: number, first: FieldOrder): FieldRun[] {
  return [way === 'progressive' ? { from: 0, to: frames, way } : { from: 0, to: frames, way, first }];
}
