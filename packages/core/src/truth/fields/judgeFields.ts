import type { FieldMeter, FieldStep } from './fieldMeter.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, exp, max, min } = Math;

/** What the two fields of pictures show. none: one moment. pulldown: 2:3 by fields, four pictures in five. interlaced: each its own moment. */
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
}

interface State {
  readonly kind: FieldKind;
  readonly first: 'top' | 'bottom' | null;
  /** What each step of its cycle is expected to lean by; see leanings. */
  readonly cycle: readonly number[];
}

/** AA BB BC CD DD: from AA to BB both distances are one picture; then the field that comes later is the next one's neighbour. */
const CADENCE = [0, 1, 1, 1, 0] as const;
const STATES: readonly State[] = [
  { kind: 'none', first: null, cycle: [0] },
  { kind: 'interlaced', first: 'top', cycle: [1] },
  { kind: 'interlaced', first: 'bottom', cycle: [-1] },
  { kind: 'pulldown', first: 'top', cycle: CADENCE },
  { kind: 'pulldown', first: 'bottom', cycle: CADENCE.map((c) => -c) },
];

/** States without a beat. */
const PLAIN: readonly number[] = [0, 1, 2];

/** Steps on each side over which motion is measured. */
const NEAR = 3;
/**
 * Motion adds up from picture to picture, noise does not: below the first of these shares of the distance of two fields it says nothing, from
 * the second on all. Nor does motion of less than MOTION, in squared 8-bit steps.
 */
const ADDS = { least: 0.1, full: 0.4 } as const;
const MOTION = 0.02;
/** Standard deviation of a leaning around what is expected, and the most that one step may cost. */
const SPREAD = 0.22;
const MOST = 5;
/** What a change of kind, and a break in a beat, have to save before they are believed. */
const SWITCH = 20;
const BREAK = 9;
/** What anything but one moment a picture costs from the start. */
const UNUSUAL = 10;

/**
 * How far each step leans to one order of fields: 1 where the upper field comes half a picture before the lower one, -1 the other way round,
 * 0 where both are of one moment; and how much that counts, 0 (nothing moves) to 1.
 */
export function leanings(meter: FieldMeter): { readonly lean: Float32Array; readonly weight: Float32Array } {
  const length = max(0, meter.length - 1);
  const [lean, weight] = [new Float32Array(length), new Float32Array(length)];
  const steps = Array.from({ length }, (_, k) => meter.at(k));
  // A moment's distance is a square: of two steps it is four times that of one, of one and a half nine times that of a half.
  const moved = steps.map(({ twice, upper, lower }, k) => (k === 0 ? Number.NaN : (twice - (upper + lower) / 2) / 3));
  for (let k = 0; k < length; k++) {
    const { own, lowerToUpper, upperToLower, upper, lower } = steps[k] as FieldStep;
    const near = moved.slice(max(1, k - NEAR), k + NEAR + 1).filter((m) => !Number.isNaN(m));
    const motion = near.reduce((sum, m) => sum + m, 0) / max(1, near.length);
    const least = min(own, meter.at(k + 1).own, lowerToUpper, upperToLower, upper, lower);
    const range = max(lowerToUpper, upperToLower, upper, lower) - least;
    const foreseen = min(range, max(2 * motion, (upper + lower) / 4));
    lean[k] = foreseen > 0 ? max(-1, min(1, (upperToLower - lowerToUpper) / foreseen)) : 0;
    const adds = motion / max(1e-6, (upper + lower) / 2);
    weight[k] = motion < MOTION ? 0 : max(0, min(1, (adds - ADDS.least) / (ADDS.full - ADDS.least)));
  }
  return { lean, weight };
}

const costAt = (lean: number, weight: number, expected: number): number =>
  weight * min(MOST, 0.5 * (abs(lean - expected) / SPREAD) ** 2);

/** From here on a flag that says otherwise is wrong. */
const PROVED = 0.9;

function flagOf(said: SaidFields, { kind, first, certainty }: Omit<FieldStretch, 'flag'>): Flag {
  if (said === null) return 'absent';
  const right = said === (kind === 'none' ? 'progressive' : first);
  return right || certainty < PROVED ? 'right' : 'wrong';
}

/**
 * Judges the fields of a clip by which of them are nearest to each other.
 * @param said what the file says: it is held against what was found, and has no say in it
 */
export function judgeFields(meter: FieldMeter, said: SaidFields): FieldFinding {
  const { lean, weight } = leanings(meter);
  const runs = joined(joined(spoken(cheapest(lean, weight), weight)).map((run) => surely(run, lean, weight)));
  const found: Omit<FieldStretch, 'flag'>[] = [];
  const breaks: number[] = [];
  for (const run of runs) {
    const { kind, first } = STATES[run.state] as State;
    const [from, to] = [beginOf(run, meter), run.to + 1];
    const certainty = certaintyOf(run, lean, weight);
    const last = found.at(-1);
    if (last) found[found.length - 1] = { ...last, to: from };
    if (last && last.kind === kind && last.first === first) {
      breaks.push(from);
      found[found.length - 1] = { ...last, to, certainty: min(last.certainty, certainty) };
    } else found.push({ from, to, kind, first, certainty });
  }
  if (found.length === 0) found.push({ from: 0, to: meter.length, kind: 'none', first: null, certainty: UNKNOWN });
  const stretches = found.map((s): FieldStretch => ({ ...s, flag: flagOf(said, s) }));
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
    breaks,
  };
}

interface Run {
  readonly from: number;
  readonly to: number;
  readonly state: number;
}

