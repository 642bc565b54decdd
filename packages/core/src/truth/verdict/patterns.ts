// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { ceil, log, max, min } = Math;

/**
 * Regular patterns of new and held pictures, and the cheapest way to explain a clip as a row of them.
 *
 * Each pattern is a cycle; a state is a place in a cycle. The row is found by dynamic programming (Viterbi, IEEE Trans.
 * Information Theory 1967) over the evidence of all pictures, so a picture is called held for what the whole stretch
 * shows, not for itself alone.
 */

export interface Pattern {
  /** "new", "every-3", "one-in-25", "2:3", "still". */
  readonly name: string;
  /** One entry a picture of the cycle: true where it holds. */
  readonly cycle: readonly boolean[];
  /** New pictures for each stored one. */
  readonly newShare: number;
}

const cycleOf = (text: string): boolean[] => [...text].map((c) => c === 'h');

function pattern(name: string, text: string): Pattern {
  const cycle = cycleOf(text);
  return { name, cycle, newShare: cycle.filter((held) => !held).length / cycle.length };
}

/** All patterns that are distinguished. */
export const PATTERNS: readonly Pattern[] = [
  pattern('new', 'n'),
  { name: 'still', cycle: [true], newShare: 0 },
  ...[2, 3, 4, 5, 6, 7, 8, 9, 10, 12].map((n) => pattern(`every-${n}`, `n${'h'.repeat(n - 1)}`)),
  ...Array.from({ length: 28 }, (_, i) => i + 3).map((n) => pattern(`one-in-${n}`, `${'n'.repeat(n - 1)}h`)),
  pattern('2:3', 'nhnhh'),
  pattern('2:3:3:2', 'nhnhhnhhnh'),
];

/** A run of changes explained by one pattern. Indices are changes: change i belongs to picture i + 1. */
export interface PatternRun {
  readonly pattern: Pattern;
  /** First change. */
  readonly from: number;
  /** Last change, not included. */
  readonly to: number;
  /** Place in the cycle at `from`. */
  readonly phase: number;
}

/** Natural log of the odds that a picture follows its stretch's pattern: one in fifty is a fault. */
const FAULT_COST = log(49);
/** What a change of pattern has to save before it is believed. */
const SWITCH_COST = 16;
/** One in so many comes of conversions between rates people use: 24 in 32, 24 in 30, 25 in 30, 24 in 25. */
const CONVERTED: readonly number[] = [4, 5, 6, 25];
/** Rarer patterns need more, and most of all those that differ from all-new by a picture now and then: nearly anything has four calm moments at some beat. */
const patternCost = (p: Pattern): number =>
  p.name === 'new'
    ? 0
    : p.name === 'still'
      ? 2
      : !p.name.startsWith('one-in-')
        ? 6
        : CONVERTED.includes(p.cycle.length)
          ? 10
          : 19;

/** A beat that no conversion has is believed only where it never fails: there whatever speaks against it costs in full. */
const isStrict = (p: Pattern): boolean => p.name.startsWith('one-in-') && !CONVERTED.includes(p.cycle.length);

/** The cost that evidence e (log odds for held) puts on expecting `held`; a fault's price is its ceiling, but in strict patterns. */
export function cost(evidence: number, held: boolean, strict = false): number {
  const against = held ? -evidence : evidence;
  return min(strict ? Number.POSITIVE_INFINITY : FAULT_COST, max(0, against));
}

/**
 * Explains the evidence as a row of patterns.
 * @param evidence log odds for held, one a change
 * @param still 1 where nothing moves around the change: there "still" is free and everything else has no evidence
 */
