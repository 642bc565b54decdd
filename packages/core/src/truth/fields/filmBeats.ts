import { beatFields, FILM_BEATS, type FieldOrder, type FieldRun, type FilmBeat, groupLengths } from '../../fields/index.js';
import type { FieldMeter } from './fieldMeter.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** A run of film, as a reading of fields has it. */
export type FilmRun = Extract<FieldRun, { way: 'film' }>;

/** By which beat the film in some stored frames is spread; null where there is none. */
export function beatIn(film: readonly FilmRun[], { from, to }: { readonly from: number; readonly to: number }): FilmBeat | null {
  return film.find((run) => run.from >= from && run.from < to)?.beat ?? null;
}

/** Fields on each side over which what is usual is measured. */
const NEAR = 7;
/** A field that comes again differs from itself by less than this share of what fields a frame apart usually differ by. */
const SAME = 0.3;
/** Of two neighbours of one moment, against the middle of neighbours near by. */
const ONE_MOMENT = 0.75;
/** What differs by less than this, in squared 8-bit steps, says nothing: coders leave it out. */
const LEAST = 0.4;
/** What a break in the beat has to save before it is believed. */
const BREAK = 7;
/** Sums of costs that differ by less are the same. */
const AS_WELL = 1e-6;
/** What a single field may say at most. */
const MOST = 3;

/** How much fields differ, by number: field 2n is the first of stored frame n. */
interface Differences {
  /** Field f and f + 1, which have other lines. */
  readonly next: Float64Array;
  /** Field f and f + 2, which have the same lines. */
  readonly afterNext: Float64Array;
}

function differences(meter: FieldMeter, first: FieldOrder): Differences {
  const frames = meter.length;
  const next = new Float64Array(max(0, 2 * frames - 1));
  const afterNext = new Float64Array(max(0, 2 * frames - 2));
  for (let k = 0; k < frames; k++) {
    next[2 * k] = meter.own(k);
    if (k + 1 >= frames) continue;
    const { lowerToUpper, upperToLower, upper, lower } = meter.at(k);
    next[2 * k + 1] = first === 'top' ? lowerToUpper : upperToLower;
    afterNext[2 * k] = first === 'top' ? upper : lower;
    afterNext[2 * k + 1] = first === 'top' ? lower : upper;
  }
  return { next, afterNext };
}

/** Of each place, the middle of what is near by. */
function usual(values: Float64Array): Float64Array {
  const near = new Float64Array(2 * NEAR + 1);
  return Float64Array.from(values, (_, f) => {
    const [from, to] = [max(0, f - NEAR), min(values.length, f + NEAR + 1)];
    const some = near.subarray(0, to - from);
    some.set(values.subarray(from, to));
    some.sort();
    return some[some.length >> 1] as number;
  });
}

/** What each field says against each of the things that may be expected of it: costs, 0 to MOST. */
interface Costs {
  /** Of its neighbour: the same moment, or another. */
  readonly together: Float32Array;
  readonly apart: Float32Array;
  /** Of the field after its neighbour: the same moment, or another. */
  readonly again: Float32Array;
  readonly anew: Float32Array;
}

function costsOf({ next, afterNext }: Differences): Costs {
  const [usualNext, usualAfter] = [usual(next), usual(afterNext)];
  const row = (values: Float64Array, cost: (f: number) => number): Float32Array =>
    Float32Array.from(values, (_, f) => min(MOST, max(0, cost(f))));
  // Where hardly anything moves nothing is said.
  const weight = (f: number): number => {
    const moves = usualAfter[min(f, usualAfter.length - 1)] ?? 0;
    return moves / (moves + LEAST);
  };
  const ratio = (values: Float64Array, middle: Float64Array, f: number): number =>
    (values[f] as number) / max(LEAST, middle[f] as number);
  return {
    together: row(next, (f) => weight(f) * 2.5 * (ratio(next, usualNext, f) - ONE_MOMENT)),
    apart: row(next, (f) => weight(f) * 2 * (ONE_MOMENT - ratio(next, usualNext, f))),
    again: row(afterNext, (f) => weight(f) * 6 * (ratio(afterNext, usualAfter, f) - SAME)),
    anew: row(afterNext, (f) => weight(f) * 8 * (SAME - ratio(afterNext, usualAfter, f))),
  };
}

/** At each place of a beat: whether its field is of one moment with the next, and with the one after that. */
function expected(beat: FilmBeat): { readonly together: boolean[]; readonly again: boolean[] } {
  const together: boolean[] = [];
  const again: boolean[] = [];
  for (const length of groupLengths(beat))
    for (let i = 0; i < length; i++) {
      together.push(i + 1 < length);
      again.push(i + 2 < length);
    }
  return { together, again };
}

export interface FilmBeats {
  readonly beat: FilmBeat;
  readonly runs: readonly FilmRun[];
  /** How much cheaper these beats explain what fields say than that each is of a moment of its own does. */
  readonly better: number;
  /** What fields of one moment differ by, as a share of what others do: what moves up or down makes every other pair nearer, but not near. */
  readonly nearness: number;
}

interface Asked {
  readonly first: FieldOrder;
  /** Stored frames, `to` not included. */
  readonly from: number;
  readonly to: number;
  readonly beats?: readonly FilmBeat[];
}

/**
 * The beats of film that explain best which fields of a stretch are of one moment (Viterbi, IEEE Trans. Information Theory 1967, over the places of a
 * beat; breaks lie between stored frames, where edits are made).
 */
