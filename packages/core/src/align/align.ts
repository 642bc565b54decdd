import { type Line, likelyLines, RATIO_REACH } from './likely.js';
import { OUTLINE_RATE, type SoundOutline } from './outline.js';
import { MARGIN, PhaseCorrelator, readAtPace, sampleAt } from './phase.js';
import { type Solution, solveTies, type Tie, tieFault } from './solve.js';
import type { Strike } from './strikes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, ceil, floor, max, min, round } = Math;

/** A recording as it is aligned: its outline, and its samples where they are asked for. */
export interface Recording {
  readonly outline: SoundOutline;
  /** Mono samples at OUTLINE_RATE from one on; silence outside the recording. */
  read(from: number, count: number): Promise<Float32Array>;
}

/** A tie as the sounds propose it. */
export interface FoundTie extends Tie {
  /** Height of the correlation's peak over chance, in standard deviations. */
  readonly strength: number;
  /** It is at a strike. */
  readonly strike: boolean;
  /** Height of the peak over the next best near it. */
  readonly alone: number;
  /** A strike lies in what was compared. */
  readonly struck: boolean;
}

export interface Alignment {
  /** In order of time, free of faults. */
  readonly ties: readonly FoundTie[];
  readonly solution: Solution | null;
  /** That the two are recordings of one event, 0 to 1. */
  readonly certainty: number;
}

/** Seconds of sound compared at once where the speed is known, and around a strike. */
const WINDOW = 2.048;
const STRIKE_WINDOW = 0.4;
/** Part of a strike's window that lies before it. */
const LEAD = 0.1;
/** Least height of a peak that counts, and by how much it has to stand out from others near it: two claps that are not the same give 1.6 at most, the same one 5 in 0 dB of noise. */
const HEIGHT = 7.5;
const ALONE = 1.9;
/** Where a line is first tested, in addition to its strikes. */
const TRIED = 12;
const TRIED_STRIKES = 8;
/** Number of places in the final measurement, and of ties returned. */
const MEASURED = 36;
const TOLD = 14;
/** After this many consecutive rejected places, only strikes are tried. */
const REFUSED = 4;
/** Exact ties tell a speed when they span so many seconds: one of them may be so far off. */
const SPANNED = 1.5;
const EXACT = 0.0006;
/** Strength from which a strike's tie is past doubt. */
const CLEAR = 20;
/** The least an established speed is trusted to. */
const SURE = 2e-6;
/** Two measurings of one moment agree to this, in seconds. */
const AGREED = 0.0012;

/**
 * Aligns two recordings of one event by their sound: coarse relations from their outlines, each grown from where it was found outward by
 * exact correlation, the best measured once more along its whole length.
 * @param progress called with the share done, 0 to 1
 */
export async function alignSounds(
  a: Recording,
  b: Recording,
  progress: (done: number) => void = () => undefined,
): Promise<Alignment> {
  const correlator = new PhaseCorrelator();
  const lines = likelyLines(a.outline, b.outline);
  let best: Grown | null = null;
  for (const [i, line] of lines.entries()) {
    progress((0.7 * i) / lines.length);
    if (best && lies(best.ties, line)) continue;
    const grown = await grow(a, b, {
      correlator,
      start: line,
      places: placesOf(a.outline, b.outline, { line, spread: TRIED, strikes: TRIED_STRIKES }),
    });
    if (!best || grown.score > best.score) best = grown;
    // Nothing else will come near it.
    if (grown.ties.length >= 8 && grown.score > 200) break;
  }
  progress(0.75);
  if (!best || best.ties.length === 0) return { ties: [], solution: null, certainty: 0 };
  const places = placesOf(a.outline, b.outline, { line: best.line, spread: MEASURED, strikes: MEASURED });
  const grown = await grow(a, b, { correlator, start: best.line, places, known: best.ties });
  const ties = agreedTies(grown.ties);
  progress(1);
  return { ties, solution: solveTies(ties), certainty: certaintyOf(grown.ties) };
}

/** Whether a line is one that ties were found on already. */
function lies(ties: readonly FoundTie[], line: Line): boolean {
  if (ties.length < 2) return false;
  return ties.every((t) => {
    const away = t.a / 1e6 - line.x;
    return abs(t.b / 1e6 - line.y - line.ratio * away) < 0.06 + line.doubt * abs(away);
  });
}

interface CandidatePlace {
  readonly x: number;
  readonly strike: boolean;
}

interface Grown {
  readonly line: Line;
  readonly ties: readonly FoundTie[];
  readonly score: number;
}

