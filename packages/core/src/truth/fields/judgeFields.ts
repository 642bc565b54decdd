import type { FieldMeter } from './fieldMeter.js';
import { type FilmRun, filmBeats, filmEdge } from './filmBeats.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, max, min, sqrt } = Math;

/**
 * What the two fields of pictures show. none: one moment. pulldown: film spread over fields, by 2:3 mostly (four pictures in five). interlaced: each
 * its own moment.
 */
export const FIELD_KINDS = ['none', 'pulldown', 'interlaced'] as const;
export type FieldKind = (typeof FIELD_KINDS)[number];

/** What a file says of its fields against what they are; nothing is wrong before it is proved to be. */
export const FLAGS = ['right', 'wrong', 'absent'] as const;
export type Flag = (typeof FLAGS)[number];
/** What a file says: whole pictures, or which field comes first; null where it says nothing. */
export type SaidFields = 'progressive' | 'top' | 'bottom' | null;

/** Pictures of one kind, `to` not included. */
export interface FieldStretch {
  readonly from: number;
  readonly to: number;
  readonly kind: FieldKind;
  /** Which field comes first in time; null where both are of one moment. */
  readonly first: 'top' | 'bottom' | null;
  readonly flag: Flag;
  /** 0 to 1. */
  readonly certainty: number;
}

/** What the fields of a clip are, as measured; the file's flag has no say. */
export interface FieldFinding {
  readonly kind: FieldKind | 'mixed';
  /** Of all stretches that have an order; null where there is none, or not one. */
  readonly first: 'top' | 'bottom' | null;
  /** Wrong as soon as it is in one stretch. */
  readonly flag: Flag;
  readonly certainty: number;
  readonly stretches: readonly FieldStretch[];
  /** First pictures after a break in a beat of pulldown. */
  readonly breaks: readonly number[];
  /** All stretches of pulldown, taken apart at the breaks: which fields make which picture of film. */
  readonly film: readonly FilmRun[];
}

interface State {
  readonly kind: FieldKind;
  readonly first: 'top' | 'bottom' | null;
  /** What each step of its cycle is expected to lean by; see leanings. */
  readonly cycle: readonly number[];
  /** Which field of each step is expected to come again; see leanings. */
  readonly again: readonly number[];
}

/** AA BB BC CD DD: from AA to BB both distances are one picture; then the field that comes later is the next one's neighbour. */
const CADENCE = [0, 1, 1, 1, 0] as const;
/** From BB to BC the first field comes again, from CD to DD the second. */
const AGAIN = [0, 1, 0, -1, 0] as const;
const STATES: readonly State[] = [
  { kind: 'none', first: null, cycle: [0], again: [0] },
  { kind: 'interlaced', first: 'top', cycle: [1], again: [0] },
  { kind: 'interlaced', first: 'bottom', cycle: [-1], again: [0] },
  { kind: 'pulldown', first: 'top', cycle: CADENCE, again: AGAIN },
  { kind: 'pulldown', first: 'bottom', cycle: CADENCE.map((c) => -c), again: AGAIN.map((a) => -a) },
];

/** States without a beat. */
const PLAIN: readonly number[] = [0, 1, 2];

/** Steps on each side over which motion is measured. */
const NEAR = 3;
/**
 * Motion adds up from picture to picture, noise does not: below the first of these shares of the distance of two fields it says nothing, from
 * the second on all. Nor does motion of little, in squared 8-bit steps: that is what a coder leaves out.
 */
const ADDS = { least: 0.1, full: 0.4 } as const;
const MOTION = { least: 0.05, full: 0.6 } as const;
/** A step of less than the first share of the motion around is none. */
const STEPS = { least: 0.2, full: 0.6 } as const;
/**
 * Standard deviation of a leaning around what is expected, where both fields are of one moment (what fine lines that move up or down do to it is no
 * chance) and where they are not; and the most that one step may cost.
 */
const SPREAD = { whole: 0.35, woven: 0.24, again: 0.3 } as const;
/**
 * Fields come again near by where the least that one differs by is less than the middle by more than the first of these shares of it, and surely from the
 * second on.
 */
const REPEATS = { least: 0.4, full: 0.7 } as const;
/** So many samples beside each other say as much as one. */
const ALIKE = 6;
const MOST = 5;
/** What a change of kind, and a break in a beat, have to save before they are believed. */
const SWITCH = 20;
const BREAK = 9;
/** What anything but one moment a picture costs from the start. */
const UNUSUAL = 10;