export function filmBeats(meter: FieldMeter, { first, from, to, beats = FILM_BEATS }: Asked): FilmBeats {
  const apart = differences(meter, first);
  const costs = costsOf(apart);
  const fields = { from: 2 * from, to: 2 * to };
  let separate = 0;
  for (let f = fields.from; f < fields.to; f++) separate += (costs.apart[f] ?? 0) + (costs.anew[f] ?? 0);
  const found = beats.map((beat) => ({ beat, ...cheapest(costs, beat, fields) }));
  const best = found.reduce((a, b) => (b.cost < a.cost ? b : a));
  const runs = best.runs.map((run): FilmRun => ({ ...run, way: 'film', first, beat: best.beat }));
  return { beat: best.beat, runs, better: separate - best.cost, nearness: nearnessOf(apart, runs) };
}

function nearnessOf({ next }: Differences, runs: readonly FilmRun[]): number {
  const sums = { near: 0, far: 0, nears: 0, fars: 0 };
  for (const { from, to, beat, passed } of runs) {
    const { together } = expected(beat);
    for (let f = 2 * from; f + 1 < 2 * to; f++) {
      const isNear = together[(f - 2 * from + passed) % together.length] === true;
      sums[isNear ? 'near' : 'far'] += next[f] as number;
      sums[isNear ? 'nears' : 'fars']++;
    }
  }
  const [near, far] = [sums.near / max(1, sums.nears), sums.far / max(1, sums.fars)];
  return far > 0 ? near / far : 1;
}

/** Frames on each side of where film seems to end, or to begin, in which it may. */
const EDGE = 4;
/** How much better another frame has to explain what is around it. */
const CLEARLY = 0.5;

/**
 * Where film goes over into fields of moments of their own, exactly: between which frames the beat explains what is before it, and that of each field
 * what is after it.
 * @param at the frame at which it seems to; film lies before it where `ends`, else from it on
 */
export function filmEdge(
  meter: FieldMeter,
  film: FilmRun,
  { at, ends, least, most }: { readonly at: number; readonly ends: boolean; readonly least: number; readonly most: number },
): number {
  const costs = costsOf(differences(meter, film.first));
  const { together, again } = expected(film.beat);
  const places = beatFields(film.beat);
  const placeOf = (f: number): number => (((f - 2 * film.from + film.passed) % places) + places) % places;
  const [low, high] = [max(least, at - EDGE), min(most, at + EDGE)];
  const price = (edge: number): number => {
    let sum = 0;
    for (let f = 2 * low; f < 2 * high; f++) {
      const isFilm = ends ? f < 2 * edge : f >= 2 * edge;
      const border = ends ? 2 * edge : isFilm ? 2 * high : 2 * edge;
      const p = placeOf(f);
      // Across the edge nothing is foretold.
      if (f + 1 < border || f >= border) sum += (isFilm && together[p] ? costs.together[f] : costs.apart[f]) ?? 0;
      if (f + 2 < border || f >= border) sum += (isFilm && again[p] ? costs.again[f] : costs.anew[f]) ?? 0;
    }
    return sum;
  };
  let best = at;
  for (let edge = low; edge <= high; edge++) if (price(edge) < price(best) - CLEARLY) best = edge;
  return best;
}

function cheapest(costs: Costs, beat: FilmBeat, { from, to }: { readonly from: number; readonly to: number }) {
  const places = beatFields(beat);
  const { together, again } = expected(beat);
  const length = to - from;
  const came = new Uint8Array(length * places);
  let prices = new Float64Array(places);
  // What follows the last field is not of this stretch.
  const nearAt = (f: number, p: number): number => (f + 1 < to ? ((together[p] ? costs.together[f] : costs.apart[f]) ?? 0) : 0);
  const farAt = (f: number, p: number): number => (f + 2 < to ? ((again[p] ? costs.again[f] : costs.anew[f]) ?? 0) : 0);
  for (let i = 0; i < length; i++) {
    const f = from + i;
    // Across a break nothing was foretold: what that cost before it is given back.
    const ended = (p: number): number => {
      const across = nearAt(f - 1, p) + farAt(f - 1, p) + (i > 1 ? farAt(f - 2, (p + places - 1) % places) : 0);
      return (prices[p] as number) - across;
    };
    const mayBreak = i > 0 && f % 2 === 0;
    let best = 0;
    if (mayBreak) for (let p = 1; p < places; p++) if (ended(p) < ended(best)) best = p;
    const afterBreak = mayBreak ? ended(best) + BREAK : Number.POSITIVE_INFINITY;
    const now = new Float64Array(places);
    for (let p = 0; p < places; p++) {
      const before = (p + places - 1) % places;
      // Of places that explain as much the last one is the break: what fits both runs is of the earlier.
      const broken = afterBreak <= (prices[before] as number) + AS_WELL;
      came[i * places + p] = broken ? best : before;
      now[p] = (i === 0 ? 0 : broken ? afterBreak : (prices[before] as number)) + nearAt(f, p) + farAt(f, p);
    }
    prices = now;
  }
  let at = 0;
  for (let p = 1; p < places; p++) if ((prices[p] as number) < (prices[at] as number)) at = p;
  const cost = prices[at] as number;
  const runs: { from: number; to: number; passed: number }[] = [];
  let end = to;
  for (let i = length - 1; i >= 0; i--) {
    const before = came[i * places + at] as number;
    if (i === 0 || before !== (at + places - 1) % places) {
      runs.unshift({ from: (from + i) >> 1, to: end >> 1, passed: at });
      end = from + i;
    }
    at = before;
  }
  return { cost, runs };
}
