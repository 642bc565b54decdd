// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, floor, max, min, round, sqrt } = Math;

/**
 * Which pictures of one sequence are shown by another: a master and its converted copy, two renders, a clip used twice. Sizes,
 * codecs and rates may differ; both are given as small luma pictures of one size.
 */

/** Small luma pictures, one after the other. */
export interface Sequence {
  readonly count: number;
  /** Samples a picture. */
  readonly samples: number;
  /** count * samples bytes. Not written to. */
  readonly data: Uint8Array;
}

export interface MixedPicture {
  /** Picture of b. */
  readonly b: number;
  /** The earlier of the two pictures of a; the other is the next. */
  readonly a: number;
  /** The later one's share, 0 to 1. */
  readonly share: number;
}

export interface Match {
  /** Pairs [a, b] of the same picture, b rising by one, a never falling. Empty when nothing matches. */
  readonly path: readonly (readonly [number, number])[];
  /** Pictures of a between the first and the last shown that b leaves out. */
  readonly droppedFromA: readonly number[];
  /** Pictures of b that show the same picture of a as the one before. */
  readonly repeatedInB: readonly number[];
  readonly blendsInB: readonly MixedPicture[];
  /** Pictures of a before the first one shown, and after the last; likewise pictures of b that show none of a. */
  readonly missing: { readonly headA: number; readonly tailA: number; readonly headB: number; readonly tailB: number };
  /** Pictures of a a picture of b moves on by, over the whole path. */
  readonly step: number;
  /** Picture of a (and fraction) that b's picture 0 shows or would show. */
  readonly start: number;
  /** 0 to 1: below 0.5 the two do not show the same. */
  readonly certainty: number;
}

/** Pictures of b that are looked for in all of a. */
const PROBES = 48;
/** Best places kept of each. */
const PLACES = 4;
/** A picture may be this many pictures off the line that the probes found. */
const REACH = 6;
/** Most pictures of a that one picture of b may leave out. */
const STEPS = 12;
/** A mix fits so much better than either of its two pictures. */
const MIX_BETTER = 0.45;

const NOTHING: Match = {
  path: [],
  droppedFromA: [],
  repeatedInB: [],
  blendsInB: [],
  missing: { headA: 0, tailA: 0, headB: 0, tailB: 0 },
  step: 0,
  start: 0,
  certainty: 0,
};

/**
 * Matches b to a. @param a, b of the same number of samples
 * @param steps pictures of a for one of b that are tried first: the rates' own ratio, 1 …
 */
export function matchSequences(a: Sequence, b: Sequence, steps: readonly number[] = [1]): Match {
  if (a.count === 0 || b.count === 0) return NOTHING;
  const line = findLine(a, b, steps);
  if (!line) return NOTHING;
  // What the rates say is exact; what the probes say is only near.
  const near = steps.filter((step) => abs(step / line.step - 1) < 0.01);
  return follow(new Distances(a, b), line, [...new Set([...near, line.step])]);
}

interface Line {
  readonly step: number;
  readonly start: number;
}

/** Root mean square differences between pictures of two sequences, each picture's own mean taken out: light may differ. */
class Distances {
  private readonly meansA: Float64Array;
  private readonly meansB: Float64Array;

  constructor(
    readonly a: Sequence,
    readonly b: Sequence,
  ) {
    this.meansA = means(a);
    this.meansB = means(b);
  }

  /** Mean square difference of picture i of a and picture j of b. */
  between(i: number, j: number): number {
    const { a, b } = this;
    const n = a.samples;
    const shift = (this.meansA[i] as number) - (this.meansB[j] as number);
    let sum = 0;
    for (let k = 0, p = i * n, q = j * n; k < n; k++, p++, q++) {
      const d = (a.data[p] as number) - (b.data[q] as number) - shift;
      sum += d * d;
    }
    return sum / n;
  }