/** What the fields of each step say. */
interface Leanings {
  /** 1 where the upper field comes half a picture before the lower one, -1 the other way round, 0 where both are of one moment; and how much that counts, 0 (nothing moves) to 1. */
  readonly lean: Float32Array;
  readonly weight: Float32Array;
  /** 1 where the upper field alone is the one before once more, -1 where the lower one is, 0 where both are or none; and how much that counts: 0 where fields always differ as much. */
  readonly again: Float32Array;
  readonly againWeight: Float32Array;
}

function leanings(meter: FieldMeter): Leanings {
  const length = max(0, meter.length - 1);
  const row = (): Float32Array => new Float32Array(length);
  const [lean, weight, again, againWeight] = [row(), row(), row(), row()];
  // A moment's distance is a square: of two steps it is four times that of one, of one and a half nine times that of a half.
  const moved = Float32Array.from({ length }, (_, k) => {
    const { twice, upper, lower } = meter.at(k);
    return k === 0 ? Number.NaN : (twice - (upper + lower) / 2) / 3;
  });
  for (let k = 0; k < length; k++) {
    const { own, nextOwn, lowerToUpper, upperToLower, upper, lower, samples } = meter.at(k);
    const near = moved.slice(max(1, k - NEAR), k + NEAR + 1).sort();
    const motion = near[near.length >> 1] ?? 0;
    const least = min(own, nextOwn, lowerToUpper, upperToLower, upper, lower);
    const range = max(lowerToUpper, upperToLower, upper, lower) - least;
    const foreseen = min(range, max(2 * motion, (upper + lower) / 4));
    lean[k] = foreseen > 0 ? max(-1, min(1, (upperToLower - lowerToUpper) / foreseen)) : 0;
    const adds = motion / max(1e-6, (upper + lower) / 2);
    // What chance lets both distances differ by, where samples beside each other are alike.
    const chance = (((upper + lower) / 2) * sqrt((2 * ALIKE) / max(1, samples))) / max(1e-6, foreseen);
    const sharp = 1 / (1 + (chance / SPREAD.woven) ** 2);
    // A picture that repeats the one before moves nothing, whatever moves around it.
    weight[k] = ramp(adds, ADDS) * ramp(motion, MOTION) * ramp(range / max(1e-6, motion), STEPS) * sharp;
    const { most, fewest } = fieldsNear(meter, k, length);
    again[k] = (lower - upper) / max(1e-6, upper, lower, most / 4);
    againWeight[k] = ramp(1 - fewest / max(1e-6, most), REPEATS) * ramp(most, MOTION);
  }
  return { lean, weight, again, againWeight };
}

/** The middle of what fields differ by from picture to picture around a step, and the least of it. */
function fieldsNear(meter: FieldMeter, k: number, length: number): { most: number; fewest: number } {
  const near: number[] = [];
  for (let i = max(0, k - NEAR); i < min(length, k + NEAR + 1); i++) near.push(meter.at(i).upper, meter.at(i).lower);
  near.sort((a, b) => a - b);
  return { most: near[near.length >> 1] as number, fewest: near[0] as number };
}

const ramp = (value: number, { least, full }: { readonly least: number; readonly full: number }): number =>
  max(0, min(1, (value - least) / (full - least)));

const costAt = (lean: number, weight: number, expected: number): number =>
  weight * min(MOST, 0.5 * (abs(lean - expected) / (expected === 0 ? SPREAD.whole : SPREAD.woven)) ** 2);

/** What step k costs at a place of a state's cycle. */
function stepCost(
  { lean, weight, again, againWeight }: Leanings,
  k: number,
  { cycle, again: expected }: State,
  place: number,
): number {
  const repeat = ((again[k] as number) - (expected[place] as number)) / SPREAD.again;
  return (
    costAt(lean[k] as number, weight[k] as number, cycle[place] as number) +
    (againWeight[k] as number) * min(MOST, 0.5 * repeat ** 2)
  );
}

/** From this certainty on what was measured of fields counts against what a file says; below, too little moved. */
export const FIELDS_PROVED = 0.9;