/** Moments of a that b covers as well: evenly spread ones, and the strongest strikes that both have. */
function placesOf(
  a: SoundOutline,
  b: SoundOutline,
  { line, spread, strikes }: { readonly line: Line; readonly spread: number; readonly strikes: number },
): CandidatePlace[] {
  const [endA, endB] = [a.samples / OUTLINE_RATE, b.samples / OUTLINE_RATE];
  const from = max(0, line.x - line.y / line.ratio);
  const to = min(endA, line.x + (endB - line.y) / line.ratio);
  const half = WINDOW / 2;
  const even =
    to - from < WINDOW
      ? [(from + to) / 2]
      : Array.from({ length: spread }, (_, i) => from + half + ((to - from - WINDOW) * i) / max(1, spread - 1));
  const shared = a.strikes.filter((s) => s.seconds >= from && s.seconds <= to && nearStrike(b.strikes, line, s.seconds));
  const strongest = [...shared].sort((p, q) => q.strength - p.strength).slice(0, strikes);
  return [...even.map((x) => ({ x, strike: false })), ...strongest.map((s) => ({ x: s.seconds, strike: true }))];
}

function nearStrike(strikes: readonly Strike[], line: Line, x: number): boolean {
  const wanted = line.y + line.ratio * (x - line.x);
  const slack = 0.06 + line.doubt * abs(x - line.x);
  return strikes.some((s) => abs(s.seconds - wanted) < slack);
}

/** Follows a line from where it was found outward, its speed the surer the more ties there are. */
async function grow(
  a: Recording,
  b: Recording,
  {
    correlator,
    start,
    places,
    known = [],
  }: {
    readonly correlator: PhaseCorrelator;
    readonly start: Line;
    readonly places: readonly CandidatePlace[];
    readonly known?: readonly FoundTie[];
  },
): Promise<Grown> {
  const ties: FoundTie[] = [];
  let line = start;
  const outward = [{ x: line.x, strike: a.outline.strikes.some((s) => s.seconds === line.x) }, ...places].sort(
    (p, q) => abs(p.x - start.x) - abs(q.x - start.x),
  );
  let refused = 0;
  for (const place of outward) {
    // Where even the nearest places have nothing in common, strikes alone may.
    if (!place.strike && known.length === 0 && refused >= REFUSED) continue;
    const nearest = min(...[...known, ...ties].map((t) => abs(t.a / 1e6 - place.x)), abs(line.x - place.x));
    const reach = min(0.25, (known.length + ties.length > 0 ? AGREED : 0.06) + line.doubt * nearest);
    const tie = await measure(a, b, { correlator, line, place, reach });
    if (!tie) {
      refused++;
      // A line that two strikes gave falls with the first of them.
      if (place.strike && place.x === start.x && ties.length === 0) break;
      // Not even around itself: chance.
      if (ties.length === 0 && known.length === 0 && refused >= (line.doubt === RATIO_REACH ? 3 : 8)) break;
      continue;
    }
    if (!place.strike) refused = 0;
    if (ties.some((t) => abs(t.a - tie.a) < 20_000)) continue;
    ties.push(tie);
    line = refit(line, [...known.filter((k) => !ties.some((t) => abs(t.a - k.a) < 20_000)), ...ties]);
  }
  return { line, ties, score: ties.reduce((sum, t) => sum + min(40, t.strength), 0) };
}

function refit(line: Line, ties: readonly FoundTie[]): Line {
  const inOrder = [...ties].sort((p, q) => p.a - q.a);
  const span = ((inOrder.at(-1)?.a ?? 0) - (inOrder[0]?.a ?? 0)) / 1e6;
  const solution = solveTies(inOrder, SPANNED * 1e6);
  if (!solution) return line;
  // Ties close together give the place, not yet the speed.
  const speed = solution.drifts ? solution.ratio.num / solution.ratio.den : line.ratio;
  const kept = inOrder.filter((_, i) => !solution.outliers.includes(i));
  const x = kept.reduce((sum, t) => sum + t.a, 0) / kept.length / 1e6;
  const y = kept.reduce((sum, t) => sum + t.b, 0) / kept.length / 1e6;
  const doubt = solution.drifts ? min(line.doubt, max(SURE, EXACT / span)) : line.doubt;
  return { ...line, x, y, ratio: speed, doubt };
}

/** Speeds tried where it is not known, apart from each other by as much as a short window bears. */
const PACES = Array.from({ length: 9 }, (_, i) => ((i - 4) / 4) * RATIO_REACH);