  /** Share of picture i + 1 of a in the best mix of i and i + 1 for picture j of b, and the mean square that is left. */
  mix(i: number, j: number): { share: number; left: number } {
    const { a, b, meansA, meansB } = this;
    const n = a.samples;
    const [m0, m1, mb] = [meansA[i] as number, meansA[i + 1] as number, meansB[j] as number];
    let cross = 0;
    let span = 0;
    let own = 0;
    for (let k = 0, p = i * n, q = j * n; k < n; k++, p++, q++) {
      const first = (a.data[p] as number) - m0;
      const e = (a.data[p + n] as number) - m1 - first;
      const d = (b.data[q] as number) - mb - first;
      cross += d * e;
      span += e * e;
      own += d * d;
    }
    if (span === 0) return { share: 0, left: own / n };
    const share = min(1, max(0, cross / span));
    return { share, left: max(0, own - 2 * share * cross + share * share * span) / n };
  }
}

function means({ count, samples, data }: Sequence): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => {
    let sum = 0;
    for (let k = i * samples, end = k + samples; k < end; k++) sum += data[k] as number;
    return sum / samples;
  });
}

/** The line a = start + step * b that most probes lie on. */
function findLine(a: Sequence, b: Sequence, steps: readonly number[]): Line | null {
  const distances = new Distances(a, b);
  const probes = Array.from({ length: min(PROBES, b.count) }, (_, i) => floor(((i + 0.5) * b.count) / min(PROBES, b.count)));
  const places = probes.map((j) => bestPlaces(distances, j));
  const typical = median(places.map((found) => found[0]?.distance ?? 0));
  const votes = (line: Line): number =>
    probes.reduce((sum, j, p) => {
      const near = places[p]?.find(
        (place) => abs(place.at - line.start - line.step * j) <= 2.5 && place.distance <= typical * 4 + 4,
      );
      return sum + (near ? 1 : 0);
    }, 0);
  const lines: Line[] = [];
  for (let p = 0; p < probes.length; p++) {
    for (const { at } of places[p] ?? []) {
      for (const step of steps) lines.push({ step, start: at - step * (probes[p] as number) });
      for (const q of [p + (probes.length >> 2), p + (probes.length >> 1)]) {
        for (const other of places[q] ?? []) {
          const step = (other.at - at) / ((probes[q] as number) - (probes[p] as number));
          if (step > 0.05 && step < 20) lines.push({ step, start: at - step * (probes[p] as number) });
        }
      }
    }
  }
  let best: Line | null = null;
  let most = max(2, probes.length * 0.12);
  for (const line of lines) {
    const sum = votes(line);
    if (sum > most) {
      most = sum;
      best = line;
    }
  }
  return best ?? (probes.length <= 4 ? (lines[0] ?? null) : null);
}

function bestPlaces(distances: Distances, j: number): { at: number; distance: number }[] {
  const { count } = distances.a;
  const found: { at: number; distance: number }[] = [];
  let before = Number.POSITIVE_INFINITY;
  let here = distances.between(0, j);
  for (let i = 0; i < count; i++) {
    const after = i + 1 < count ? distances.between(i + 1, j) : Number.POSITIVE_INFINITY;
    if (here <= before && here < after) found.push({ at: i, distance: here });
    before = here;
    here = after;
  }
  return found.sort((x, y) => x.distance - y.distance).slice(0, PLACES);
}