function flagOf(said: SaidFields, { kind, first, certainty }: Omit<FieldStretch, 'flag'>): Flag {
  if (said === null) return 'absent';
  const right = said === (kind === 'none' ? 'progressive' : first);
  return right || certainty < FIELDS_PROVED ? 'right' : 'wrong';
}

/**
 * Judges the fields of a clip by which of them are nearest to each other.
 * @param said what the file says: it is held against what was found, and has no say in it
 */
export function judgeFields(meter: FieldMeter, said: SaidFields): FieldFinding {
  const leaning = leanings(meter);
  const spoke = joined(spoken(cheapest(leaning), leaning));
  const runs = beatsEnded(joined(spoke.map((run) => surely(run, leaning))), leaning);
  const found: Omit<FieldStretch, 'flag'>[] = [];
  for (const run of runs) {
    const { kind, first } = STATES[run.state] as State;
    const [from, to] = [beginOf(run, meter), run.to + 1];
    const certainty = certaintyOf(run, leaning);
    const last = found.at(-1);
    if (last) found[found.length - 1] = { ...last, to: from };
    if (last && last.kind === kind && last.first === first)
      found[found.length - 1] = { ...last, to, certainty: min(last.certainty, certainty) };
    else found.push({ from, to, kind, first, certainty });
  }
  if (found.length === 0) found.push({ from: 0, to: meter.length, kind: 'none', first: null, certainty: UNKNOWN });
  const filmed = longBeats(
    exactly(shortFilm(found, meter), meter).map((stretch) => withFilm(stretch, meter)),
    meter,
  );
  const stretches = filmed.map(({ stretch }): FieldStretch => ({ ...stretch, flag: flagOf(said, stretch) }));
  const kinds = new Set(stretches.map((s) => s.kind));
  const orders = new Set(stretches.map((s) => s.first).filter((f) => f !== null));
  const [kind = 'none'] = kinds;
  const [first = null] = orders;
  return {
    kind: kinds.size > 1 ? 'mixed' : kind,
    first: orders.size === 1 ? first : null,
    flag: stretches.some((s) => s.flag === 'wrong') ? 'wrong' : (stretches[0]?.flag ?? 'absent'),
    certainty: min(...stretches.map((s) => s.certainty)),
    stretches,
    breaks: filmed.flatMap(({ film }) => film.slice(1).map((run) => run.from)),
    film: filmed.flatMap(({ film }) => film),
  };
}

/** Beats that spread pictures over fields so that each step leans as interlaced ones do, told apart from those by what is of one moment. */
const LONG_BEATS = ['2:12', '2:2'] as const;
/** How much cheaper each field has to be explained by them. */
const BETTER_EACH = 0.15;
const BETTER_AT_LEAST = 12;
/** And how much nearer fields of one moment have to be than others. */
const NEAR_ENOUGH = 0.25;

/** How much cheaper film has to explain the fields of a stretch beside other film than whole pictures do, and than fields of their own moments do. */
const SHORT_FILM = { thanWhole: 6, thanFields: 6 } as const;

/** Too few beats by themselves are chance; beside film of the same order they are more of it: edits leave short stretches. */
function shortFilm(all: readonly Omit<FieldStretch, 'flag'>[], meter: FieldMeter): Omit<FieldStretch, 'flag'>[] {
  const orders = new Set(all.filter((s) => s.kind === 'pulldown').map((s) => s.first));
  const [first] = orders;
  if (orders.size !== 1 || !first) return [...all];
  return all
    .map((stretch, i) => {
      const beside = all[i - 1]?.kind === 'pulldown' || all[i + 1]?.kind === 'pulldown';
      if (stretch.kind === 'pulldown' || !beside) return stretch;
      const { from, to } = stretch;
      const [film, whole] = [['2:3'] as const, ['2:2'] as const].map(
        (beats) => filmBeats(meter, { first, from, to, beats }).better,
      );
      const clear = (film ?? 0) > (whole ?? 0) + SHORT_FILM.thanWhole && (film ?? 0) > SHORT_FILM.thanFields;
      // Where hardly anything moves little is known: what is beside it goes on there, unless whole pictures explain it better.
      const goesOn = stretch.kind === 'none' && stretch.certainty < FIELDS_PROVED && (film ?? 0) >= (whole ?? 0);
      const isFilm = clear || goesOn;
      return isFilm ? { ...stretch, kind: 'pulldown' as const, first } : stretch;
    })
    .reduce<Omit<FieldStretch, 'flag'>[]>((found, stretch) => {
      const last = found.at(-1);
      if (last?.kind === 'pulldown' && stretch.kind === 'pulldown')
        found[found.length - 1] = { ...last, to: stretch.to, certainty: min(last.certainty, max(stretch.certainty, BELIEVED)) };
      else found.push(stretch);
      return found;
    }, []);
}