export function explain(evidence: Float64Array, still: Uint8Array): PatternRun[] {
  const starts: number[] = [];
  let states = 0;
  for (const p of PATTERNS) {
    starts.push(states);
    states += p.cycle.length;
  }
  const owner = new Uint8Array(states);
  const heldIn = new Uint8Array(states);
  const strict = new Uint8Array(states);
  PATTERNS.forEach((p, i) => {
    for (let phase = 0; phase < p.cycle.length; phase++) {
      const state = (starts[i] as number) + phase;
      owner[state] = i;
      heldIn[state] = p.cycle[phase] ? 1 : 0;
      strict[state] = isStrict(p) ? 1 : 0;
    }
  });
  const length = evidence.length;
  let costs = new Float64Array(states);
  for (let s = 0; s < states; s++) costs[s] = patternCost(PATTERNS[owner[s] as number] as Pattern);
  /** For each change: the state to switch from, and which states did switch (a bit each). */
  const switchedFrom = new Int32Array(length);
  const bits = ceil(states / 8);
  const switched = new Uint8Array(length * bits);
  let next = new Float64Array(states);
  for (let k = 0; k < length; k++) {
    const e = evidence[k] as number;
    const quiet = still[k] === 1;
    const ifHeld = cost(e, true);
    const ifNew = cost(e, false);
    if (k > 0) {
      let best = 0;
      for (let s = 1; s < states; s++) if ((costs[s] as number) < (costs[best] as number)) best = s;
      switchedFrom[k] = best;
      const bestCost = (costs[best] as number) + SWITCH_COST;
      for (let i = 0; i < PATTERNS.length; i++) {
        const start = starts[i] as number;
        const size = (PATTERNS[i] as Pattern).cycle.length;
        const entry = bestCost + patternCost(PATTERNS[i] as Pattern);
        for (let phase = 0; phase < size; phase++) {
          const state = start + phase;
          const stayed = costs[start + ((phase + size - 1) % size)] as number;
          if (entry < stayed) {
            next[state] = entry;
            const at = k * bits + (state >> 3);
            switched[at] = (switched[at] as number) | (1 << (state & 7));
          } else next[state] = stayed;
        }
      }
      [costs, next] = [next, costs];
    }
    for (let s = 0; s < states; s++) {
      const isStill = owner[s] === 1;
      let price = heldIn[s] ? ifHeld : ifNew;
      if (strict[s]) price = max(0, heldIn[s] ? -e : e);
      if (isStill) price = ifHeld + (heldIn[s] ? 0.5 : 0);
      if (quiet) price = isStill ? 0 : 0.4;
      costs[s] = (costs[s] as number) + price;
    }
  }
  return traceBack({ costs, owner, starts, switchedFrom, switched, bits, length });
}

function traceBack({
  costs,
  owner,
  starts,
  switchedFrom,
  switched,
  bits,
  length,
}: {
  readonly costs: Float64Array;
  readonly owner: Uint8Array;
  readonly starts: readonly number[];
  readonly switchedFrom: Int32Array;
  readonly switched: Uint8Array;
  readonly bits: number;
  readonly length: number;
}): PatternRun[] {
  if (length === 0) return [];
  let state = 0;
  for (let s = 1; s < costs.length; s++) if ((costs[s] as number) < (costs[state] as number)) state = s;
  const runs: PatternRun[] = [];
  let to = length;
  for (let k = length - 1; k >= 0; k--) {
    const index = owner[state] as number;
    const p = PATTERNS[index] as Pattern;
    const start = starts[index] as number;
    const jumped = k === 0 || ((switched[k * bits + (state >> 3)] as number) & (1 << (state & 7))) !== 0;
    if (jumped) {
      runs.unshift({ pattern: p, from: k, to, phase: state - start });
      to = k;
      if (k > 0) state = switchedFrom[k] as number;
    } else {
      state = start + ((state - start + p.cycle.length - 1) % p.cycle.length);
    }
  }
  return runs;
}

/** The cost of one pattern, at its best phase, over a run of evidence: for weighing a verdict against its rivals. */
export function costOf(p: Pattern, evidence: Float64Array, from: number, to: number): number {
  let best = Number.POSITIVE_INFINITY;
  const strict = isStrict(p);
  for (let phase = 0; phase < p.cycle.length; phase++) {
    let sum = patternCost(p);
    for (let k = from; k < to && sum < best; k++) {
      sum += cost(evidence[k] as number, p.cycle[(phase + k - from) % p.cycle.length] as boolean, strict);
    }
    best = min(best, sum);
  }
  return best;
}