/** Follows the line picture by picture (Viterbi): where two pictures of a hardly differ, the even step decides. */
function follow(distances: Distances, line: Line, steps: readonly number[]): Match {
  const { a, b } = distances;
  const first = max(0, ceil((-line.start - REACH) / line.step));
  const last = min(b.count - 1, floor((a.count - 1 + REACH - line.start) / line.step));
  if (last < first) return NOTHING;
  const width = 2 * REACH + 1;
  const length = last - first + 1;
  const base = (n: number): number => round(line.start + line.step * (first + n)) - REACH;
  const square = new Float64Array(length * width).fill(Number.POSITIVE_INFINITY);
  const least = new Float64Array(length).fill(Number.POSITIVE_INFINITY);
  for (let n = 0; n < length; n++) {
    for (let w = 0; w < width; w++) {
      const i = base(n) + w;
      if (i < 0 || i >= a.count) continue;
      const d = distances.between(i, first + n);
      square[n * width + w] = d;
      if (d < (least[n] as number)) least[n] = d;
    }
  }
  // Where most are mixes, only the real ones among them show what coding alone leaves.
  const noise = max(0.05, quantile(Array.from(least).filter(Number.isFinite), 0.15));
  const [low, high] = [floor(line.step + 1e-6), ceil(line.step - 1e-6)];
  const price = (moved: number): number =>
    moved >= low && moved <= high ? 0 : moved < 0 ? 40 : 1.5 + abs(moved - line.step) * 0.5;
  let costs = new Float64Array(width);
  const from = new Int8Array(length * width);
  for (let n = 0; n < length; n++) {
    const next = new Float64Array(width).fill(Number.POSITIVE_INFINITY);
    for (let w = 0; w < width; w++) {
      const d = square[n * width + w] as number;
      if (!Number.isFinite(d)) continue;
      // A picture that fits much worse than the best is out; beyond that it is the noise that differs.
      const own = min(60, ((d - (least[n] as number)) / noise) * 6);
      if (n === 0) {
        next[w] = own;
        continue;
      }
      for (let v = 0; v < width; v++) {
        const moved = base(n) + w - base(n - 1) - v;
        if (moved < -1 || moved > STEPS + high) continue;
        const sum = (costs[v] as number) + price(moved) + own;
        if (sum < (next[w] as number)) {
          next[w] = sum;
          from[n * width + w] = v;
        }
      }
    }
    if (next.every((c) => !Number.isFinite(c))) next.set(costs);
    costs = next;
  }
  const chosen = new Int32Array(length);
  let w = costs.indexOf(min(...costs));
  for (let n = length - 1; n >= 0; n--) {
    chosen[n] = base(n) + w;
    w = from[n * width + w] as number;
  }
  const excess = (n: number, i: number): number => {
    const w = i - base(n);
    const d = w >= 0 && w < width ? (square[n * width + w] as number) : Number.POSITIVE_INFINITY;
    return ((d - (least[n] as number)) / noise) * 6;
  };
  return described(distances, evened(chosen, steps, excess), first, noise);
}

/** Phases of an even step that are tried. */
const PHASES = 64;
/** Where the even step fits no worse than this (in units of the noise), it is believed; a picture that differs more was really left out or shown again. */
const BELIEVED = 4;
/** An even step explains a conversion when so many of its pictures agree with what was seen. */
const AGREES = 0.85;

/**
 * A conversion steps evenly: picture n shows floor(phase + n * step). Where neighbouring pictures hardly differ, what was
 * seen cannot tell them apart and the even step does; where it contradicts what was seen, that counts.
 * @param steps tried in this order
 * @param excess how much worse than the best picture i fits the n-th
 */
function evened(chosen: Int32Array, steps: readonly number[], excess: (n: number, i: number) => number): Int32Array {
  let best: { step: number; phase: number; cost: number; wide: number } | null = null;
  for (const step of steps) {
    for (let p = 0; p < PHASES; p++) {
      const phase = (chosen[0] as number) + (p - PHASES / 2) / (PHASES / 2);
      let cost = 0;
      for (let n = 0; n < chosen.length; n++) cost += min(20, excess(n, floor(phase + n * step)));
      // The middle of the phases that fit alike.
      if (!best || cost < best.cost - 1e-9) best = { step, phase, cost, wide: 1 };
      else if (cost <= best.cost + 1e-9 && step === best.step)
        best = { step, phase: best.phase, cost: best.cost, wide: best.wide + 1 };
    }
  }
  if (!best) return chosen;
  const phase = best.phase + (best.wide - 1) / PHASES;
  const { step } = best;
  const model = chosen.map((_, n) => floor(phase + n * step));
  let agree = 0;
  model.forEach((i, n) => {
    if (excess(n, i) <= BELIEVED) agree++;
  });
  if (agree < chosen.length * AGREES) return chosen;
  return chosen.map((i, n) => (excess(n, model[n] as number) <= BELIEVED ? (model[n] as number) : i));
}