/** How certain anything is where nothing moves. */
const UNKNOWN = 0.5;
/** Where a run's steps weigh less than this together, it says nothing of its own. */
const LEAST_SAID = 2.5;

function says({ from, to }: Run, weight: Float32Array): boolean {
  return weight.subarray(from, to).reduce((sum, w) => sum + w, 0) >= LEAST_SAID;
}

/** Runs of which something is known; what says nothing goes with what is beside it. */
function spoken(runs: readonly Run[], weight: Float32Array): Run[] {
  const told = runs.filter((run) => says(run, weight));
  if (told.length === 0) return [...runs.slice(0, 1).map((run) => ({ ...run, to: weight.length, state: 0 }))];
  return told.map((run, i) => ({
    ...run,
    from: i === 0 ? 0 : run.from,
    to: told[i + 1]?.from ?? weight.length,
  }));
}

/** Pictures on each side that say whether one belongs to what comes before or after it. */
const BESIDE = 5;

/** Of a picture whose fields differ by less than this share of what those of its stretch do, both are of one moment. */
const ONE_MOMENT = 0.35;

/** A run's first picture: the one its first step comes from, or the next, by which its own two fields differ as much as theirs. */
function beginOf({ from, state }: Run, meter: FieldMeter): number {
  if (from === 0) return 0;
  const own = (k: number): number => meter.at(k).own;
  const mean = (first: number, end: number): number => {
    let sum = 0;
    for (let k = max(0, first); k < min(meter.length, end); k++) sum += own(k);
    return sum / max(1, min(meter.length, end) - max(0, first));
  };
  const [before, after] = [mean(from - BESIDE, from), mean(from + 1, from + 1 + BESIDE)];
  // A beat of pulldown leans as interlaced pictures do for three steps, and ends in one whose fields are of one moment.
  if (STATES[state]?.kind === 'interlaced') {
    const usual = mean(from + BESIDE, from + 3 * BESIDE);
    for (let k = from + BESIDE - 1; k >= from; k--) if (own(k) < ONE_MOMENT * usual) return k + 1;
  }
  return abs(own(from) - after) < abs(own(from) - before) ? from : from + 1;
}

/** Explains all steps by the cheapest row of states (Viterbi, IEEE Trans. Information Theory 1967). */
function cheapest(lean: Float32Array, weight: Float32Array): Run[] {
  const { length } = lean;
  const places = STATES.flatMap(({ cycle }, state) => cycle.map((expected, phase) => ({ state, phase, expected })));
  const startOf = STATES.map((_, state) => places.findIndex((p) => p.state === state));
  const came = Array.from({ length }, () => new Uint8Array(places.length));
  let costs: number[] = places.map((p) => (p.state === 0 ? 0 : UNUSUAL));
  for (let k = 0; k < length; k++) {
    let best = 0;
    costs.forEach((c, i) => {
      if (c < (costs[best] as number)) best = i;
    });
    costs = places.map(({ state, phase, expected }, i) => {
      const { cycle } = STATES[state] as State;
      const before = (startOf[state] as number) + ((phase + cycle.length - 1) % cycle.length);
      const switched = (costs[best] as number) + (places[best]?.state === state ? BREAK : SWITCH);
      const from = k > 0 && switched < (costs[before] as number) ? best : before;
      (came[k] as Uint8Array)[i] = from;
      return (
        (k === 0 ? (costs[i] as number) : min(switched, costs[before] as number)) +
        costAt(lean[k] as number, weight[k] as number, expected)
      );
    });
  }
  const runs: Run[] = [];
  let at = costs.reduce((best, c, i) => (c < (costs[best] as number) ? i : best), 0);
  let to = length;
  for (let k = length - 1; k >= 0; k--) {
    const { state, phase } = places[at] as (typeof places)[number];
    const { cycle } = STATES[state] as State;
    const before = came[k]?.[at] as number;
    const goesOn = before === (startOf[state] as number) + ((phase + cycle.length - 1) % cycle.length);
    if (k === 0 || !goesOn) {
      runs.unshift({ from: k, to, state });
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
function surely(run: Run, lean: Float32Array, weight: Float32Array): Run {
  const { kind } = STATES[run.state] as State;
  const long = kind !== 'pulldown' || run.to - run.from >= LEAST_BEATS * CADENCE.length;
  if (kind === 'none' || (long && certaintyOf(run, lean, weight) >= BELIEVED)) return run;
  const price = (state: number): number => priceOf(state, run, lean, weight);
  const best = PLAIN.reduce((a, b) => (price(b) < price(a) ? b : a));
  return { ...run, state: certain(price(0) - price(best)) >= BELIEVED ? best : 0 };
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

function priceOf(state: number, { from, to }: Run, lean: Float32Array, weight: Float32Array): number {
  const { cycle } = STATES[state] as State;
  const phases = cycle.map((_, phase) => {
    let sum = state === 0 ? 0 : UNUSUAL;
    for (let k = from; k < to; k++)
      sum += costAt(lean[k] as number, weight[k] as number, cycle[(phase + k - from) % cycle.length] as number);
    return sum;
  });
  return min(...phases);
}

/** How much better a run is explained by its own kind than by the next best. */
function certaintyOf(run: Run, lean: Float32Array, weight: Float32Array): number {
  if (!says(run, weight)) return UNKNOWN;
  const prices = STATES.map((_, i) => priceOf(i, run, lean, weight));
  const own = prices[run.state] as number;
  const rival = min(...prices.filter((_, i) => i !== run.state));
  return certain(rival - own);
}