/** Film's ends brought to the very frame, where it goes over into fields of the same order or comes out of such. */
function exactly(all: readonly Omit<FieldStretch, 'flag'>[], meter: FieldMeter): Omit<FieldStretch, 'flag'>[] {
  const found = [...all];
  for (let i = 1; i < found.length; i++) {
    const [before, after] = [found[i - 1], found[i]] as [FieldStretch, FieldStretch];
    const { first } = before;
    const kinds = new Set([before.kind, after.kind]);
    if (first === null || after.first !== first || !kinds.has('pulldown') || !kinds.has('interlaced')) continue;
    const ends = before.kind === 'pulldown';
    const { from, to } = ends ? before : after;
    const runs = filmBeats(meter, { first, from, to, beats: ['2:3'] }).runs;
    const run = ends ? runs.at(-1) : runs[0];
    if (!run) continue;
    const at = filmEdge(meter, run, { at: after.from, ends, least: before.from + 1, most: after.to - 1 });
    found[i - 1] = { ...before, to: at };
    found[i] = { ...after, from: at };
  }
  return found;
}

interface Filmed {
  readonly stretch: Omit<FieldStretch, 'flag'>;
  readonly film: readonly FilmRun[];
}

/** A stretch with its film, where it is some. */
function withFilm(stretch: Omit<FieldStretch, 'flag'>, meter: FieldMeter): Filmed {
  const { kind, first, from, to } = stretch;
  if (first === null) return { stretch, film: [] };
  if (kind === 'pulldown') return { stretch, film: filmBeats(meter, { first, from, to, beats: ['2:3'] }).runs };
  const { better, runs, nearness } = filmBeats(meter, { first, from, to, beats: LONG_BEATS });
  // Pictures of two fields that are those of a stored frame are whole ones, which were told apart from this before.
  const across = runs.every(({ beat, passed }) => beat !== '2:2' || passed === 1);
  const isFilm = across && nearness < NEAR_ENOUGH && better > max(BETTER_AT_LEAST, 2 * (to - from) * BETTER_EACH);
  return isFilm ? { stretch: { ...stretch, kind: 'pulldown' }, film: runs } : { stretch, film: [] };
}

/**
 * In a beat of 2:12 frames are whole for twelve frames and lie across two moments for as many: what was told as stretches in turn is one where one
 * beat, without a break, explains all of it.
 */
function longBeats(all: readonly Filmed[], meter: FieldMeter): readonly Filmed[] {
  const isLong = ({ film }: Filmed): boolean => film.some((run) => run.beat === '2:12');
  const order = all.find(isLong)?.stretch.first;
  if (!order) return all;
  const found: Filmed[] = [];
  for (let i = 0; i < all.length; ) {
    let end = i;
    while (
      end < all.length &&
      (isLong(all[end] as Filmed) ? all[end]?.stretch.first === order : all[end]?.stretch.kind === 'none')
    )
      end++;
    const block = all.slice(i, end);
    const [head, tail] = [block[0], block.at(-1)];
    if (head && tail && block.length > 1 && block.some(isLong)) {
      const [from, to] = [head.stretch.from, tail.stretch.to];
      const { runs } = filmBeats(meter, { first: order, from, to, beats: ['2:12'] });
      const certainty = min(...block.filter(isLong).map((f) => f.stretch.certainty));
      if (runs.length === 1) found.push({ stretch: { from, to, kind: 'pulldown', first: order, certainty }, film: runs });
      else found.push(...block);
    } else found.push(...block);
    if (end === i) found.push(all[end++] as Filmed);
    i = end;
  }
  return found;
}

interface Run {
  readonly from: number;
  readonly to: number;
  readonly state: number;
  /** What step k is expected to lean by is at k + offset of the state's cycle. */
  readonly offset: number;
}

/** How certain anything is where nothing moves. */
const UNKNOWN = 0.5;
/**
 * Where a run's steps weigh less than this together, or than this share of them, it says nothing of its own. Of whole pictures it takes more: a
 * coder that goes on refining a still looks like them for a few steps.
 */