function described(distances: Distances, chosen: Int32Array, first: number, noise: number): Match {
  const { a, b } = distances;
  const fits = Float64Array.from(chosen, (i, n) =>
    i >= 0 && i < a.count ? distances.between(i, first + n) : Number.POSITIVE_INFINITY,
  );
  const blends: MixedPicture[] = [];
  chosen.forEach((i, n) => {
    for (const start of [i - 1, i]) {
      if (start < 0 || start + 1 >= a.count) continue;
      const { share, left } = distances.mix(start, first + n);
      if (
        share > 0.1 &&
        share < 0.9 &&
        left < (fits[n] as number) * MIX_BETTER &&
        left < noise * 3 &&
        (fits[n] as number) > noise * 1.5
      ) {
        fits[n] = left;
        blends.push({ b: first + n, a: start, share: round(share * 100) / 100 });
        return;
      }
    }
  });
  // Pictures at the ends that fit far worse than the others show something else.
  const bad = max(noise * 12, 6);
  let from = 0;
  let to = chosen.length;
  while (from < to && (fits[from] as number) > bad) from++;
  while (to > from && (fits[to - 1] as number) > bad) to--;
  if (to - from < 1) return NOTHING;
  const path: [number, number][] = [];
  const repeated: number[] = [];
  const dropped: number[] = [];
  const mixed = new Map(blends.map((m) => [m.b, m]));
  for (let n = from; n < to; n++) {
    const i = chosen[n] as number;
    path.push([i, first + n]);
    if (n === from) continue;
    const before = chosen[n - 1] as number;
    if (i === before && !mixed.has(first + n) && !mixed.has(first + n - 1)) repeated.push(first + n);
    for (let gap = before + 1; gap < i; gap++) dropped.push(gap);
  }
  const used = new Set(blends.flatMap((m) => [m.a, m.a + 1]));
  const { step, start } = fitted(path);
  const firstA = (path[0] as [number, number])[0];
  const lastA = (path.at(-1) as [number, number])[0];
  return {
    path,
    droppedFromA: dropped.filter((i) => !used.has(i)),
    repeatedInB: repeated,
    blendsInB: blends.filter((m) => m.b >= first + from && m.b < first + to),
    missing: { headA: firstA, tailA: a.count - 1 - lastA, headB: first + from, tailB: b.count - (first + to) },
    step,
    start,
    certainty: certaintyOf(distances, path, fits.subarray(from, to)),
  };
}

/** Least squares through the pairs; half a picture is added because a step map rounds down. */
function fitted(path: readonly (readonly [number, number])[]): Line {
  const n = path.length;
  const meanA = path.reduce((sum, [i]) => sum + i, 0) / n;
  const meanB = path.reduce((sum, [, j]) => sum + j, 0) / n;
  let [cross, square] = [0, 0];
  for (const [i, j] of path) {
    cross += (i - meanA) * (j - meanB);
    square += (j - meanB) ** 2;
  }
  const step = square > 0 ? cross / square : 1;
  return { step, start: meanA - step * meanB };
}

/** How much better the pairs fit than pictures from elsewhere would. */
function certaintyOf(distances: Distances, path: readonly (readonly [number, number])[], fits: Float64Array): number {
  const { a, b } = distances;
  const others: number[] = [];
  for (let p = 0; p < path.length; p += max(1, floor(path.length / 60))) {
    const [i, j] = path[p] as [number, number];
    others.push(distances.between((i + (a.count >> 1)) % a.count, j));
  }
  const other = sqrt(median(others));
  const own = sqrt(median(Array.from(fits)));
  const better = other > 0 ? 1 - min(1, own / other) : 0;
  const covered = min(1, path.length / min(b.count, 12));
  return round(max(0, min(0.999, better * 1.25)) * covered * 1000) / 1000;
}

function median(values: readonly number[]): number {
  return quantile(values, 0.5);
}

function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((x, y) => x - y);
  return sorted[floor((sorted.length - 1) * share)] ?? 0;
}