/** The exact place of a moment of a in b; null where nothing there stands out. */
async function measure(
  a: Recording,
  b: Recording,
  {
    correlator,
    line,
    place,
    reach,
  }: { readonly correlator: PhaseCorrelator; readonly line: Line; readonly place: CandidatePlace; readonly reach: number },
): Promise<FoundTie | null> {
  const unsure = line.doubt > 2e-4;
  const seconds = place.strike ? STRIKE_WINDOW : unsure ? WINDOW / 2 : WINDOW;
  const count = sampleAt(seconds);
  const lead = place.strike ? LEAD : seconds / 2;
  const wanted = line.y + line.ratio * (place.x - line.x);
  const fromA = sampleAt(place.x - lead);
  const x = fromA / OUTLINE_RATE;
  const windowA = await a.read(fromA, count);
  const startB = (wanted + line.ratio * (x - place.x)) * OUTLINE_RATE;
  const baseB = floor(startB) - MARGIN;
  const aroundB = await b.read(baseB, ceil(count * (1 + RATIO_REACH)) + 2 * MARGIN + 2);
  let found: FoundTie | null = null;
  for (const pace of unsure && !place.strike ? PACES.map((p) => 1 + p) : [line.ratio]) {
    // The moment itself stays where it is; what is around it is read at the pace.
    const start = startB + (line.ratio - pace) * (place.x - x) * OUTLINE_RATE;
    const lag = correlator.lag(windowA, readAtPace(aroundB, { base: baseB, start, pace, count }), reach);
    if (!lag || lag.height < HEIGHT || lag.alone < ALONE || lag.height <= (found?.strength ?? 0)) continue;
    const at = start / OUTLINE_RATE + pace * (place.x - x) + lag.seconds;
    const struck = a.outline.strikes.some((s) => s.seconds > x && s.seconds < x + seconds);
    found = { a: round(place.x * 1e6), b: round(at * 1e6), strength: lag.height, alone: lag.alone, strike: place.strike, struck };
  }
  return found;
}

/** The ties a person is shown: those that agree, spread over the whole length, strikes first. */
function agreedTies(ties: readonly FoundTie[]): FoundTie[] {
  const inOrder = [...ties].sort((p, q) => p.a - q.a);
  const solution = solveTies(inOrder);
  if (!solution) return [];
  const agreed = endedByStrikes(
    inOrder.filter((_, i) => !solution.outliers.includes(i) && abs(solution.leftOver[i] as number) < 3 * AGREED),
  );
  const [first, last] = [agreed[0], agreed.at(-1)];
  if (!first || !last) return [];
  const zones = new Map<number, FoundTie>();
  for (const tie of agreed) {
    const zone = min(TOLD - 1, floor(((tie.a - first.a) / max(1, last.a - first.a)) * TOLD));
    const other = zones.get(zone);
    if (!other || worth(tie) > worth(other)) zones.set(zone, tie);
  }
  const out = [...zones.values()].sort((p, q) => p.a - q.a);
  return tieFault(out) ? [] : out;
}

/** Share of the length by which a clear strike may lie within the outermost tie and still be the end. */
const NEAR_END = 0.2;

/** The ends are what is looked at: a clear strike near one takes the place of what lies beyond it. */
function endedByStrikes(ties: readonly FoundTie[]): readonly FoundTie[] {
  const clear = ties.filter((t) => t.strike && t.strength >= CLEAR);
  const [first, last] = [ties[0]?.a ?? 0, ties.at(-1)?.a ?? 0];
  const reach = NEAR_END * (last - first);
  const from = clear.find((t) => t.a <= first + reach)?.a ?? first;
  const to = clear.findLast((t) => t.a >= last - reach)?.a ?? last;
  return ties.filter((t) => t.a >= from && t.a <= to);
}

/** A clear strike is what a person can see and hear for a tie: it comes before any stretch of common sound. */
function worth(tie: FoundTie): number {
  return tie.strength + (tie.strike && tie.strength >= CLEAR ? 1000 : 0);
}

/** By how much a tie of such a strength leaves it to chance: claps look alike, so that strikes have to be stronger. */
const CHANCE: readonly { readonly from: number; readonly struck: number; readonly even: number }[] = [
  { from: 30, struck: 0.2, even: 0.1 },
  { from: 22, struck: 0.5, even: 0.15 },
  { from: 12, struck: 0.95, even: 0.3 },
  { from: 0, struck: 1, even: 0.6 },
];

/** One weak tie may be chance; each further one that agrees makes that less likely. */
function certaintyOf(ties: readonly FoundTie[]): number {
  const solution = solveTies([...ties].sort((p, q) => p.a - q.a));
  let chance = 1;
  ties.forEach((tie, i) => {
    if (solution?.outliers.includes(i)) return;
    const row = CHANCE.find((c) => tie.strength >= c.from);
    chance *= (tie.strike || tie.struck ? row?.struck : row?.even) ?? 1;
  });
  return 1 - chance;
}