const LEAST_SAID = { whole: 4.5, woven: 2.5 } as const;
const SAID_SHARE = 0.1;

function says({ from, to, state }: Run, { weight, againWeight }: Leanings): boolean {
  let sum = 0;
  for (let k = from; k < to; k++) sum += max(weight[k] as number, againWeight[k] as number);
  return sum >= max(state === 0 ? LEAST_SAID.whole : LEAST_SAID.woven, SAID_SHARE * (to - from));
}

/** Runs of which something is known; what says nothing goes with what is beside it. */
function spoken(runs: readonly Run[], leaning: Leanings): Run[] {
  const { length } = leaning.lean;
  const told = runs.filter((run) => says(run, leaning));
  if (told.length === 0) return [...runs.slice(0, 1).map((run) => ({ ...run, to: length, state: 0 }))];
  return told.map((run, i) => ({
    ...run,
    from: i === 0 ? 0 : run.from,
    to: told[i + 1]?.from ?? length,
  }));
}

/** Pictures on each side that say whether one belongs to what comes before or after it. */
const BESIDE = 5;

/** A step that fits both of two runs nearly as well is of the earlier one, so that a beat of pulldown is told to its end. */
const AS_WELL = 0.5;
/** Steps of a beat that lean as interlaced pictures do, and the one that leads out of it. */
const LEANING = 4;

/** Runs after pulldown begin where its beat ends. */
function beatsEnded(runs: readonly Run[], leaning: Leanings): Run[] {
  const costOf = ({ state, offset }: Run, k: number): number => {
    const own = STATES[state] as State;
    return stepCost(leaning, k, own, (k + offset) % own.cycle.length);
  };
  const begins = runs.map((run, i) => {
    const last = runs[i - 1];
    if (!last || STATES[last.state]?.kind !== 'pulldown') return run.from;
    let from = run.from;
    while (from < min(run.to - 1, run.from + LEANING) && costOf(last, from) <= costOf(run, from) + AS_WELL) from++;
    return from;
  });
  return runs.map((run, i) => ({ ...run, from: begins[i] as number, to: begins[i + 1] ?? run.to }));
}

/** A run's first picture: the one its first step comes from, or the next, by which its own two fields differ as much as theirs. */
function beginOf({ from }: Run, meter: FieldMeter): number {
  if (from === 0) return 0;
  const own = (k: number): number => meter.own(k);
  const mean = (first: number, end: number): number => {
    let sum = 0;
    for (let k = max(0, first); k < min(meter.length, end); k++) sum += own(k);
    return sum / max(1, min(meter.length, end) - max(0, first));
  };
  const [before, after] = [mean(from - BESIDE, from), mean(from + 1, from + 1 + BESIDE)];
  return abs(own(from) - after) < abs(own(from) - before) ? from : from + 1;
}

/** Explains all steps by the cheapest row of states (Viterbi, IEEE Trans. Information Theory 1967). */
function cheapest(leaning: Leanings): Run[] {
  const { length } = leaning.lean;
  const places = STATES.flatMap(({ cycle }, state) => cycle.map((_, phase) => ({ state, phase })));
  const startOf = STATES.map((_, state) => places.findIndex((p) => p.state === state));
  const came = new Uint8Array(length * places.length);
  let costs: number[] = places.map((p) => (p.state === 0 ? 0 : UNUSUAL));
  for (let k = 0; k < length; k++) {
    let best = 0;
    costs.forEach((c, i) => {
      if (c < (costs[best] as number)) best = i;
    });
    costs = places.map(({ state, phase }, i) => {
      const own = STATES[state] as State;
      const before = (startOf[state] as number) + ((phase + own.cycle.length - 1) % own.cycle.length);
      const switched = (costs[best] as number) + (places[best]?.state === state ? BREAK : SWITCH);
      const from = k > 0 && switched < (costs[before] as number) ? best : before;
      came[k * places.length + i] = from;
      return (k === 0 ? (costs[i] as number) : min(switched, costs[before] as number)) + stepCost(leaning, k, own, phase);
    });
  }
  const runs: Run[] = [];
  let at = costs.reduce((best, c, i) => (c < (costs[best] as number) ? i : best), 0);
  let to = length;
  for (let k = length - 1; k >= 0; k--) {
    const { state, phase } = places[at] as (typeof places)[number];
    const { cycle } = STATES[state] as State;
    const before = came[k * places.length + at] as number;
    const goesOn = before === (startOf[state] as number) + ((phase + cycle.length - 1) % cycle.length);
    if (k === 0 || !goesOn) {
      runs.unshift({ from: k, to, state, offset: (phase + cycle.length * k - k) % cycle.length });
      to = k;
    }
    at = before;
  }
  return runs;
}

/** Woven pictures are believed from this certainty on: most are not. */
const BELIEVED = 0.98;
/** Fewer beats of pulldown than this are chance. */
const LEAST_BEATS = 5;

/** A run of pulldown that is not clearly one is what fits best of the others; and what is not clearly woven is not. */
function surely(run: Run, leaning: Leanings): Run {
  const { kind } = STATES[run.state] as State;
  const long = kind !== 'pulldown' || run.to - run.from >= LEAST_BEATS * CADENCE.length;
  if (kind === 'none' || (long && certaintyOf(run, leaning) >= BELIEVED)) return run;
  const price = (state: number): number => priceOf(state, run, leaning);
  const best = PLAIN.reduce((a, b) => (price(b) < price(a) ? b : a));
  return { ...run, offset: 0, state: certain(price(0) - price(best)) >= BELIEVED ? best : 0 };
}

/** From how much cheaper one explanation is than the next best, softened: each step is worth less than it says. */
const certain = (cheaper: number): number => min(0.999, 1 / (1 + exp(-cheaper / 3)));

/** Runs of one state that touch as one, but for beats: there each is one of its own. */
function joined(runs: readonly Run[]): Run[] {
  return runs.reduce<Run[]>((found, run) => {
    const last = found.at(-1);
    if (last && last.state === run.state && STATES[run.state]?.kind !== 'pulldown')
      found[found.length - 1] = { ...last, to: run.to };
    else found.push(run);
    return found;
  }, []);
}

function priceOf(state: number, { from, to }: Run, leaning: Leanings): number {
  const own = STATES[state] as State;
  const phases = own.cycle.map((_, phase) => {
    let sum = state === 0 ? 0 : UNUSUAL;
    for (let k = from; k < to; k++) sum += stepCost(leaning, k, own, (phase + k - from) % own.cycle.length);
    return sum;
  });
  return min(...phases);
}

/**
 * Whole pictures lean to no side on the whole; what leans by the first of these or more may be fine lines that rise, or fields that a coder has
 * nearly made one, and from the second on there is no telling.
 */
const LEANS = { least: 0.15, full: 0.35 } as const;

/**
 * In film some fields come again: where hardly one is seen to (by their weights, in the mean of the steps in which one should), jumps of a thing that moves
 * now and then may fit the beat by chance.
 */
const COMES_AGAIN = { least: 0.1, full: 0.4 } as const;

/** How certain a run can be at most of its kind. */
function mostOf(run: Run, leaning: Leanings): number {
  const { kind, again } = STATES[run.state] as State;
  if (kind === 'interlaced') return 1;
  if (kind === 'none') return 1 - (1 - UNKNOWN) * ramp(abs(meanLean(run, leaning)), LEANS);
  let [sum, n] = [0, 0];
  for (let k = run.from; k < run.to; k++) {
    if (again[(k + run.offset) % again.length] === 0) continue;
    sum += leaning.againWeight[k] as number;
    n++;
  }
  return UNKNOWN + (1 - UNKNOWN) * ramp(sum / max(1, n), COMES_AGAIN);
}

/** How much better a run is explained by its own kind than by the next best. */
function certaintyOf(run: Run, leaning: Leanings): number {
  if (!says(run, leaning)) return UNKNOWN;
  const prices = STATES.map((_, i) => priceOf(i, run, leaning));
  const own = prices[run.state] as number;
  const rival = min(...prices.filter((_, i) => i !== run.state));
  return min(mostOf(run, leaning), certain(rival - own));
}

function meanLean({ from, to }: Run, { lean, weight }: Leanings): number {
  let [sum, weights] = [0, 0];
  for (let k = from; k < to; k++) {
    sum += (lean[k] as number) * (weight[k] as number);
    weights += weight[k] as number;
  }
  return weights > 0 ? sum / weights : 0;
}
